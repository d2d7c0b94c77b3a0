// Dead zone: a part of the travel in which nothing happens, for a spring that does not return exactly or a
// foot that rests on its pedal.
//
// Signal rules, section 2: within w/2 of c the result is c; outside, each side is stretched so that 0 and 1
// stay what they are.
#include <array>
#include <cmath>

#include "core/steps/kinds.h"

namespace mellow {

namespace {

constexpr std::array<Field, 2> fields{{
    {"centre", "Centre", "%", Field::Type::number, 0, 1, 0.5, false, {}, "The middle of the dead part."},
    {"width", "Width", "%", Field::Type::number, 0, 1, 0.1, false, {}, "How much of the travel is dead."},
}};

double shape(const Step& step, double p) {
    const double centre = numberOf(step, 0);
    const double half = numberOf(step, 1) / 2;
    if (std::abs(p - centre) <= half) return centre;
    if (p < centre) return p * centre / (centre - half);
    return centre + (p - centre - half) * (1 - centre) / (1 - centre - half);
}

std::string phrase(const Step& step, const PhraseContext& context) {
    const double half = numberOf(step, 1) / 2;
    if (half == 0) return {};
    const double centre = numberOf(step, 0);
    return "dead from " + placeText(std::max(0.0, centre - half), context) + " to " +
           placeText(std::min(1.0, centre + half), context);
}

std::string flaw(const Step& step) {
    const double centre = numberOf(step, 0);
    if (!(centre >= 0 && centre <= 1)) return "the centre must lie from 0 % to 100 %";
    return numberOf(step, 1) >= 0 ? std::string() : "the width cannot be below 0 %";
}

}  // namespace

const StepKind deadZoneStep = [] {
    StepKind kind{"deadZone", "Dead zone", "Leaves a part of the travel without effect.", fields};
    kind.shape = shape;
    kind.phrase = phrase;
    kind.flaw = flaw;
    kind.example = [] { return std::vector<FieldValue>{0.5, 0.3}; };
    return kind;
}();

}  // namespace mellow
