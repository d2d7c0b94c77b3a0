#include "io/bounce/rendering.h"

#include <algorithm>
#include <cmath>

#include "io/playing/happenings.h"
#include "io/sound/practice_sound.h"

namespace mellow::io {

Result<std::unique_ptr<PracticeRack>> silentRack(const Ensemble& ensemble, const std::string& soundfont,
                                                 int sampleRate) {
    RackOptions options;
    options.soundfont = soundfont;
    options.soundCard = false;
    options.ownThread = false;
    options.sampleRate = sampleRate;
    auto rack = PracticeRack::open(options);
    if (!rack) return rack;
    for (const Instrument& instrument : ensemble.instruments) {
        const int channel = instrument.output.channel;
        if (channel >= 1 && channel <= 16) (*rack)->setSound(channel - 1, practiceSound(instrument));
    }
    return rack;
}

void Rendering::hear(const engine::Output& output) {
    if (output.bytes.empty() || output.bytes.size() > 3) return;
    renderUntil(output.time);
    rack_.push(midi::shortOf(output.bytes));
    // The rack's queue is finite, and it is emptied by rendering.
    constexpr int mostQueued = 4096;
    if (++queued_ >= mostQueued) renderFrames(1);
}

void Rendering::renderUntil(engine::Time time) {
    constexpr double second = 1e6;
    const auto frame =
        static_cast<std::int64_t>(std::floor(static_cast<double>(time - from_) * rate_ / second));
    // The synthesizer takes messages between blocks of its own, so a smaller piece would be no more exact.
    constexpr std::int64_t block = 64;
    const std::int64_t pieces = (frame - frame_) / block * block;
    if (pieces > 0) renderFrames(pieces);
}

void Rendering::renderFrames(std::int64_t count) {
    queued_ = 0;
    while (count > 0) {
        const int now = static_cast<int>(std::min<std::int64_t>(count, blockFrames));
        rack_.render(left_.data(), right_.data(), now);
        frame_ += now;
        count -= now;
    }
}

}  // namespace mellow::io
