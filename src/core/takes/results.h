// What comes of a take: a lane for each target, worked out by the engine that plays.
//
// The take is played into a program of its own, without a clock, and what leaves is read back as a receiver
// would read it: the halves of a pair together, a register by its select, a velocity by the notes. So a lane
// shows what the instrument gets, not what a chain meant. Values are raw positions, 0 to 1; a parameter's law
// makes display units of them.
#pragma once

#include <atomic>
#include <cstdint>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/takes/take.h"

namespace mellow {

struct ResultLane {
    std::string instrument;           ///< id
    std::string parameter;            ///< id
    std::vector<std::int64_t> times;  ///< microseconds of the take, in order
    std::vector<float> values;        ///< raw positions, 0 to 1

    /// The place of the last value at a time or before; how many there are where there is none.
    [[nodiscard]] std::size_t lastAt(std::int64_t time) const;
};

struct Results {
    std::vector<ResultLane> lanes;  ///< by instrument, then parameter, both in the document's order
    std::uint64_t messages = 0;     ///< that left in all
    bool isWhole = true;            ///< false: it was stopped
};

/// instruments: ids; empty: all. What else drives their targets plays along. stop: asked now and then.
Results resultsOf(const Ensemble& ensemble, const Take& take, const std::vector<std::string>& instruments,
                  const std::atomic<bool>* stop = nullptr);

/// How far two lanes of one parameter differ at most, between two times, and where: raw positions.
struct Difference {
    double most = 0;
    std::int64_t time = 0;
};
Difference differenceBetween(const ResultLane& one, const ResultLane& other, std::int64_t from,
                             std::int64_t to);

}  // namespace mellow
