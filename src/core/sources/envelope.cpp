// The envelope: a course of straight lines that a note starts and the last key's coming up ends.
//
// Signal rules, section 7: a note-on starts the attack from the present value; then it holds at the top,
// decays to `sustain` and stays; when the last key comes up it is released to 0. The present value is that of
// the last grid point, since between grid points nothing changes by itself.
#include <array>

#include "core/midi/message_key.h"
#include "core/sources/generator.h"

namespace mellow {

namespace {

enum Place { attackField, holdField, decayField, sustainField, releaseField };
constexpr double longest = 60000;  ///< ms

constexpr std::array<Field, 5> fields{{
    {"attack", "Attack", "ms", Field::Type::number, 0, longest, 50, true, {}, "How long it rises."},
    {"hold", "Hold", "ms", Field::Type::number, 0, longest, 0, true, {}, "How long it stays at the top."},
    {"decay",
     "Decay",
     "ms",
     Field::Type::number,
     0,
     longest,
     200,
     true,
     {},
     "How long it falls to the sustain."},
    {"sustain",
     "Sustain",
     "%",
     Field::Type::number,
     0,
     1,
     0.7,
     true,
     {},
     "Where it stays while keys are down."},
    {"release",
     "Release",
     "ms",
     Field::Type::number,
     0,
     longest,
     300,
     true,
     {},
     "How long it falls in the end."},
}};

}  // namespace

namespace {

MessageKeys hears(const Source&) {
    return {static_cast<int>(midi::noteOnKey), static_cast<int>(midi::noteOffKey)};
}

}  // namespace

extern const SourceRow envelopeSource{
    .kind = SourceKind::envelope,
    .name = "envelope",
    .label = "Envelope",
    .max = 0,
    .numbered = false,
    .origin = Origin::generator,
    .fields = fields,
    .help = "A course that each note starts.",
    .hears = hears,
};

double envelopePosition(const Source& source, GeneratorState& state, Microseconds now) {
    if (state.resting) return state.position;
    double elapsed = static_cast<double>(now - state.since) / 1000;
    if (!state.held) {
        const double release = numberOf(source, releaseField);
        state.resting = elapsed >= release;
        return state.resting ? 0 : state.from - state.from * elapsed / release;
    }
    const double attack = numberOf(source, attackField);
    if (elapsed < attack) return state.from + (1 - state.from) * elapsed / attack;
    elapsed -= attack;
    const double hold = numberOf(source, holdField);
    if (elapsed < hold) return 1;
    elapsed -= hold;
    const double decay = numberOf(source, decayField);
    const double sustain = numberOf(source, sustainField);
    state.resting = elapsed >= decay;
    return state.resting ? sustain : 1 + (sustain - 1) * elapsed / decay;
}

}  // namespace mellow
