// A timer empties the player's rings at the rate of the display, or less often where pictures have become
// dear, and emits moved() once for all that happened. Readings come straight from the numbers that the
// playing thread leaves in the program. Between the closing of a document and the first sign of the next,
// what arrives belongs to nobody and is dropped.
#include "app/live.h"

#include "app/practice_sound.h"
#include "core/model/law.h"
#include "io/clock_backend.h"
#include "io/jack_backend.h"

namespace mellow::app {

namespace {

constexpr int shortestInterval = 16;    // ms, about sixty pictures a second
constexpr int longestInterval = 50;     // ms
constexpr double paintingShare = 0.06;  // of one core
constexpr int restInterval = 33;        // ms, while nothing moves
constexpr int rateInterval = 500;       // ms
constexpr double fade = 0.92;           // of activity, a picture
constexpr double touched = 0.35;        // activity by a message that is no note

}  // namespace

Live::Live(Document& document, Options options, QObject* parent)
    : QObject(parent),
      document_(document),
      options_(std::move(options)),
      osc_(player_),
      keysPort_(player_.portId(io::practiceKeysPort)) {
    player_.onRack([this](const midi::Short& message) {
        if (io::PracticeRack* rack = rackForPlayer_.load(std::memory_order_acquire)) rack->push(message);
    });
    follow();
    startBackend();
    connect(&document_, &Document::changed, this, &Live::follow);
    connect(&document_, &Document::replaced, this, [this] {
        closing_ = true;
        activity_.clear();
    });
    connect(&look_, &QTimer::timeout, this, &Live::look);
    connect(&rates_, &QTimer::timeout, this, &Live::countRates);
    look_.setTimerType(Qt::PreciseTimer);
    look_.start(restInterval);
    rates_.start(rateInterval);
}

Live::~Live() {
    backend_->stop();
    if (rackOpener_.joinable()) rackOpener_.join();
}

void Live::startBackend() {
    if (options_.jack) {
        backend_ = std::make_unique<io::JackBackend>();
        backend_->wantPorts(io::portsOf(document_.ensemble()));
        if (backend_->start(player_)) return;
    }
    backend_ = std::make_unique<io::ClockBackend>();
    (void)backend_->start(player_);
}

void Live::openRack() {
    if (rackOpener_.joinable()) return;
    rackOpener_ = std::thread([this] {
        io::RackOptions wanted;
        wanted.soundfont = options_.soundfont;
        wanted.soundCard = options_.soundCard;
        auto opened =
            std::make_shared<Result<std::unique_ptr<io::PracticeRack>>>(io::PracticeRack::open(wanted));
        QMetaObject::invokeMethod(this, [this, opened] {
            if (*opened) {
                rack_ = std::move(**opened);
                applySounds();
                rackForPlayer_.store(rack_.get(), std::memory_order_release);
            } else {
                rackProblem_ = opened->problem();
            }
            emit statusChanged();
        });
    });
}

void Live::follow() {
    player_.play(document_.ensemble());
    if (backend_) backend_->wantPorts(io::portsOf(document_.ensemble()));
    const std::size_t problems = osc_.problems().size();
    osc_.wantPorts(io::oscPortsOf(document_.ensemble()));
    if (osc_.problems().size() != problems) emit statusChanged();
    applySounds();
}

void Live::applySounds() {
    if (!rack_) return;
    for (const Instrument& instrument : document_.ensemble().instruments) {
        const bool onRack = instrument.output.port == io::practiceRackPort;
        if (onRack && instrument.output.channel >= 1 && instrument.output.channel <= 16) {
            rack_->setSound(instrument.output.channel - 1, practiceSound(instrument));
        }
    }
}

void Live::send(const midi::Short& message) {
    player_.send(keysPort_, message);
}
void Live::sendTo(std::string_view port, const midi::Short& message) {
    player_.send(player_.portId(port), message);
}
void Live::silenceAll() {
    player_.silenceAll();
}
void Live::startTake(std::shared_ptr<const Take> take) {
    lastTakePosition_ = 0;
    player_.startTake(std::move(take));
}
void Live::stopTake() {
    player_.stopTake();
}

void Live::pictureTook(double milliseconds) {
    constexpr double newest = 0.1;
    pictureCost_ += newest * (milliseconds - pictureCost_);
}

void Live::index() {
    const engine::Program& program = player_.shown();
    if (indexed_ == &program) return;
    indexed_ = &program;
    chains_.clear();
    for (std::size_t c = 0; c < program.plan.chains.size(); ++c) {
        const engine::PlanChain& chain = program.plan.chains[c];
        const std::string& owner =
            chain.part == engine::none
                ? sharedOwner
                : program.plan.numbering.instruments.name(program.plan.parts[chain.part].name);
        chains_[owner + "/" + chain.body->written->id] = c;
    }
}

ChainReading Live::reading(const std::string& instrument, const std::string& chain) const {
    ChainReading reading;
    const auto found = chains_.find(instrument + "/" + chain);
    if (indexed_ != &player_.shown() || found == chains_.end()) return reading;
    const engine::Program& program = player_.shown();
    const engine::PlanChain& compiled = program.plan.chains[found->second];
    const engine::ChainLive& live = program.state.chainLive[found->second];
    const engine::Ear& ear = program.plan.ears[compiled.firstEar];
    reading.runs = true;
    const int raw = live.raw.load(std::memory_order_relaxed);
    const float source = live.source.load(std::memory_order_relaxed);
    reading.spoken = raw >= 0 || source >= 0;
    reading.fed = live.fed.load(std::memory_order_relaxed);
    if (ear.max > 0) {
        reading.position = raw >= 0 ? decode(ear.scale, raw, ear.max) : ear.rest;
        reading.raw = raw >= 0 ? raw : encode(ear.scale, ear.rest, ear.max);
    } else {
        reading.position = reading.spoken ? source : ear.rest;
    }
    // Steps that the player may be evaluating have memory of their own; the written ones are nobody's.
    const std::span<const Step> settling =
        compiled.isEvaluated() ? compiled.body->written->steps : compiled.steps();
    reading.result = reading.spoken && compiled.isEvaluated() ? live.result.load(std::memory_order_relaxed)
                                                              : settledPosition(settling, reading.position);
    for (std::uint32_t b = 0; b < compiled.branchCount; ++b)
        reading.values.push_back(engine::presentPosition(program, compiled, b, raw));
    return reading;
}

double Live::activity(const std::string& instrument) const {
    const auto number = player_.names().instruments.find(instrument);
    const auto found = number ? activity_.find(*number) : activity_.end();
    return found == activity_.end() ? 0.0 : found->second;
}

void Live::look() {
    bool any = false;
    // What still comes of a document that was closed is nobody's any more.
    const bool closing = closing_;
    player_.watch([&](const io::Happening& happening) {
        if (closing) return;
        any = true;
        (happening.out ? outCount_ : inCount_) += 1;
        if (happening.out) {
            const midi::Bytes bytes = happening.message.bytes();
            double& level = activity_[happening.instrument];
            const bool note = midi::isNoteOn(bytes);
            level = std::max(level, note                              ? 0.3 + 0.7 * bytes[2] / midi::max7
                                    : midi::isChannelStatus(bytes[0]) ? touched
                                                                      : 0.0);
        }
        emit happened(happening);
    });
    player_.watchOsc([&](const io::OscHappening& happening) {
        if (closing) return;
        any = true;
        (happening.out ? outCount_ : inCount_) += 1;
        if (happening.out)
            activity_[happening.instrument] = std::max(activity_[happening.instrument], touched);
        emit happenedByOsc(happening);
    });
    if (closing && player_.showsNewest()) closing_ = false;
    const engine::Program* before = indexed_;
    index();
    bool fading = false;
    for (auto& [instrument, level] : activity_) {
        if (level <= 0) continue;
        level = level * fade < 0.02 ? 0.0 : level * fade;
        fading = true;
    }
    const std::int64_t position = player_.takePosition();
    if (position < 0 && lastTakePosition_ >= 0) emit takeEnded();
    lastTakePosition_ = position;
    if (any || fading || position >= 0 || before != indexed_) {
        const int interval =
            std::clamp(static_cast<int>(pictureCost_ / paintingShare), shortestInterval, longestInterval);
        if (std::abs(look_.interval() - interval) > 1) look_.setInterval(interval);
        emit moved();
    } else if (look_.interval() != restInterval) {
        look_.setInterval(restInterval);
    }
}

void Live::countRates() {
    if (!backend_->alive()) {
        backend_->stop();
        options_.jack = false;
        startBackend();
        emit statusChanged();
    }
    if (std::exchange(notesRefused_, player_.notesRefused()) != player_.notesRefused()) emit statusChanged();
    const int in = std::exchange(inCount_, 0) * 1000 / rateInterval;
    const int out = std::exchange(outCount_, 0) * 1000 / rateInterval;
    if (in == inRate_ && out == outRate_) return;
    inRate_ = in;
    outRate_ = out;
    emit ratesChanged();
}

QString Live::status() const {
    QString ports = QString::fromStdString(backend_->status());
    for (const Problem& problem : osc_.problems())
        ports += QStringLiteral(" · ") + QString::fromStdString(problem.sentence());
    if (notesRefused_ > 0)
        ports += QStringLiteral(" · ") +
                 tr("%1 notes were not started: more keys are held than can be remembered; press Silence all")
                     .arg(notesRefused_);
    if (rackProblem_) return ports + QStringLiteral(" · ") + QString::fromStdString(rackProblem_->sentence());
    return ports + QStringLiteral(" · ") +
           (rack_ ? QString::fromStdString(rack_->status()) : tr("Practice rack: opening"));
}

}  // namespace mellow::app
