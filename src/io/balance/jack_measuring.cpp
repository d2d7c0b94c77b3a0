#include "io/balance/jack_measuring.h"

#include <algorithm>

namespace mellow::io {

namespace {

constexpr double second = 1e6;  // µs
/// Behind the sweep, for what answers late.
constexpr std::int64_t tail = 3'000'000;  // µs
constexpr std::chrono::seconds patience(2);

}  // namespace

Problem JackMeasuring::gone(const std::string& what) const {
    return {"JACK", what, "see whether the server runs, and measure again"};
}

Outcome JackMeasuring::open(const HeardFrom& from) {
    JackInputs& inputs = stage_.inputs;
    const int channels = from.right.empty() ? 1 : 2;
    if (Outcome there = inputs.want(channels); !there) return there;
    if (Outcome left = inputs.connect(0, from.left); !left) return left;
    if (channels == 2) {
        if (Outcome right = inputs.connect(1, from.right); !right) return right;
    }
    return Done{};
}

Result<std::unique_ptr<JackMeasuring>> JackMeasuring::begin(MeasuringStage stage, const Ensemble& ensemble,
                                                            balance::SweepPlan plan, const HeardFrom& from) {
    plan.click = true;
    const auto sweep = balance::sweepOf(ensemble, plan);
    if (!sweep) return sweep.problem();
    const double seconds = static_cast<double>(sweep->take.length + tail) / second;
    if (seconds > longestRecording)
        return Problem{"Measuring", "it would take longer than 20 minutes",
                       "choose fewer positions or keys, or hold notes for less"};
    std::unique_ptr<JackMeasuring> measuring(new JackMeasuring(std::move(stage)));
    if (const Outcome open = measuring->open(from); !open) return open.problem();
    const int rate = measuring->stage_.inputs.rate();
    measuring->made_.known = balance::knownOf(ensemble, plan, *sweep);
    measuring->ends_ = sweep->take.length;
    measuring->length_ = static_cast<std::int64_t>(seconds * rate);
    measuring->recording_ =
        std::make_shared<SoundRecording>(from.right.empty() ? 1 : 2, rate, measuring->length_);
    measuring->heardAt_ = std::chrono::steady_clock::now();
    measuring->lost_ = measuring->stage_.inputs.lost();
    measuring->begun_ = true;
    measuring->stage_.inputs.frames().add(measuring->recording_);
    measuring->stage_.play(&sweep->ensemble);
    measuring->stage_.start(std::make_shared<const Take>(sweep->take));
    return measuring;
}

JackMeasuring::~JackMeasuring() {
    end();
}

void JackMeasuring::end() {
    if (!begun_) return;
    begun_ = false;
    stage_.inputs.frames().remove(*recording_);
    if (stage_.position() >= 0) stage_.stop();
    stage_.play(nullptr);
}

double JackMeasuring::done() const {
    return length_ > 0
               ? std::min(1.0, static_cast<double>(recording_->heard()) / static_cast<double>(length_))
               : 0;
}

/// A take that ends early, or is elsewhere than it was, is not the sweep any more. What comes after its last
/// look is reckoned, since whoever looks may be held up while it ends.
bool JackMeasuring::isPlayedOn() {
    constexpr std::int64_t slack = 500'000;  // µs
    const std::int64_t now = stage_.position();
    const auto looked = std::chrono::steady_clock::now();
    // What played before may be heard of still.
    constexpr std::int64_t beginning = 1'000'000;
    if (played_ < 0 && now > beginning) return true;
    if (now >= 0) {
        const bool goesOn = now >= played_;
        played_ = now;
        playedAt_ = looked;
        return goesOn;
    }
    const auto since = std::chrono::duration_cast<std::chrono::microseconds>(looked - playedAt_);
    return played_ < 0 || played_ + since.count() >= ends_ - slack;
}

std::optional<Result<RecordedSweep>> JackMeasuring::tend() {
    if (!begun_) return gone("it is over");
    if (!isPlayedOn()) {
        // What plays now is somebody's.
        stage_.inputs.frames().remove(*recording_);
        stage_.play(nullptr);
        begun_ = false;
        return Problem{"Measuring", "what was played for it was stopped, or something else is played",
                       "measure again, and leave the transport alone meanwhile"};
    }
    stage_.inputs.frames().tend();
    const std::int64_t heard = recording_->heard();
    const auto now = std::chrono::steady_clock::now();
    if (heard > heardLast_) heardAt_ = now;
    heardLast_ = heard;
    if (now - heardAt_ > patience && !recording_->isFull()) {
        end();
        return gone("nothing comes in any more: the server is gone, or hangs");
    }
    if (!recording_->isFull()) return std::nullopt;
    end();
    made_.missing = recording_->missing() + stage_.inputs.lost() - lost_;
    // The thread that makes the sound may be in it still, for a period.
    made_.sound = recording_->take();
    return std::move(made_);
}

}  // namespace mellow::io
