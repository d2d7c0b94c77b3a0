// What comes in while a sweep is played, kept whole.
//
// All memory is there before it begins, so the thread that makes the sound only copies. Each frame goes to
// its place; where some never came, silence stands, and how many there were is told.
#pragma once

#include <atomic>
#include <vector>

#include "core/balance/meter.h"
#include "io/sound/frames.h"

namespace mellow::io {

class SoundRecording : public FrameListener {
 public:
    /// channels: 1 keeps the left alone; rate: frames a second; frames: room for so many.
    SoundRecording(int channels, int rate, std::int64_t frames);

    void hear(const Frames& frames) override;

    // Any thread.

    /// How many frames have found their place.
    [[nodiscard]] std::int64_t heard() const { return heard_.load(std::memory_order_acquire); }
    [[nodiscard]] bool isFull() const { return end_.load(std::memory_order_acquire) >= room_; }
    /// How many frames are missing among those that came.
    [[nodiscard]] std::int64_t missing() const;
    /// What was heard so far; once nobody calls hear() any more.
    [[nodiscard]] balance::Sound take();

 private:
    balance::Sound sound_;
    std::int64_t room_;
    std::int64_t first_ = -1;  ///< the place of the first frame
    std::atomic<std::int64_t> heard_{0};
    std::atomic<std::int64_t> end_{0};  ///< behind the last frame that came
};

}  // namespace mellow::io
