// Limit: a floor and a ceiling; what lies between them goes through as it is.
// Signal rules, section 2: min(max(p, low), high).
#include <algorithm>
#include <array>

#include "core/steps/kinds.h"

namespace mellow {

namespace {

constexpr std::array<Field, 2> fields{{
    {"low", "Floor", "%", Field::Type::number, 0, 1, 0, false, {}, "Nothing goes below it."},
    {"high", "Ceiling", "%", Field::Type::number, 0, 1, 1, false, {}, "Nothing goes above it."},
}};

double shape(const Step& step, double p) {
    return std::min(std::max(p, numberOf(step, 0)), numberOf(step, 1));
}

std::string flaw(const Step& step) {
    return numberOf(step, 0) > numberOf(step, 1) ? "the floor is above the ceiling" : "";
}

std::string phrase(const Step& step, const PhraseContext& context) {
    const double low = numberOf(step, 0);
    const double high = numberOf(step, 1);
    if (low <= 0 && high >= 1) return {};
    if (low <= 0) return "no higher than " + placeText(high, context);
    if (high >= 1) return "no lower than " + placeText(low, context);
    return "held between " + placeText(low, context) + " and " + placeText(high, context);
}

}  // namespace

const StepKind limitStep = [] {
    StepKind kind{"limit", "Limit", "A floor and a ceiling: what would go past them stays there.", fields};
    kind.shape = shape;
    kind.phrase = phrase;
    kind.flaw = flaw;
    kind.example = [] { return std::vector<FieldValue>{0.25, 0.75}; };
    return kind;
}();

}  // namespace mellow
