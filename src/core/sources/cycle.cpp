// The cycle: a shape that repeats, free in Hz or in beats of the tempo at hand.
//
// Signal rules, section 7: at time t in seconds its phase is φ = frac(phase + f·(t − t₀)), with f in Hz or
// tempo/60/beats, and t₀ = 0, the last note-on or the last start. Where the tempo changes, a cycle in beats
// runs on from the phase at which it stands, so whoever plays counts the cycles done and hands them in. The
// random shapes make one draw a cycle: `steps` holds draw n in cycle n, `drift` runs from the draw before to
// it along half a cosine, from ½ before the first. A restart begins the draws again.
#include <array>
#include <cmath>
#include <numbers>

#include "core/midi/message_key.h"
#include "core/sources/generator.h"

namespace mellow {

namespace {

enum Shape { sine, triangle, rampUp, rampDown, square, steps, drift };
constexpr std::array<std::string_view, 7> shapes{"sine",   "triangle", "rampUp", "rampDown",
                                                 "square", "steps",    "drift"};
constexpr std::array<std::string_view, 3> restarts{"none", "note", "start"};
enum Restart { never, byNote, byStart };

enum Place { shapeField, hzField, beatsField, phaseField, restartField, seedField };
constexpr double fastest = 1000;  ///< Hz; the grid cannot show more than half of it
constexpr double longest = 1024;  ///< beats
constexpr double seeds = 1e9;

constexpr std::array<Field, 6> fields{{
    {"shape", "Shape", "", Field::Type::choice, 0, 6, sine, false, shapes, "What a cycle looks like."},
    {"hz", "Rate", "Hz", Field::Type::number, 0, fastest, 1, true, {}, "Cycles a second."},
    {"beats",
     "Beats a cycle",
     "",
     Field::Type::number,
     0,
     longest,
     0,
     true,
     {},
     "Quarter notes that a cycle lasts; 0 leaves the rate to Hz.",
     true},
    {"phase", "Phase", "%", Field::Type::number, 0, 1, 0, true, {}, "Where in the cycle it starts.", true},
    {"restart", "Restarts", "", Field::Type::choice, 0, 2, never, false, restarts,
     "Whether each note, or the clock's start, starts it again.", true},
    {"seed", "Seed", "", Field::Type::whole, 0, seeds, 1, true, {}, "Which random course it takes.", true},
}};

}  // namespace

namespace {

MessageKeys hears(const Source& source) {
    return cycleRestartsByNote(source) ? MessageKeys{static_cast<int>(midi::noteOnKey)} : MessageKeys{};
}

}  // namespace

extern const SourceRow lfoSource{
    .kind = SourceKind::lfo,
    .name = "lfo",
    .label = "Cycle",
    .max = 0,
    .numbered = false,
    .origin = Origin::generator,
    .fields = fields,
    .help = "A shape that repeats, in Hz or in beats.",
    .hears = hears,
};

double cycleFrequency(const Source& source, double tempo) {
    return cycleCountsBeats(source) ? tempo / 60 / numberOf(source, beatsField) : numberOf(source, hzField);
}

bool cycleCountsBeats(const Source& source) {
    return numberOf(source, beatsField) > 0;
}
bool cycleRestartsByNote(const Source& source) {
    return choiceOf(source, restartField) == byNote;
}
bool cycleRestartsByStart(const Source& source) {
    return choiceOf(source, restartField) == byStart;
}

double cyclePosition(const Source& source, double cycles) {
    // A phase of a whole cycle is none.
    const double phase = numberOf(source, phaseField);
    cycles = (phase - std::floor(phase)) + cycles;
    const double number = std::floor(cycles);
    const double phi = cycles - number;
    const auto seed = static_cast<std::uint64_t>(numberOf(source, seedField));
    const auto index = static_cast<std::uint64_t>(number > 0 ? number : 0);
    switch (choiceOf(source, shapeField)) {
        case sine:
            return 0.5 - 0.5 * std::cos(2 * std::numbers::pi * phi);
        case triangle:
            return phi < 0.5 ? 2 * phi : 2 - 2 * phi;
        case rampUp:
            return phi;
        case rampDown:
            return 1 - phi;
        case square:
            return phi < 0.5 ? 1 : 0;
        case steps:
            return randomDraw(seed, index);
        default: {
            const double before = index > 0 ? randomDraw(seed, index - 1) : 0.5;
            const double way = 0.5 - 0.5 * std::cos(std::numbers::pi * phi);
            return before + (randomDraw(seed, index) - before) * way;
        }
    }
}

}  // namespace mellow
