// A session: player, clocks, cabling and practice rack, held together once.
//
// The window, the command line and tests are its users. They hand it ensembles, play into it with its hands,
// and ask its readings what happened; it knows which clock runs. Everything here belongs to one thread, the
// editing side; what other threads notice (a server that is gone, a rack that is open) is told through
// onChange(), and dealt with when the owner calls tend().
#pragma once

#include <chrono>
#include <functional>
#include <memory>
#include <mutex>
#include <string>
#include <thread>
#include <utility>
#include <vector>

#include "core/placing/left.h"
#include "io/clocks/silent_clock.h"
#include "io/recording/recorder.h"
#include "io/session/cabling.h"
#include "io/session/hands.h"
#include "io/session/readings.h"
#include "io/sound/practice_rack.h"

namespace mellow::io {

class Session {
 public:
    struct Options {
        bool jack = true;         ///< use a JACK server when one runs
        bool alsa = true;         ///< use the ALSA sequencer where there is one
        bool soundCard = true;    ///< try to be heard
        std::string sound = {};   ///< by which of soundSystems (io/sound); empty: the best that is there
        std::string server = {};  ///< the JACK server's name; empty: the default one
        std::string name = JackClient::usualName;  ///< by which JACK's graph shows it
        std::string soundfont = RackOptions{}.soundfont;
    };

    explicit Session(Options options);
    ~Session();
    Session(const Session&) = delete;
    Session& operator=(const Session&) = delete;

    /// Begins to play: the first clock that can be had drives.
    void start();
    /// Ends playing: everything is silenced, and what that says has left before the clock stops.
    void finish();
    /// tell: called, from any thread, when there is something to tend().
    void onChange(std::function<void()> tell);
    /// Deals with what changed by itself, such as a server that is gone or is there again; to be called when
    /// onChange() told, and now and then. True when status() or present() may say something else.
    bool tend();

    /// Plays an ensemble from now on, with the ports that it wishes for.
    /// placements: what targets are put to, once.
    void play(const Ensemble& ensemble, const Placements& placements = {});
    /// Opens the practice rack, which takes a moment, on a thread of its own.
    void openRack();
    /// By which of soundSystems (io/sound) it is heard from now on; anySound: the best, noSound: none.
    void hearRackThrough(const std::string& system);
    /// A bit for each of soundSystems that is there, as seen last.
    [[nodiscard]] unsigned soundSystemsThere() const { return soundThere_; }

    [[nodiscard]] Hands& hands() { return hands_; }
    [[nodiscard]] Readings& readings() { return readings_; }
    [[nodiscard]] const Readings& readings() const { return readings_; }
    [[nodiscard]] Cabling& cabling() { return cabling_; }
    [[nodiscard]] const Cabling& cabling() const { return cabling_; }

    /// played: as Player's.
    void startTake(std::shared_ptr<const Take> take, const TakeRun& run = {},
                   const Ensemble* played = nullptr) {
        player_.startTake(std::move(take), run, played);
    }
    void changeTake(std::shared_ptr<const Take> take, const TakeRun& run) {
        player_.changeTake(std::move(take), run);
    }
    void stopTake() { player_.stopTake(); }
    /// Leads the JACK transport. False when no server runs.
    bool leadTransport(JackClient::Lead what, engine::Time position = 0) {
        return clock_ == &cabling_.jack() && cabling_.jack().lead(what, position);
    }
    /// Keeps what is played; while it listens nobody else may drain the tap.
    Recorder& recorder() { return recorder_; }
    /// Calls take(const Tap::Seen&) for everything that came in since the last call.
    template<class Take>
    void drainTap(Take&& take) {
        player_.tap().drain(take);
    }
    [[nodiscard]] std::uint64_t tapLost() { return player_.tap().lost(); }
    /// What edits have left behind, at rest.
    [[nodiscard]] Placements leftAtRest() const { return left_.atRest(); }

    [[nodiscard]] const PracticeRack* rack() const { return cabling_.rack().rack(); }
    /// Why the rack cannot be heard at all, or nothing.
    [[nodiscard]] const std::optional<Problem>& rackProblem() const { return cabling_.rack().problem(); }
    /// A phrase each about the clock and about ports that have something to say.
    [[nodiscard]] std::vector<std::string> status() const;
    /// What the clock is and how it does, in a word or two.
    [[nodiscard]] Clock::Word word() const;
    /// Which systems cannot be had, with the reason and the mend.
    [[nodiscard]] std::vector<Problem> problems() const;

 private:
    void startClock();
    bool tendClock();
    bool tendRack();
    bool lookForSound();
    [[nodiscard]] bool isSoundToChange() const;
    [[nodiscard]] bool hearsByJack() const;
    void changeSound();
    void onRackThread(std::function<void()> act);
    void applySounds();

    Options options_;
    // Threads of the ports call these, so they outlive the ports.
    std::mutex telling_;  ///< never taken on the playing side
    std::function<void()> tell_;
    bool changed_ = false;
    /// A take of twelve hours can be jumped into anywhere.
    static constexpr engine::Time begins = engine::Time{12} * 3600 * 1'000'000;
    Player player_{begins};
    LeftBehind left_;
    Recorder recorder_{player_};
    Hands hands_{player_};
    Readings readings_{player_};
    Cabling cabling_;
    SilentClock silence_;
    std::vector<Clock*> clocks_;                     ///< the best first
    Clock* clock_ = nullptr;                         ///< the one that runs
    bool jackWaits_ = false;                         ///< as it was told of last
    std::chrono::steady_clock::time_point nextTry_;  ///< for a better clock
    std::vector<std::pair<int, int>> sounds_;        ///< of the rack's channels, as the ensemble wants them

    std::thread rackThread_;    ///< opens the rack, or what it is heard through
    bool rackIsReady_ = false;  ///< the thread has done what it was to do; guarded by telling_
    std::optional<Result<std::unique_ptr<PracticeRack>>> openedRack_;
    unsigned soundThere_ = 0;  ///< systems that are there
    unsigned soundTried_ = 0;  ///< those that were there when the rack was last to be heard
    std::string soundHad_;     ///< what was chosen then
    int soundRate_ = 0;        ///< of the server into which it was last rendered
    std::chrono::steady_clock::time_point nextSoundLook_;
    std::chrono::steady_clock::time_point nextSoundTry_;  ///< where the same systems are there as before
};

}  // namespace mellow::io
