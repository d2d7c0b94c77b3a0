#include "io/bounce/rendering.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "core/midi/controls.h"
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
    const midi::Short message = midi::shortOf(output.bytes);
    if (output.time < from_) return hearBefore(message);
    renderUntil(output.time);
    push(message);
}

void Rendering::hearBefore(const midi::Short& message) {
    const midi::Bytes bytes = message.bytes();
    const auto isOf = [&bytes](const midi::Short& struck) {
        return midi::channelOf(struck.bytes()) == midi::channelOf(bytes);
    };
    const std::uint8_t kind = midi::kindOf(bytes);
    if (kind == midi::noteOn || kind == midi::noteOff) {
        std::erase_if(down_,
                      [&](const midi::Short& struck) { return isOf(struck) && struck.data[1] == bytes[1]; });
        if (midi::isNoteOn(bytes)) down_.push_back(message);
        return;
    }
    if (kind == midi::controlChange && midi::clearsNotes(bytes[1])) std::erase_if(down_, isOf);
    push(message);
}

void Rendering::strikeWhatIsDown() {
    for (const midi::Short& each : std::exchange(down_, {})) push(each);
}

void Rendering::push(const midi::Short& message) {
    rack_.push(message);
    // The rack's queue is finite, and it is emptied by rendering.
    constexpr int mostQueued = 4096;
    if (++queued_ >= mostQueued) renderFrames(1);
}

void Rendering::renderUntil(engine::Time time) {
    if (time < from_) return;
    strikeWhatIsDown();
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
