// Bend: slow at first and quick at the end, or the other way round, with both ends where they were.
//
// Signal rules, section 2: p^γ(b) with γ(b) = 8^b, so that amounts b and −b undo each other, 0 is straight,
// and ±1 are as far as a hand can still steer.
#include <array>
#include <cmath>

#include "core/steps/kinds.h"

namespace mellow {

namespace {

constexpr std::array<Field, 1> fields{{
    {"amount",
     "Amount",
     "",
     Field::Type::number,
     -1,
     1,
     0,
     true,
     {},
     "Above 0: slow at first, quick at the end. Below 0: quick at first."},
}};

double shape(const Step& step, double p) {
    return std::pow(p, bendExponent(numberOf(step, 0)));
}

void shapeAll(const Step& step, std::span<double> positions) {
    const double exponent = bendExponent(numberOf(step, 0));
    for (double& p : positions) p = std::pow(p, exponent);
}

std::string phrase(const Step& step, const PhraseContext&) {
    const double amount = numberOf(step, 0);
    if (amount == 0) return {};
    const std::string_view strength = std::abs(amount) < 0.15  ? "slightly "
                                      : std::abs(amount) > 0.6 ? "strongly "
                                                               : "";
    return std::string(strength) + (amount > 0 ? "eased in" : "quick at first");
}

}  // namespace

double bendExponent(double amount) {
    return std::pow(8.0, amount);
}

const StepKind bendStep = [] {
    StepKind kind{"bend", "Bend", "Curves the travel with one number; the ends stay.", fields};
    kind.shape = shape;
    kind.shapeAll = shapeAll;
    kind.phrase = phrase;
    kind.example = [] { return std::vector<FieldValue>{0.5}; };
    return kind;
}();

}  // namespace mellow
