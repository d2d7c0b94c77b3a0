// Reading a tempo off the MIDI clock: 24 messages a quarter note (MIDI 1.0, "System Real Time Messages").
//
// The messages come with whatever unevenness a cable and a scheduler give them, so the tempo is taken over
// the last quarter note at most (signal rules, section 9): with n clocks before this one since the clock
// started, continued or paused for more than half a second, 24 at most, n of them last t₀ − tₙ. Before there
// are two, and where no time lies between them, nothing can be said and the tempo stays.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <optional>

namespace mellow::engine {

class MidiClock {
 public:
    static constexpr std::int64_t longestGap = 500'000;  ///< microseconds; after more it begins anew
    static constexpr double slowest = 20;                ///< beats a minute
    static constexpr double fastest = 400;

    /// A clock message came; now in microseconds, never falling. The tempo from here on, in beats a minute,
    /// or nothing where it stays.
    std::optional<double> beat(std::int64_t now) {
        if (count_ > 0 && now - times_[newest_] > longestGap) count_ = 0;
        std::optional<double> tempo;
        if (const std::size_t n = std::min(count_, perQuarter); n > 0) {
            const std::int64_t first = times_[(newest_ + perQuarter - (n - 1)) % perQuarter];
            if (now > first) {
                const double span = 24.0 * static_cast<double>(now - first);
                tempo = std::clamp(60'000'000.0 * static_cast<double>(n) / span, slowest, fastest);
            }
        }
        newest_ = (newest_ + 1) % perQuarter;
        times_[newest_] = now;
        count_ = std::min(count_ + 1, perQuarter);
        return tempo;
    }
    /// The clock was started or goes on after a stop: what came before says nothing about what follows.
    void begin() { count_ = 0; }

 private:
    static constexpr std::size_t perQuarter = 24;
    std::array<std::int64_t, perQuarter> times_{};  ///< a ring
    std::size_t newest_ = 0;
    std::size_t count_ = 0;
};

}  // namespace mellow::engine
