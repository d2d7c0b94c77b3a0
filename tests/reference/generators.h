// Cycles, envelopes and walks, read off the signal rules, section 7.
#pragma once

#include <cstdint>

#include "core/model/source.h"

namespace mellow::reference {

/// What a generator remembers.
struct Generator {
    std::int64_t t0 = 0;  ///< microseconds: the last restart, or change of tempo
    double phiAtT0 = 0;   ///< cycles done by then
    bool begun = false;   ///< it has spoken
    double position = 0;  ///< at the last grid point
    enum class Leg { still, attack, release } leg = Leg::still;
    std::int64_t legBegan = 0;
    double legFrom = 0;
    bool held = false;  ///< envelope: some key is down
    std::uint64_t stepsTaken = 0;
};

/// The position at a grid point, which it keeps.
double positionAt(const Source& source, Generator& generator, std::int64_t now, double tempo);
/// False when no later grid point will change the position.
bool stillMoves(const Source& source, const Generator& generator);
void noteOn(const Source& source, Generator& generator, std::int64_t now);
void lastKeyUp(const Source& source, Generator& generator, std::int64_t now);
void clockStart(const Source& source, Generator& generator, std::int64_t now);
/// tempo: the one that has been in force until now.
void tempoChange(const Source& source, Generator& generator, std::int64_t now, double tempo);
/// How far a message of a relative encoder moves its position.
double encoderMove(const Source& source, int value);

}  // namespace mellow::reference
