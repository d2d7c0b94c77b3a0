// The recorder: it listens all the time, so that nothing that was played is lost.
//
// A thread of its own empties the player's tap. What hands did in the last ten minutes is always kept, and
// can be had after the fact. Between begin() and end() the same goes into a recording as well, and, line by
// line, into a log on the disk (takes/recording.h), which is flushed twice a second: whatever happens to the
// program, at most that is missing. What takes play is not recorded; the studio's clock (real-time messages)
// and time code are no gesture, and are left out.
//
// All calls belong to the editing side. The playing side never waits: what finds no room in the tap is
// counted there, and the recording says how much it was.
#pragma once

#include <chrono>
#include <condition_variable>
#include <deque>
#include <filesystem>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <thread>
#include <vector>

#include "core/result.h"
#include "core/takes/recording.h"
#include "io/playing/player.h"

namespace mellow::io {

class Recorder {
 public:
    explicit Recorder(Player& player) : player_(player) {}
    ~Recorder();
    Recorder(const Recorder&) = delete;
    Recorder& operator=(const Recorder&) = delete;

    static constexpr engine::Time keptFor = engine::Time{10} * 60 * 1'000'000;  ///< µs
    /// Begins to listen. Nobody else may drain the tap then.
    void start();

    /// Records from now on. log: is made, where nothing may be yet, and grows; empty: there is none. Where it
    /// cannot be written takeProblem() says so, and what is played is recorded all the same. Error: the
    /// player has no room for the mark at which it would begin.
    Outcome begin(const std::filesystem::path& log);
    [[nodiscard]] bool isRecording() const;
    /// How long the recording is so far, in microseconds, and how many events it holds.
    [[nodiscard]] std::pair<engine::Time, std::size_t> progress() const;
    /// The recording as it is so far.
    [[nodiscard]] Recording soFar() const;
    /// Ends the recording where it is now. What came until then may still be on its way.
    void askEnd();
    /// The recording that was asked to end, once all of it is there; it is waited for that long. Nothing
    /// where that was not enough, for a second after askEnd() at most. The log stays, for whoever knows that
    /// it is not needed any more.
    std::optional<Recording> ended(std::chrono::milliseconds patience);
    /// The two in one.
    Recording end();
    /// What hands did lately: the last ten minutes, from the first thing in them to the last.
    [[nodiscard]] Recording justPlayed() const;
    /// Whether there is anything of that.
    [[nodiscard]] bool hasJustPlayed() const;
    /// Why the log of the present recording does not grow any more, once.
    std::optional<Problem> takeProblem();

 private:
    /// A recording's log. Its text is handed over under the lock; the file belongs to the thread, which
    /// writes without it, so that a slow disk keeps nobody waiting.
    struct Log {
        std::filesystem::path path;
        std::string waiting;         ///< text that is to be written
        std::size_t portsNamed = 0;  ///< of the recording's
        bool isOver = false;         ///< nothing more comes
        // The thread's own.
        int descriptor = -1;
        bool failed = false;
        std::chrono::steady_clock::time_point flushed;
    };

    void run();
    void drain();
    void hear(const Tap::Seen& seen);
    void hearMark(const Tap::Seen& seen);
    [[nodiscard]] bool isBetweenMarks() const;
    void followTake(const Tap::Seen& seen);
    void record(const Tap::Seen& seen, midi::Bytes body);
    void keep(const Tap::Seen& seen, midi::Bytes body);
    void forgetOld(engine::Time now);
    void writeLogs(std::unique_lock<std::mutex>& lock);
    [[nodiscard]] std::optional<Problem> write(Log& log, std::string_view text, bool last);
    void logLine(std::string line);
    bool makeMark(int& mark);

    Player& player_;
    std::thread thread_;
    mutable std::mutex mutex_;  ///< of everything below; never taken on the playing side
    std::condition_variable ticked_;
    std::condition_variable marked_;
    bool stopping_ = false;
    int marksMade_ = 0;
    int marksSeen_ = 0;
    int beginsAt_ = 0;  ///< the mark at which the recording begins
    int endsAt_ = 0;    ///< and that at which it ends; 0: not yet
    bool recording_ = false;
    std::uint64_t lostBefore_ = 0;
    engine::Time latest_ = 0;
    Recording now_;
    std::shared_ptr<Log> log_;                ///< of the present recording
    std::vector<std::shared_ptr<Log>> logs_;  ///< that are still to be written to their ends
    std::chrono::steady_clock::time_point askedEnd_;
    std::optional<Problem> problem_;
    std::deque<Take> kept_;  ///< a short while each
};

}  // namespace mellow::io
