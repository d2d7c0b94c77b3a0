// Playing into a practice rack that nobody hears, faster than time passes.
//
// Playing and rendering take turns: what leaves the engine is pushed, and before it the frames that lie
// before it are rendered, for whoever listens to the rack.
//
// Whoever begins in the middle has heard nothing of what came before: controls stand where they stood, and
// keys that are down are struck at the first frame, as they are where a take is played from its middle.
#pragma once

#include <array>
#include <memory>
#include <string>
#include <vector>

#include "core/engine/program/output.h"
#include "core/model/ensemble.h"
#include "core/result.h"
#include "io/sound/practice_rack.h"

namespace mellow::io {

/// A rack that only Rendering renders, with the sounds of the ensemble's instruments. Error: as
/// PracticeRack::open().
Result<std::unique_ptr<PracticeRack>> silentRack(const Ensemble& ensemble, const std::string& soundfont,
                                                 int sampleRate);

class Rendering {
 public:
    /// from: the time that is frame 0.
    Rendering(PracticeRack& rack, int sampleRate, engine::Time from)
        : rack_(rack), rate_(sampleRate), from_(from) {}

    void hear(const engine::Output& output);
    /// Renders all frames before a time.
    void renderUntil(engine::Time time);

 private:
    static constexpr int blockFrames = 1024;
    void hearBefore(const midi::Short& message);
    void strikeWhatIsDown();
    void push(const midi::Short& message);
    void renderFrames(std::int64_t count);

    PracticeRack& rack_;
    double rate_;
    engine::Time from_;
    std::int64_t frame_ = 0;
    int queued_ = 0;
    std::vector<midi::Short> down_;  ///< keys that were struck before frame 0, and not let go of
    std::array<float, blockFrames> left_{};
    std::array<float, blockFrames> right_{};
};

}  // namespace mellow::io
