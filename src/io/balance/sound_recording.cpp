#include "io/balance/sound_recording.h"

#include <algorithm>

namespace mellow::io {

SoundRecording::SoundRecording(int channels, int rate, std::int64_t frames) : room_(frames) {
    sound_.channels = std::clamp(channels, 1, 2);
    sound_.rate = rate;
    sound_.samples.resize(static_cast<std::size_t>(frames * sound_.channels));
}

void SoundRecording::hear(const Frames& frames) {
    if (first_ < 0) first_ = frames.first;
    const std::int64_t begins = frames.first - first_;
    const auto count = static_cast<std::int64_t>(frames.left.size());
    std::int64_t kept = 0;
    for (std::int64_t i = std::max<std::int64_t>(0, -begins); i < count && begins + i < room_; ++i, ++kept) {
        const auto from = static_cast<std::size_t>(i);
        const auto at = static_cast<std::size_t>((begins + i) * sound_.channels);
        sound_.samples[at] = frames.left[from];
        if (sound_.channels == 2) sound_.samples[at + 1] = frames.right[from];
    }
    heard_.fetch_add(kept, std::memory_order_release);
    const std::int64_t end = std::min(room_, begins + count);
    if (end > end_.load(std::memory_order_relaxed)) end_.store(end, std::memory_order_release);
}

std::int64_t SoundRecording::missing() const {
    return std::max<std::int64_t>(0, end_.load(std::memory_order_acquire) - heard());
}

balance::Sound SoundRecording::take() {
    sound_.samples.resize(static_cast<std::size_t>(end_.load(std::memory_order_acquire) * sound_.channels));
    return std::move(sound_);
}

}  // namespace mellow::io
