// A tap on sound: what is heard waits in a ring for one reader on another thread.
//
// Who reads too late loses the newest frames, which the places of those that come after tell.
#pragma once

#include <atomic>

#include "io/playing/spsc_ring.h"
#include "io/sound/frames.h"

namespace mellow::io {

class FrameTap : public FrameListener {
 public:
    struct Frame {
        std::int64_t place = 0;  ///< since the start of what is tapped
        float left = 0;
        float right = 0;
    };

    /// room: for how many frames.
    explicit FrameTap(std::size_t room) : ring_(room) {}

    void hear(const Frames& frames) override {
        for (std::size_t i = 0; i < frames.left.size(); ++i) {
            const auto place = frames.first + static_cast<std::int64_t>(i);
            if (!ring_.push({place, frames.left[i], frames.right[i]}))
                lost_.fetch_add(1, std::memory_order_relaxed);
        }
    }
    /// Reader: calls take(const Frame&) for everything since the last call.
    template<class Take>
    void drain(Take&& take) {
        for (Frame frame; ring_.pop(frame);) take(frame);
    }
    /// How many frames found no room, since the start.
    [[nodiscard]] std::uint64_t lost() const { return lost_.load(std::memory_order_relaxed); }

 private:
    SpscRing<Frame> ring_;
    std::atomic<std::uint64_t> lost_{0};
};

}  // namespace mellow::io
