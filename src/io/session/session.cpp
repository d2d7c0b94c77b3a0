// Clocks are tried in order of how good they are, and the next one takes over when the one that runs is gone;
// ports stay joined to the patchbay whichever of them drives.
#include "io/session/session.h"

#include <algorithm>

#include "io/sound/practice_sound.h"

namespace mellow::io {

Session::Session(Options options)
    : options_(std::move(options)), cabling_(player_, {options_.jack, options_.alsa, options_.server}) {
    if (options_.jack) clocks_.push_back(&cabling_.jack());
    clocks_.push_back(&silence_);
    cabling_.onChange([this] {
        const std::lock_guard lock(telling_);
        changed_ = true;
        if (tell_) tell_();
    });
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
    cabling_.patchbay().awaitCycles(cyclesToBeHeard, patience);
    clock_->stop();
    clock_ = nullptr;
}

void Session::startClock() {
    for (Clock* clock : clocks_) {
        if (!clock->start(cabling_.patchbay())) continue;
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
        cabling_.rack().opened(std::move(*opened));
        applySounds();
        changed = true;
    }
    changed = tendClock() || changed;
    const bool waits = cabling_.jack().isWaiting();
    changed = std::exchange(jackWaits_, waits) != waits || changed;
    cabling_.patchbay().tend();
    return changed;
}

/// Another clock drives when the one that ran is gone, or a better one is there.
bool Session::tendClock() {
    constexpr std::chrono::milliseconds between(400);
    if (clock_ == nullptr) return false;
    const auto now = std::chrono::steady_clock::now();
    bool change = !clock_->alive();
    // A server that was asked is looked after until it has answered.
    if (!change && clock_ != clocks_.front() && (now >= nextTry_ || cabling_.jack().isAsking())) {
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
            const ChainReading stood = readings_.chain(owner, chain);
            return branch < stood.values.size() ? stood.values[branch] : -1.0;
        });
    all.insert(all.end(), placements.begin(), placements.end());
    player_.play(ensemble, all);
    cabling_.want(wishesOf(ensemble, player_.programs().hearsOsc()));
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

void Session::applySounds() {
    if (cabling_.rack().rack() == nullptr) return;
    for (const auto& [channel, sound] : sounds_) cabling_.rack().rack()->setSound(channel, sound);
}

void Session::openRack() {
    if (rackOpener_.joinable() || cabling_.rack().rack() != nullptr) return;
    cabling_.rack().opens();
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

std::vector<std::string> Session::status() const {
    std::vector<std::string> phrases{clock_ == nullptr ? "Not playing" : clock_->status()};
    if (clock_ == &silence_ && cabling_.jack().isWaiting())
        phrases.front() = "No MIDI ports: JACK does not answer";
    for (std::string& phrase : cabling_.status()) phrases.push_back(std::move(phrase));
    return phrases;
}

Clock::Word Session::word() const {
    if (clock_ == &silence_ && cabling_.jack().isWaiting())
        return {"JACK does not answer", Clock::Word::Health::ill};
    return clock_ == nullptr ? silence_.word() : clock_->word();
}

std::vector<Problem> Session::problems() const {
    std::vector<Problem> all;
    if (options_.jack && clock_ != &cabling_.jack())
        all.push_back(
            cabling_.jack().isWaiting()
                ? Problem{"JACK", "the server does not answer", "restart it; it is asked again and again"}
                : Problem{"JACK", "no server is running", "start JACK or PipeWire to have MIDI ports"});
    for (Problem& problem : cabling_.problems()) all.push_back(std::move(problem));
    return all;
}

}  // namespace mellow::io
