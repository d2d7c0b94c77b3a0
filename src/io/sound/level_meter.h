// How loud sound is at its loudest: the peak of each channel since it was asked last.
#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>

#include "io/sound/frames.h"

namespace mellow::io {

class LevelMeter : public FrameListener {
 public:
    void hear(const Frames& frames) override {
        rise(peaks_[0], frames.left);
        rise(peaks_[1], frames.right);
    }
    /// The loudest sample of each channel since the last call, left and right; 1 is full scale. Any thread,
    /// one at a time.
    std::array<float, 2> take() {
        return {peaks_[0].exchange(0, std::memory_order_relaxed),
                peaks_[1].exchange(0, std::memory_order_relaxed)};
    }

 private:
    static void rise(std::atomic<float>& peak, std::span<const float> samples) {
        float loudest = 0;
        for (const float sample : samples) loudest = std::max(loudest, std::abs(sample));
        float before = peak.load(std::memory_order_relaxed);
        while (loudest > before && !peak.compare_exchange_weak(before, loudest, std::memory_order_relaxed)) {
        }
    }

    std::array<std::atomic<float>, 2> peaks_{};
};

}  // namespace mellow::io
