// A timer empties the session's rings at the rate of the display, or less often where pictures have become
// dear, and emits moved() once for all that happened. Between the closing of a document and the first sign of
// the next, what arrives belongs to nobody and is dropped.
#include "app/live/live.h"

#include <algorithm>
#include <utility>

#include "app/ground/words.h"

namespace mellow::app {

namespace {

constexpr int shortestInterval = 18;    // ms; with what moves between, sixty pictures a second
constexpr int longestInterval = 50;     // ms
constexpr double paintingShare = 0.07;  // of one core
constexpr int restInterval = 33;        // ms, while nothing moves
constexpr int rateInterval = 500;       // ms

}  // namespace

Live::Live(Document& document, Options options, QObject* parent)
    : QObject(parent),
      document_(document),
      session_(std::move(options)),
      ports_(document, session_.cabling()) {
    connect(&ports_, &MachinePorts::changed, this, &Live::statusChanged);
    connect(&ports_, &MachinePorts::troubled, this, &Live::troubled);
    const auto hear = [this] { session_.hearRackThrough(ports_.sound()); };
    connect(&ports_, &MachinePorts::soundChosen, this, hear);
    hear();
    follow();
    session_.recorder().start();
    session_.start();
    session_.onChange([this] { QMetaObject::invokeMethod(this, &Live::tend, Qt::QueuedConnection); });
    connect(&document_, &Document::changed, this, &Live::follow);
    connect(&document_, &Document::replaced, this, [this] {
        closing_ = true;
        ports_.judgeAnew();
        put_.clear();
        activity_.clear();
    });
    connect(&look_, &QTimer::timeout, this, &Live::look);
    connect(&rates_, &QTimer::timeout, this, &Live::countRates);
    look_.setTimerType(Qt::PreciseTimer);
    look_.start(restInterval);
    rates_.start(rateInterval);
    tend();
}

void Live::follow() {
    previewing_ = false;
    // From where it is heard is known before anything is opened.
    ports_.openNetworks();
    session_.play(document_.ensemble());
}

void Live::preview(const Ensemble* ensemble) {
    if (ensemble == nullptr && !previewing_) return;
    previewing_ = ensemble != nullptr;
    session_.play(ensemble != nullptr ? *ensemble : document_.ensemble());
}

double Live::sourceOf(const std::string& owner, const std::string& chain) const {
    return readings().chain(owner, chain).position;
}

void Live::place(const Placements& placements) {
    if (placements.empty()) return;
    session_.play(document_.ensemble(), placements);
    put_.remember(placements,
                  [this](const auto& owner, const auto& chain) { return sourceOf(owner, chain); });
    emit moved();
    emit movedAtAGlance();
}

ChainReading Live::reading(const std::string& instrument, const std::string& chain) const {
    ChainReading reading = readings().chain(instrument, chain);
    put_.show(instrument, chain, reading);
    return reading;
}

double Live::activity(const std::string& instrument) const {
    const auto number = readings().instrumentNumber(instrument);
    return number ? activity_.level(*number) : 0.0;
}

void Live::tend() {
    ports_.look(session_.tend());
}

void Live::startTake(std::shared_ptr<const Take> take, const io::TakeRun& run) {
    lastTakePosition_ = run.from;
    // Chasing plays the take from its start; of a long one that takes too long to be waited for.
    constexpr std::size_t mostChased = 400'000;  // events
    constexpr std::int64_t longestChased = std::int64_t{30} * 60 * 1'000'000;
    const bool chases = !previewing_ && take->placeAt(run.from) <= mostChased && run.from <= longestChased;
    session_.startTake(std::move(take), run, chases ? &document_.ensemble() : nullptr);
}

void Live::pictureTook(double milliseconds) {
    constexpr double newest = 0.1;
    pictureCost_ += newest * (milliseconds - pictureCost_);
}

/// True when something came in or went out.
bool Live::takeWhatHappened() {
    bool any = false;
    // What still comes of a document that was closed is nobody's any more.
    const bool closing = closing_;
    const auto count = [&](bool out, std::uint32_t instrument, midi::Bytes message) {
        any = true;
        (out ? outCount_ : inCount_) += 1;
        if (out) activity_.add(instrument, message);
    };
    session_.readings().watch(
        [&](const io::Happening& happening) {
            if (closing) return;
            count(happening.out, happening.instrument, happening.message.bytes());
            if (happening.made && put_.any()) senders_.insert(happening.instrument);
            emit happened(happening);
            if (!happening.out) emit cameIn(happening);
        },
        [&](const io::OscHappening& happening) {
            if (closing) return;
            count(happening.out, happening.instrument, {});
            emit happenedByOsc(happening);
        });
    if (closing && readings().playsNewest()) closing_ = false;
    return any;
}

void Live::lookAtTransport() {
    constexpr engine::Time same = 2000;  // µs: a torn reading is a cycle off for one look
    const io::Transport now = readings().transport();
    const bool elsewhere = now.rolling ? std::abs(now.origin - transport_.origin) > same
                                       : std::abs(now.position - transport_.position) > same;
    const bool moved = now.rolling != transport_.rolling || elsewhere;
    transport_ = now;
    if (moved) emit transportMoved();
}

void Live::look() {
    lookAtTransport();
    const bool any = takeWhatHappened();
    const bool another = session_.readings().playsAnother();
    const bool fading = activity_.fade();
    const auto stands = [this](const auto& owner, const auto& chain) { return sourceOf(owner, chain); };
    for (const std::uint32_t sender : std::exchange(senders_, {}))
        put_.forgetMoved(std::string(readings().instrumentId(sender)), stands);
    if (any) put_.forgetMoved(sharedOwner, stands);
    const std::int64_t position = readings().takePosition();
    if (position < 0 && lastTakePosition_ >= 0) emit takeEnded();
    lastTakePosition_ = position;
    const std::pair tempo(readings().tempo(), readings().tempoFrom());
    if (std::exchange(tempo_, tempo) != tempo) emit tempoChanged();
    const bool moving = any || fading || position >= 0 || another;
    setRhythm(moving);
    if (moving) emit moved();
    if (std::exchange(glances_, moving && !glances_)) emit movedAtAGlance();
}

/// How often to look: as often as pictures can be had at a fair share of the processor, or, at rest, as a
/// start needs.
void Live::setRhythm(bool moving) {
    const int dear = static_cast<int>(pictureCost_ / paintingShare);
    const int interval = moving ? std::clamp(dear, shortestInterval, longestInterval) : restInterval;
    if (std::abs(look_.interval() - interval) > (moving ? 1 : 0)) look_.setInterval(interval);
}

void Live::countRates() {
    tend();
    for (const std::string& loop : session_.readings().loopsCut())
        emit troubled(toQt(loop) + QLatin1Char('.'));
    if (std::exchange(notesRefused_, readings().notesRefused()) != readings().notesRefused())
        emit statusChanged();
    const int in = std::exchange(inCount_, 0) * 1000 / rateInterval;
    const int out = std::exchange(outCount_, 0) * 1000 / rateInterval;
    if (in == inRate_ && out == outRate_) return;
    inRate_ = in;
    outRate_ = out;
    emit ratesChanged();
}

QStringList Live::status() const {
    QStringList phrases;
    for (const std::string& phrase : session_.status()) phrases << toQt(phrase);
    if (notesRefused_ > 0) {
        phrases << tr("%n note(s) not started: more keys are held than can be remembered; press Silence all",
                      nullptr, static_cast<int>(notesRefused_));
    }
    return phrases;
}

}  // namespace mellow::app
