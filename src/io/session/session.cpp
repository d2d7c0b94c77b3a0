// Clocks are tried in order of how good they are, and the next one takes over when the one that runs is gone;
// ports stay joined to the patchbay whichever of them drives.
#include "io/session/session.h"

#include <algorithm>

#include "io/sound/practice_sound.h"

namespace mellow::io {

Session::Session(Options options)
    : options_(std::move(options)),
      patchbay_(player_),
      jack_(options_.server),
      keysPort_(player_.portId(practiceKeysPort)) {
    if (options_.jack) clocks_.push_back(&jack_);
    clocks_.push_back(&silence_);
    ports_ = {&rack_, &osc_};
    if (options_.jack) ports_.push_back(&jack_);
    if (options_.alsa) ports_.push_back(&alsa_);
    for (Ports* ports : ports_) {
        patchbay_.add(*ports);
        ports->onChange([this] {
            const std::lock_guard lock(telling_);
            changed_ = true;
            if (tell_) tell_();
        });
    }
}

Session::~Session() {
    onChange({});
    finish();
    if (rackOpener_.joinable()) rackOpener_.join();
}

void Session::onChange(std::function<void()> tell) {
    const std::lock_guard lock(telling_);
    tell_ = std::move(tell);
}

void Session::start() {
    if (clock_ == nullptr) startClock();
}

void Session::finish() {
    if (clock_ == nullptr) return;
    player_.silenceAll();
    // Whoever listens on JACK hears a period in the one after it.
    constexpr int cyclesToBeHeard = 3;
    constexpr std::chrono::milliseconds patience(200);
    patchbay_.awaitCycles(cyclesToBeHeard, patience);
    clock_->stop();
    clock_ = nullptr;
}

void Session::startClock() {
    for (Clock* clock : clocks_) {
        if (!clock->start(patchbay_)) continue;
        clock_ = clock;
        return;
    }
}

bool Session::tend() {
    bool changed = false;
    std::optional<Result<std::unique_ptr<PracticeRack>>> opened;
    {
        const std::lock_guard lock(telling_);
        changed = std::exchange(changed_, false);
        opened.swap(openedRack_);
    }
    if (opened) {
        rackOpener_.join();
        rack_.opened(std::move(*opened));
        applySounds();
        changed = true;
    }
    changed = tendClock() || changed;
    const bool waits = jack_.isWaiting();
    changed = std::exchange(jackWaits_, waits) != waits || changed;
    patchbay_.tend();
    return changed;
}

/// Another clock drives when the one that ran is gone, or a better one is there.
bool Session::tendClock() {
    constexpr std::chrono::milliseconds between(400);
    if (clock_ == nullptr) return false;
    const auto now = std::chrono::steady_clock::now();
    bool change = !clock_->alive();
    // A server that was asked is looked after until it has answered.
    if (!change && clock_ != clocks_.front() && (now >= nextTry_ || jack_.isAsking())) {
        change = clocks_.front()->available();
        nextTry_ = now + between;
    }
    if (!change) return false;
    clock_->stop();
    startClock();
    return true;
}

void Session::play(const Ensemble& ensemble, const Placements& placements) {
    Placements all =
        left_.follow(ensemble, [this](const auto& owner, const auto& chain, std::uint32_t branch) {
            const ChainReading stood = reading(owner, chain);
            return branch < stood.values.size() ? stood.values[branch] : -1.0;
        });
    all.insert(all.end(), placements.begin(), placements.end());
    player_.play(ensemble, all);
    wishes_ = wishesOf(ensemble, player_.hearsOsc());
    want();
    std::vector<std::pair<int, int>> sounds;
    for (const Instrument& instrument : ensemble.instruments) {
        const int channel = instrument.output.channel;
        if (instrument.output.port == practiceRackPort && channel >= 1 && channel <= 16)
            sounds.emplace_back(channel - 1, practiceSound(instrument));
    }
    if (sounds == sounds_) return;
    sounds_ = std::move(sounds);
    applySounds();
}

void Session::want() {
    PortNames names = wishes_;
    const bool open = std::any_of(names.inputs.begin(), names.inputs.end(), isOscPort);
    if ((learnsOsc_ || deskIsOpen_) && !open) names.inputs.emplace_back(usualOscPort);
    patchbay_.want(names);
}

void Session::learnOsc(bool on) {
    if (std::exchange(learnsOsc_, on) != on) want();
}

void Session::openDesk(bool on) {
    if (std::exchange(deskIsOpen_, on) != on) want();
}

void Session::applySounds() {
    if (rack_.rack() == nullptr) return;
    for (const auto& [channel, sound] : sounds_) rack_.rack()->setSound(channel, sound);
}

void Session::openRack() {
    if (rackOpener_.joinable() || rack_.rack() != nullptr) return;
    rack_.opens();
    rackOpener_ = std::thread([this] {
        RackOptions wanted;
        wanted.soundfont = options_.soundfont;
        wanted.soundCard = options_.soundCard;
        auto opened = PracticeRack::open(wanted);
        const std::lock_guard lock(telling_);
        openedRack_.emplace(std::move(opened));
        if (tell_) tell_();
    });
}

void Session::send(const midi::Short& message) {
    player_.send(keysPort_, message);
}
void Session::sendTo(std::string_view port, const midi::Short& message) {
    player_.send(player_.portId(port), message);
}

std::vector<std::string> Session::status() const {
    std::vector<std::string> phrases{clock_ == nullptr ? "Not playing" : clock_->status()};
    if (clock_ == &silence_ && jack_.isWaiting()) phrases.front() = "No MIDI ports: JACK does not answer";
    for (const Problem& problem : osc_.problems()) phrases.push_back(problem.sentence());
    for (const Ports* ports : std::initializer_list<const Ports*>{&alsa_, &rack_}) {
        if (std::string phrase = ports->status(); !phrase.empty()) phrases.push_back(std::move(phrase));
    }
    return phrases;
}

Clock::Word Session::word() const {
    if (clock_ == &silence_ && jack_.isWaiting()) return {"JACK does not answer", Clock::Word::Health::ill};
    return clock_ == nullptr ? silence_.word() : clock_->word();
}

std::vector<std::string> Session::loopsCut() {
    std::vector<std::string> sentences;
    player_.watchLoops([&](const LoopWatch::Loop& loop) {
        sentences.push_back("What goes to " + player_.portName(loop.out) + " comes back in through " +
                            player_.portName(loop.in) + "; what comes back is not played");
    });
    return sentences;
}

std::optional<float> Session::wireLoad(std::string_view port) {
    const Pacer* pacer = patchbay_.pacer(player_.portId(port));
    if (pacer == nullptr || pacer->rate() <= 0) return std::nullopt;
    return pacer->load();
}

std::vector<Problem> Session::problems() const {
    std::vector<Problem> all;
    if (options_.jack && clock_ != &jack_)
        all.push_back(
            jack_.isWaiting()
                ? Problem{"JACK", "the server does not answer", "restart it; it is asked again and again"}
                : Problem{"JACK", "no server is running", "start JACK or PipeWire to have MIDI ports"});
    for (const Ports* ports : ports_) {
        for (Problem& problem : ports->problems()) all.push_back(std::move(problem));
    }
    return all;
}

std::vector<Wire> Session::wires() const {
    std::vector<Wire> all = jack_.wires();
    const std::vector<Wire> leads = alsa_.leads();
    all.insert(all.end(), leads.begin(), leads.end());
    return all;
}

void Session::rememberWires(const std::vector<Wire>& wires) {
    std::vector<Wire> byJack;
    for (const Wire& wire : wires) {
        if (wire.by == "JACK") {
            byJack.push_back(wire);
        } else {
            alsa_.lead(wire);
        }
    }
    jack_.rememberWires(byJack);
}

void Session::heed(const MachineTable& table) {
    setFilter(practiceKeysPort, table.filter(practiceKeysPort));
    for (const PortState& port : present()) {
        if (port.input) setFilter(port.name, table.filter(port.name));
        if (!port.input) setRate(port.name, table.rate(port.name));
    }
}

std::vector<PortState> Session::present() const {
    std::vector<PortState> all;
    for (const Ports* ports : ports_) {
        for (PortState& state : ports->present()) all.push_back(std::move(state));
    }
    return all;
}

}  // namespace mellow::io
