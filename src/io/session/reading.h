// The present values of a chain, for whoever shows them: read from the numbers that the playing thread leaves
// in the program it plays.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/engine/program/state.h"

namespace mellow::io {

struct ChainReading {
    bool runs = false;    ///< it is on and nothing stops it
    bool spoken = false;  ///< its source has moved since the start
    int raw = -1;         ///< the source's raw value; −1 where it has none
    double position = 0;  ///< the source's position
    double control = -1;  ///< where a control stands that has not caught up with it; −1: none waits
    double result = 0;    ///< the position behind the trunk
    double other = -1;    ///< the position of the trunk's first second source; −1 where it has none
    int fed = -1;         ///< the branch that a chooser has chosen; −1: all are fed
    std::uint32_t stepsUp =
        0;  ///< a bit for each of the trunk's steps that are on: a gate or latch that is up
    std::vector<double> values;  ///< the raw position that each branch last gave its target; −1 before
};

/// How an instrument is played now.
struct InstrumentReading {
    bool runs = false;  ///< it is on and nothing stops it
    bool inHand = false;
    int articulation = -1;  ///< the place of the one that was chosen last; −1: none was
};
InstrumentReading readingOf(const engine::Program& program, const std::string& instrument);

/// Where an element of the desk was last moved to, by its address; nothing before it was.
std::optional<double> deskPositionOf(const engine::Program& program, std::string_view address);

/// program: the one that is being played; instrument: an id, or sharedOwner.
ChainReading readingOf(const engine::Program& program, const std::string& instrument,
                       const std::string& chain);

}  // namespace mellow::io
