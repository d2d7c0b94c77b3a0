// A tempo that is tapped: the mean of the last beats, begun anew after a pause.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <optional>
#include <vector>

namespace mellow {

class TapTempo {
 public:
    static constexpr std::int64_t longestBeat = 3'000'000;  ///< microseconds; after more it begins anew
    static constexpr std::size_t beatsCounted = 8;

    /// A tap, at a time in microseconds that never falls. The tempo so far, 20 to 400 beats a minute to a
    /// tenth, or nothing after the first.
    std::optional<double> tap(std::int64_t now) {
        if (!taps_.empty() && (now - taps_.back() > longestBeat || now <= taps_.back())) taps_.clear();
        taps_.push_back(now);
        if (taps_.size() > beatsCounted + 1) taps_.erase(taps_.begin());
        if (taps_.size() < 2) return std::nullopt;
        constexpr double microsecondsAMinute = 60e6;
        const double beats = static_cast<double>(taps_.size() - 1);
        const double tempo = microsecondsAMinute * beats / static_cast<double>(taps_.back() - taps_.front());
        constexpr double slowest = 20;
        constexpr double fastest = 400;
        return std::round(std::clamp(tempo, slowest, fastest) * 10) / 10;
    }

 private:
    std::vector<std::int64_t> taps_;
};

}  // namespace mellow
