// Generators: sources that the clock moves.
//
// A cycle repeats a shape, in Hz or in beats; an envelope runs a course that notes start and end; a walk
// takes small random steps. Each is a position at each point of the 1 ms grid (signal rules, section 7),
// worked out from the time and a little memory. The memory is handed in, so that a source stays a value; the
// random ones draw number n of their seed directly, so that a cycle may be asked for at any time.
#pragma once

#include <cstdint>

#include "core/model/source.h"
#include "core/time.h"

namespace mellow {

inline constexpr double unknownTempo = 120;  ///< beats a minute, where nothing says otherwise

struct GeneratorState {
    Microseconds since = 0;   ///< cycle: t₀, or when its rate last changed; envelope: when its course began
    double turned = 0;        ///< cycle: how many it had done by then
    double from = 0;          ///< envelope: where the present course began
    double position = 0;      ///< at the last grid point
    std::uint64_t steps = 0;  ///< walk: taken so far
    bool started = false;     ///< a position has been worked out
    bool held = false;        ///< envelope: some key is down
    bool resting = true;      ///< envelope: it has run out
};

/// Works out the position at a grid point and keeps it. tempo: beats a minute.
double movedTo(const Source& source, GeneratorState& state, Microseconds now, double tempo);
/// True while the clock alone would still change the position.
bool keepsMoving(const Source& source, const GeneratorState& state);
/// The tempo changes, for a cycle; one in beats goes on from where it stands. before: the tempo until now.
void tempoChanges(const Source& source, GeneratorState& state, Microseconds now, double before);
/// The clock or the transport starts; cycles that say so begin again.
void clockStarts(const Source& source, GeneratorState& state, Microseconds now);
void noteBegins(const Source& source, GeneratorState& state, Microseconds now);
void lastNoteEnds(const Source& source, GeneratorState& state, Microseconds now);

/// Draw `index` (from 0) of SplitMix64 started with `seed`, as a number in [0, 1). Source: G. Steele, D. Lea,
/// C. Flood, "Fast splittable pseudorandom number generators", 2014.
double randomDraw(std::uint64_t seed, std::uint64_t index);

// One a kind, each in its own file.
/// cycles: how many it has done since it began, from its phase on.
double cyclePosition(const Source& source, double cycles);
double cycleFrequency(const Source& source, double tempo);  ///< cycles a second
bool cycleCountsBeats(const Source& source);
bool cycleRestartsByNote(const Source& source);
bool cycleRestartsByStart(const Source& source);
double envelopePosition(const Source& source, GeneratorState& state, Microseconds now);
double walkPosition(const Source& source, GeneratorState& state, Microseconds now);
bool walkMoves(const Source& source);

}  // namespace mellow
