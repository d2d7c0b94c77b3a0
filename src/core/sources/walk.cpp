// The walk: small steps up and down, at random, so many a second.
//
// Signal rules, section 7: from ½, at each step p += size·(2u − 1), reflected at 0 and 1, with one draw u a
// step. Step k falls due k/stepsPerSecond seconds after time 0. A walk that is added later begins then.
#include <array>
#include <cmath>

#include "core/sources/generator.h"

namespace mellow {

namespace {

enum Place { rateField, sizeField, seedField };
constexpr double fastest = 1000;
constexpr double seeds = 1e9;

constexpr std::array<Field, 3> fields{{
    {"stepsPerSecond",
     "Steps a second",
     "",
     Field::Type::number,
     0,
     fastest,
     8,
     true,
     {},
     "How often it steps."},
    {"size", "Size", "%", Field::Type::number, 0, 1, 0.1, true, {}, "How far a step goes at most."},
    {"seed", "Seed", "", Field::Type::whole, 0, seeds, 1, true, {}, "Which random course it takes.", true},
}};

double reflected(double p) {
    if (p < 0) p = -p;
    return p > 1 ? 2 - p : p;
}

}  // namespace

extern const SourceRow walkSource{
    .kind = SourceKind::walk,
    .name = "walk",
    .label = "Random walk",
    .max = 0,
    .numbered = false,
    .origin = Origin::generator,
    .fields = fields,
    .help = "Small steps up and down, at random.",
};

bool walkMoves(const Source& source) {
    return numberOf(source, rateField) > 0 && numberOf(source, sizeField) > 0;
}

double walkPosition(const Source& source, GeneratorState& state, Microseconds now) {
    const auto due = static_cast<std::uint64_t>(static_cast<double>(now) * numberOf(source, rateField) / 1e6);
    if (!state.started) {
        state.steps = due;
        return 0.5;
    }
    const auto seed = static_cast<std::uint64_t>(numberOf(source, seedField));
    const double size = numberOf(source, sizeField);
    double p = state.position;
    for (; state.steps < due; ++state.steps)
        p = reflected(p + size * (2 * randomDraw(seed, state.steps) - 1));
    return p;
}

}  // namespace mellow
