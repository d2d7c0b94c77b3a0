// S-curve: gentle at both ends and quick in the middle, or the other way round.
//
// Two bends back to back, so that the middle stays where it was. Signal rules, section 2: for p below ½,
// 0.5·(2p)^γ(b); else 1 − 0.5·(2 − 2p)^γ(b).
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
     "Above 0: gentle at both ends. Below 0: gentle in the middle."},
}};

double curved(double p, double exponent) {
    if (p < 0.5) return 0.5 * std::pow(2 * p, exponent);
    return 1 - 0.5 * std::pow(2 - 2 * p, exponent);
}

double shape(const Step& step, double p) {
    return curved(p, bendExponent(numberOf(step, 0)));
}

void shapeAll(const Step& step, std::span<double> positions) {
    const double exponent = bendExponent(numberOf(step, 0));
    for (double& p : positions) p = curved(p, exponent);
}

std::string phrase(const Step& step, const PhraseContext&) {
    const double amount = numberOf(step, 0);
    if (amount == 0) return {};
    return amount > 0 ? "gentle at both ends" : "gentle in the middle";
}

}  // namespace

const StepKind sCurveStep = [] {
    StepKind kind{"sCurve", "S-curve", "Curves both ends with one number; the middle stays.", fields};
    kind.shape = shape;
    kind.shapeAll = shapeAll;
    kind.phrase = phrase;
    kind.example = [] { return std::vector<FieldValue>{0.6}; };
    return kind;
}();

}  // namespace mellow
