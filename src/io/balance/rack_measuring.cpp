#include "io/balance/rack_measuring.h"

#include <algorithm>
#include <atomic>
#include <ctime>
#include <mutex>
#include <optional>
#include <thread>

#include "core/engine/compiling/compile.h"
#include "core/store/instrument_state.h"
#include "core/takes/playback.h"
#include "io/bounce/rendering.h"
#include "io/playing/happenings.h"

namespace mellow::io {

namespace {

using balance::Segment;
using balance::Sound;
using balance::Sweep;

constexpr std::size_t share = 12;  // notes
/// What is rendered before a share, so that what was said before has come to rest.
constexpr std::int64_t before = 100'000;  // µs

class Gathering : public FrameListener {
 public:
    explicit Gathering(int rate) { sound.rate = rate; }
    void hear(const Frames& frames) override {
        std::size_t at = sound.samples.size();
        sound.samples.resize(at + 2 * frames.left.size());
        for (std::size_t i = 0; i < frames.left.size(); ++i) {
            sound.samples[at++] = frames.left[i];
            sound.samples[at++] = frames.right[i];
        }
    }
    Sound sound;
};

/// The sound of some of a sweep's notes. The sound's first frame is at the time `from`.
Result<Sound> soundOf(const Sweep& sweep, std::int64_t from, std::int64_t to, const MeasureOptions& options,
                      const std::atomic<bool>& stop) {
    auto rack = silentRack(sweep.ensemble, options.soundfont, options.sampleRate);
    if (!rack) return rack.problem();
    auto heard = std::make_shared<Gathering>(options.sampleRate);
    (*rack)->frames().add(heard);
    const auto program = engine::compile(sweep.ensemble);
    Playback playback(*program, sweep.take);
    Rendering rendering(**rack, options.sampleRate, from);
    auto hear = [&](const engine::Output& out) { rendering.hear(out); };
    const engine::Sink sink = engine::sinkTo(hear);
    constexpr std::int64_t slice = 250'000;
    for (std::int64_t time = from; !stop.load(std::memory_order_relaxed); time = std::min(time + slice, to)) {
        playback.playUntil(time, sink);
        rendering.renderUntil(time);
        if (time >= to) break;
    }
    return std::move(heard->sound);
}

/// Shares of a sweep, measured by whoever is free.
class Work {
 public:
    Work(const Sweep& sweep, bool overKeys, const MeasureOptions& options, const MeasureProgress& progress)
        : sweep_(sweep),
          overKeys_(overKeys),
          options_(options),
          progress_(progress),
          curves_((sweep.segments.size() + share - 1) / share) {}

    Result<balance::Curve> run() {
        const unsigned cores = std::max(1U, std::thread::hardware_concurrency());
        const unsigned wanted = options_.threads > 0 ? options_.threads : cores;
        const auto most = static_cast<unsigned>(curves_.size());
        std::vector<std::jthread> others;
        for (unsigned i = 1; i < std::min(wanted, most); ++i) others.emplace_back([this] { work(); });
        work();
        others.clear();
        if (stopped_) return measuringStopped();
        if (problem_) return *problem_;
        balance::Curve whole = std::move(*curves_.front());
        for (std::size_t i = 1; i < curves_.size(); ++i) join(whole, std::move(*curves_[i]));
        return whole;
    }

 private:
    void work() {
        for (std::size_t i = next_++; i < curves_.size() && !end_; i = next_++) {
            measureShare(i);
            const std::scoped_lock lock(mutex_);
            const double done = static_cast<double>(++done_) / static_cast<double>(curves_.size());
            if (progress_ && !end_ && !progress_(done)) stopped_ = end_ = true;
        }
    }

    void measureShare(std::size_t place) {
        const auto first = sweep_.segments.begin() + static_cast<std::ptrdiff_t>(place * share);
        const auto last = place + 1 == curves_.size() ? sweep_.segments.end() : first + share;
        const std::vector<Segment> segments(first, last);
        const std::int64_t from = std::max<std::int64_t>(0, segments.front().begins - before);
        auto sound = soundOf(sweep_, from, segments.back().ends, options_, end_);
        if (!sound) {
            const std::scoped_lock lock(mutex_);
            problem_ = sound.problem();
            end_ = true;
            return;
        }
        curves_[place] = curveOf(segments, overKeys_, *sound, -sound->frameAt(from));
    }

    static void join(balance::Curve& whole, balance::Curve part) {
        for (balance::KeyCurve& line : part.keys) {
            const auto same = std::find_if(whole.keys.begin(), whole.keys.end(),
                                           [&](const auto& each) { return each.key == line.key; });
            if (same == whole.keys.end())
                whole.keys.push_back(std::move(line));
            else
                same->points.insert(same->points.end(), line.points.begin(), line.points.end());
        }
    }

    const Sweep& sweep_;
    bool overKeys_;
    const MeasureOptions& options_;
    const MeasureProgress& progress_;
    std::vector<std::optional<balance::Curve>> curves_;
    std::atomic<std::size_t> next_{0};
    std::atomic<bool> end_{false};
    std::mutex mutex_;  ///< of what follows
    std::size_t done_ = 0;
    bool stopped_ = false;
    std::optional<Problem> problem_;
};

}  // namespace

Problem measuringStopped() {
    return {"Measuring", "it was stopped", "measure again when you like"};
}

std::string measuredNow() {
    const std::time_t now = std::time(nullptr);
    std::tm day{};
    gmtime_r(&now, &day);
    std::array<char, 32> text{};
    const std::size_t size = std::strftime(text.data(), text.size(), "%Y-%m-%dT%H:%M:%SZ", &day);
    return {text.data(), size};
}

Result<balance::Curve> measureOnRack(const Ensemble& ensemble, const balance::SweepPlan& plan,
                                     const MeasureOptions& options, const MeasureProgress& progress) {
    const auto sweep = balance::sweepOf(ensemble, plan);
    if (!sweep) return sweep.problem();
    const Instrument& played = sweep->ensemble.instruments.front();
    if (played.output.port != practiceRackPort)
        return Problem{nameOf(played),
                       "it does not play on the practice rack, which alone is measured unheard",
                       "record it, or lead its output to practice-rack"};
    const bool overKeys = balance::isKeys(plan.motion);
    auto curve = Work(*sweep, overKeys, options, progress).run();
    if (!curve) return curve;
    curve->instrument = plan.instrument;
    curve->instrumentName = nameOf(played);
    curve->moved = printMotion(plan.motion);
    curve->movedName = motionName(ensemble, *findById(ensemble.instruments, plan.instrument), plan.motion);
    curve->heardFrom = "Practice rack";
    curve->measured = measuredNow();
    curve->state = store::stateOf(ensemble, plan.instrument);
    return curve;
}

}  // namespace mellow::io
