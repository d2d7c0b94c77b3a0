// Clocks are tried in order of how good they are, and the next one takes over when the one that runs is gone;
// ports stay joined to the patchbay whichever of them drives.
#include "io/session/session.h"

#include <algorithm>

#include "io/session/port_titles.h"
#include "io/sound/practice_sound.h"
#include "io/sound/sound_systems.h"

namespace mellow::io {

Session::Session(Options options)
    : options_(std::move(options)),
      cabling_(player_, {options_.jack, options_.alsa, options_.server, options_.name}) {
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
    if (rackThread_.joinable()) rackThread_.join();
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
    cabling_.outputs().play(nullptr);
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
    {
        const std::lock_guard lock(telling_);
        changed = std::exchange(changed_, false);
    }
    changed = tendRack() || changed;
    changed = tendClock() || changed;
    const bool waits = cabling_.jack().isWaiting();
    changed = std::exchange(jackWaits_, waits) != waits || changed;
    cabling_.outputs().tend();
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
    cabling_.entitle(portTitles(ensemble));
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

/// One thing at a time; tendRack() takes what came of it.
void Session::onRackThread(std::function<void()> act) {
    constexpr std::chrono::seconds untilNext(3);
    nextSoundTry_ = std::chrono::steady_clock::now() + untilNext;
    soundTried_ = soundThere_;
    soundHad_ = options_.sound;
    rackThread_ = std::thread([this, act = std::move(act)] {
        act();
        const std::lock_guard lock(telling_);
        rackIsReady_ = true;
        if (tell_) tell_();
    });
}

void Session::openRack() {
    if (rackThread_.joinable() || cabling_.rack().rack() != nullptr) return;
    cabling_.rack().opens();
    soundThere_ = presentSoundSystems(clock_ == &cabling_.jack());
    RackOptions wanted;
    wanted.soundfont = options_.soundfont;
    wanted.soundCard = options_.soundCard;
    wanted.through = hearsByJack() ? std::string(noSound) : options_.sound;
    onRackThread([this, wanted] { openedRack_.emplace(PracticeRack::open(wanted)); });
}

void Session::hearRackThrough(const std::string& system) {
    options_.sound = system;
    tendRack();
}

/// Takes what the rack's thread has done, and has it do what is to be done next.
bool Session::tendRack() {
    bool changed = false;
    if (rackThread_.joinable()) {
        {
            const std::lock_guard lock(telling_);
            if (!std::exchange(rackIsReady_, false)) return false;
        }
        rackThread_.join();
        changed = true;
        if (openedRack_) {
            cabling_.rack().opened(std::move(*openedRack_));
            openedRack_.reset();
            applySounds();
        }
        PracticeRack* rack = cabling_.rack().rack();
        if (rack != nullptr && rack->heardThrough() == jackSound) cabling_.outputs().play(rack);
    }
    changed = lookForSound() || changed;
    if (isSoundToChange()) changeSound();
    return changed;
}

/// True when other systems are there than before.
bool Session::lookForSound() {
    constexpr std::chrono::milliseconds between(1000);
    const auto now = std::chrono::steady_clock::now();
    const bool jackPlays = clock_ == &cabling_.jack();
    const bool isNews = isAmong(soundThere_, jackSound) != jackPlays;
    if (now < nextSoundLook_ && !isNews) return false;
    nextSoundLook_ = now + between;
    const unsigned there = presentSoundSystems(jackPlays);
    // What it was heard through has ended, though the system is there again; or there was no place for sound.
    const PracticeRack* rack = cabling_.rack().rack();
    const bool again = rack != nullptr && (rack->hasLostSound() || rack->couldBeHeard());
    if (again && now >= nextSoundTry_) soundTried_ = ~there;
    return std::exchange(soundThere_, there) != there;
}

/// Whether what was chosen comes to the program's own client of JACK.
bool Session::hearsByJack() const {
    const bool wished = options_.sound == jackSound || options_.sound == anySound;
    return options_.soundCard && wished && isAmong(soundThere_, jackSound);
}

/// Another system was chosen; or others are there, and the rack is silent, or its own is gone.
bool Session::isSoundToChange() const {
    const PracticeRack* rack = cabling_.rack().rack();
    if (rack == nullptr || !options_.soundCard) return false;
    const std::string heard = rack->heardThrough();
    if (options_.sound != soundHad_ || hearsByJack() != (heard == jackSound)) return true;
    if (heard == jackSound) return cabling_.jack().rate() != soundRate_;
    if (soundThere_ == soundTried_ || options_.sound == noSound) return false;
    return !isAmong(soundThere_, heard);
}

/// Nobody renders while it changes hands.
void Session::changeSound() {
    PracticeRack* rack = cabling_.rack().rack();
    cabling_.outputs().play(nullptr);
    if (hearsByJack()) {
        soundRate_ = cabling_.jack().rate();
        onRackThread([rack, rate = soundRate_] { rack->beRendered(std::string(jackSound), rate); });
    } else {
        onRackThread([rack, sound = options_.sound] { rack->hearThrough(sound); });
    }
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
