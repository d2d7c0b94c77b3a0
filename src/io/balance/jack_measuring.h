// Measuring whatever a composer uses: a sweep is played out of the instrument's own port, and what comes back
// through audio inputs of JACK is recorded.
//
// It takes as long as the sweep does, and is heard. A click goes before it, by which the sound is laid over
// the sweep (core/balance/recorded.h), so it does not matter how late the instrument answers, up to three
// seconds. Where the server misses a period, the sound is silent there, and it is told how much is missing;
// where it is gone, so is the measurement.
#pragma once

#include <chrono>
#include <functional>
#include <memory>
#include <optional>
#include <string>

#include "core/balance/recorded.h"
#include "core/result.h"
#include "io/balance/sound_recording.h"
#include "io/ports/jack_inputs.h"

namespace mellow::io {

/// What plays the sweep, and where it is heard: a session, or the window's live side.
struct MeasuringStage {
    JackInputs& inputs;
    std::function<void(const Ensemble* ensemble)> play;  ///< nullptr: what was played before
    std::function<void(std::shared_ptr<const Take> take)> start;
    std::function<void()> stop;
    std::function<std::int64_t()> position;  ///< microseconds into the take, −1 when none plays
};

/// Outputs of other programs, by their full names; right is empty where there is one.
struct HeardFrom {
    std::string left;
    std::string right;
    bool operator==(const HeardFrom&) const = default;
};

struct RecordedSweep {
    balance::Sound sound;
    balance::KnownSweep known;
    std::int64_t missing = 0;  ///< frames that never came, or not as they were played, at most
};

class JackMeasuring {
 public:
    /// Begins to play and to record. Error: as balance::sweepOf(); no server, no such output; a sweep that is
    /// too long.
    static Result<std::unique_ptr<JackMeasuring>> begin(MeasuringStage stage, const Ensemble& ensemble,
                                                        balance::SweepPlan plan, const HeardFrom& from);
    /// Ends it, if it is not over.
    ~JackMeasuring();
    JackMeasuring(const JackMeasuring&) = delete;
    JackMeasuring& operator=(const JackMeasuring&) = delete;

    /// To be called now and then: what was recorded, once it is over; nothing before. Error: the server is
    /// gone, or hangs; somebody has stopped what is played, or plays something else.
    std::optional<Result<RecordedSweep>> tend();
    /// What played and what was heard are gone: nothing is to be ended.
    void abandon() { begun_ = false; }
    /// 0 to 1.
    [[nodiscard]] double done() const;

 private:
    explicit JackMeasuring(MeasuringStage stage) : stage_(std::move(stage)) {}
    Outcome open(const HeardFrom& from);
    void end();
    bool isPlayedOn();
    [[nodiscard]] Problem gone(const std::string& what) const;

    MeasuringStage stage_;
    RecordedSweep made_;
    std::shared_ptr<SoundRecording> recording_;
    std::int64_t length_ = 0;   ///< frames of the sweep
    std::int64_t ends_ = 0;     ///< of what is played, microseconds
    std::int64_t played_ = -1;  ///< how far it had come when somebody looked; −1: it has not begun
    std::chrono::steady_clock::time_point playedAt_;  ///< when that was
    std::int64_t lost_ = 0;                           ///< of the inputs, when it began
    std::int64_t heardLast_ = 0;
    std::chrono::steady_clock::time_point heardAt_;
    bool begun_ = false;
};

/// Longer sweeps are not recorded, seconds.
inline constexpr double longestRecording = 1200;

}  // namespace mellow::io
