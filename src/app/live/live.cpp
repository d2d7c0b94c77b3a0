// A timer empties the session's rings at the rate of the display, or less often where pictures have become
// dear, and emits moved() once for all that happened. Between the closing of a document and the first sign of
// the next, what arrives belongs to nobody and is dropped.
#include "app/live/live.h"

#include <algorithm>
#include <utility>

#include "app/ground/words.h"

namespace mellow::app {

namespace {

constexpr int shortestInterval = 17;    // ms; with what moves between, sixty pictures a second
constexpr int longestInterval = 50;     // ms
constexpr double paintingShare = 0.07;  // of one core
constexpr int restInterval = 33;        // ms, while nothing moves
constexpr int rateInterval = 500;       // ms
constexpr double fade = 0.92;           // of activity, a picture
constexpr double gone = 0.02;           // activity that nobody sees
constexpr double touched = 0.35;        // activity by a message that is no note

double activityOf(midi::Bytes bytes) {
    if (midi::isNoteOn(bytes)) return 0.3 + 0.7 * bytes[2] / midi::max7;
    return midi::isChannelStatus(bytes[0]) ? touched : 0.0;
}

}  // namespace

Live::Live(Document& document, Options options, QObject* parent)
    : QObject(parent), document_(document), session_(std::move(options)) {
    session_.rememberWires(machine_.table().wires);
    session_.openDesk(machine_.isDeskOpen());
    follow();
    session_.recorder().start();
    session_.start();
    session_.onChange([this] { QMetaObject::invokeMethod(this, &Live::tend, Qt::QueuedConnection); });
    connect(&document_, &Document::changed, this, &Live::follow);
    connect(&document_, &Document::stateChanged, this, &Live::letListen);
    connect(&document_, &Document::replaced, this, [this] {
        closing_ = true;
        isJudged_ = false;
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
    judgeDocument();
    openNetworks();
    session_.play(document_.ensemble());
}

std::vector<std::string> Live::oscPorts() const {
    std::vector<std::string> ports = io::wishesOf(document_.ensemble()).inputs;
    std::erase_if(ports, [](const std::string& port) { return !io::isOscPort(port); });
    return ports;
}

/// A document that listens to the network when it is opened may be somebody else's, who knows which ports are
/// open here: a person says of each once that it may. What a person adds later is their own.
void Live::judgeDocument() {
    if (std::exchange(isJudged_, true)) return;
    unheard_.clear();
    QStringList open;
    for (const std::string& port : oscPorts()) {
        if (machine_.mayListen(document_.path(), toQt(port))) continue;
        unheard_.insert(port);
        if (machine_.network(toQt(port)) != toQt(io::thisMachine)) open << toQt(port);
    }
    if (open.isEmpty()) return;
    emit troubled(tr("This ensemble listens at %1, and is heard from this machine only. Where it is yours, "
                     "open the port to a network, on Gear.")
                      .arg(open.join(tr(" and "))));
}

/// What a document is heard at stays so when it is saved, under whatever name.
void Live::letListen() {
    if (!isJudged_ || document_.path().isEmpty()) return;
    for (const std::string& port : oscPorts()) {
        if (!unheard_.contains(port)) machine_.letListen(document_.path(), toQt(port));
    }
}

QString Live::network(const std::string& port) const {
    const bool isTablets = port == io::usualOscPort && machine_.isDeskOpen();
    return unheard_.contains(port) && !isTablets ? toQt(io::thisMachine) : machine_.network(toQt(port));
}

void Live::openNetworks() {
    session_.openOsc(std::string(io::usualOscPort), network(std::string(io::usualOscPort)).toStdString());
    for (const Controller& controller : document_.ensemble().controllers) {
        if (io::isOscPort(controller.port))
            session_.openOsc(controller.port, network(controller.port).toStdString());
    }
}

void Live::preview(const Ensemble* ensemble) {
    if (ensemble == nullptr && !previewing_) return;
    previewing_ = ensemble != nullptr;
    session_.play(ensemble != nullptr ? *ensemble : document_.ensemble());
}

void Live::place(const Placements& placements) {
    if (placements.empty()) return;
    session_.play(document_.ensemble(), placements);
    for (const Placement& each : placements)
        put_[each.owner][each.chain][each.branch] = {each.position,
                                                     session_.reading(each.owner, each.chain).position};
    emit moved();
    emit movedAtAGlance();
}

ChainReading Live::reading(const std::string& instrument, const std::string& chain) const {
    ChainReading reading = session_.reading(instrument, chain);
    const auto owner = put_.find(instrument);
    if (owner == put_.end()) return reading;
    const auto branches = owner->second.find(chain);
    if (branches == owner->second.end()) return reading;
    for (const auto& [branch, put] : branches->second) {
        if (branch < reading.values.size() && put.source == reading.position)
            reading.values[branch] = put.position;
    }
    return reading;
}

/// What a hand, or anything else, has moved since stands where that says. Asked of those who sent something.
void Live::forgetPut(const std::string& owner) {
    const auto found = put_.find(owner);
    if (found == put_.end()) return;
    std::erase_if(found->second, [&](const auto& chain) {
        const double source = session_.reading(owner, chain.first).position;
        return std::any_of(chain.second.begin(), chain.second.end(),
                           [source](const auto& each) { return each.second.source != source; });
    });
    if (found->second.empty()) put_.erase(found);
}

void Live::setNetwork(const std::string& port, const QString& address) {
    machine_.setNetwork(toQt(port), address);
    if (address != toQt(io::thisMachine)) {
        unheard_.erase(port);
        machine_.letListen(document_.path(), toQt(port));
    }
    openNetworks();
    session_.openOsc(port, network(port).toStdString());
    emit statusChanged();
}

QString Live::listeningText(const std::string& port) const {
    for (const io::OscLink::Listening& each : session_.oscListening()) {
        if (each.name != port) continue;
        const QString where = each.address == io::thisMachine   ? tr("Heard from this machine only")
                              : each.address == io::allNetworks ? tr("Heard from every network")
                                                                : tr("Heard at %1").arg(toQt(each.address));
        return each.lastFrom.empty() ? tr("%1; nobody has sent anything yet.").arg(where)
                                     : tr("%1; last used by %2.").arg(where, toQt(each.lastFrom));
    }
    return {};
}

void Live::openDesk(bool on) {
    machine_.setDeskOpen(on);
    openNetworks();
    session_.openDesk(on);
    emit statusChanged();
}

io::PortFilter Live::filter(const std::string& port) const {
    return machine_.table().filter(port);
}

void Live::setFilter(const std::string& port, const io::PortFilter& filter) {
    machine_.change([port, filter](io::MachineTable& table) { table.setFilter(port, filter); });
    session_.setFilter(port, filter);
    emit statusChanged();
}

void Live::setRate(const std::string& port, int bytesASecond) {
    machine_.change([port, bytesASecond](io::MachineTable& table) { table.setRate(port, bytesASecond); });
    session_.setRate(port, bytesASecond);
    emit statusChanged();
}

void Live::connectPorts(const io::Wire& wire) {
    session_.connect(wire);
    tend();
}

void Live::disconnectPorts(const io::Wire& wire) {
    session_.disconnect(wire);
    tend();
}

bool Live::waitsFor(const std::string& port, bool input) const {
    const bool inside =
        port.empty() || port == anyPort || port == io::practiceKeysPort || port == io::practiceRackPort;
    return !inside && !connected_.contains({input, port});
}

/// Who is connected is looked at now and then, since JACK tells of it from its own threads.
void Live::tend() {
    std::set<std::pair<bool, std::string>> connected;
    for (const io::PortState& port : session_.present()) {
        if (port.connected) connected.emplace(port.input, port.name);
    }
    const bool others = connected != connected_;
    connected_ = std::move(connected);
    if (others) emit statusChanged();
    if (session_.tend()) {
        session_.heed(machine_.table());
        emit statusChanged();
    }
    if (std::vector<io::Wire> now = session_.wires(); now != machine_.table().wires) {
        machine_.change([now](io::MachineTable& table) { table.wires = now; });
        emit statusChanged();
    }
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

double Live::activity(const std::string& instrument) const {
    const auto number = session_.instrumentNumber(instrument);
    const auto found = number ? activity_.find(*number) : activity_.end();
    return found == activity_.end() ? 0.0 : found->second;
}

/// True when something came in or went out.
bool Live::takeWhatHappened() {
    bool any = false;
    // What still comes of a document that was closed is nobody's any more.
    const bool closing = closing_;
    const auto count = [&](bool out, std::uint32_t instrument, double level) {
        any = true;
        (out ? outCount_ : inCount_) += 1;
        if (out) activity_[instrument] = std::max(activity_[instrument], level);
    };
    session_.watch(
        [&](const io::Happening& happening) {
            if (closing) return;
            count(happening.out, happening.instrument, activityOf(happening.message.bytes()));
            if (happening.made && !put_.empty()) senders_.insert(happening.instrument);
            emit happened(happening);
        },
        [&](const io::OscHappening& happening) {
            if (closing) return;
            count(happening.out, happening.instrument, touched);
            emit happenedByOsc(happening);
        });
    if (closing && session_.playsNewest()) closing_ = false;
    return any;
}

/// True while some activity is still to be seen.
bool Live::fadeActivity() {
    bool fading = false;
    for (auto& [instrument, level] : activity_) {
        if (level <= 0) continue;
        level = level * fade < gone ? 0.0 : level * fade;
        fading = true;
    }
    return fading;
}

void Live::lookAtTransport() {
    constexpr engine::Time same = 2000;  // µs: a torn reading is a cycle off for one look
    const io::Player::Transport now = session_.transport();
    const bool elsewhere = now.rolling ? std::abs(now.origin - transport_.origin) > same
                                       : std::abs(now.position - transport_.position) > same;
    const bool moved = now.rolling != transport_.rolling || elsewhere;
    transport_ = now;
    if (moved) emit transportMoved();
}

void Live::look() {
    lookAtTransport();
    const bool any = takeWhatHappened();
    const bool another = session_.playsAnother();
    const bool fading = fadeActivity();
    for (const std::uint32_t sender : std::exchange(senders_, {}))
        forgetPut(std::string(instrumentId(sender)));
    if (any) forgetPut(sharedOwner);
    const std::int64_t position = session_.takePosition();
    if (position < 0 && lastTakePosition_ >= 0) emit takeEnded();
    lastTakePosition_ = position;
    const std::pair tempo(session_.tempo(), session_.tempoFrom());
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
    for (const std::string& loop : session_.loopsCut()) emit troubled(toQt(loop) + QLatin1Char('.'));
    if (std::exchange(notesRefused_, session_.notesRefused()) != session_.notesRefused())
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
