// How a take is played: from where, when, round and round, and with hands over it.
#pragma once

#include <cstdint>

#include "core/engine/playing/engine.h"

namespace mellow::io {

struct TakeRun {
    std::int64_t from = 0;      ///< microseconds from the take's start: where playing begins
    engine::Time at = -1;       ///< the engine's time at which it is there, also one that is past; −1: now
    std::int64_t loopFrom = 0;  ///< played round and round up to loopTo, where that is 20 ms later or more
    std::int64_t loopTo = 0;
    /// What hands touch between these two, when that is later, is not played by the take any more.
    std::int64_t overdubFrom = 0;
    std::int64_t overdubTo = 0;

    static constexpr std::int64_t shortestLoop = 20'000;
    [[nodiscard]] bool loops() const { return loopTo - loopFrom >= shortestLoop; }
    [[nodiscard]] bool overdubsAt(std::int64_t position) const {
        return position >= overdubFrom && position < overdubTo;
    }
};

}  // namespace mellow::io
