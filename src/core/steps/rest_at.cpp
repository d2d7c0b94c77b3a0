// Rest placement: puts the place where a control rests exactly where the sound should rest, and bends the
// travel on both sides to fit.
//
// Signal rules, section 2: p^(ln y0 / ln x0), the one power of p that takes x0 to y0 and keeps both ends.
#include <array>
#include <cmath>

#include "core/steps/kinds.h"

namespace mellow {

namespace {

constexpr std::array<Field, 2> fields{{
    {"at", "Rests at", "%", Field::Type::number, 0.01, 0.99, 0.5, false, {}, "Where the control rests."},
    {"becomes",
     "Becomes",
     "%",
     Field::Type::number,
     0.01,
     0.99,
     0.5,
     false,
     {},
     "Where the result is to rest."},
}};

double shape(const Step& step, double p) {
    return std::pow(p, std::log(numberOf(step, 1)) / std::log(numberOf(step, 0)));
}

std::string phrase(const Step& step, const PhraseContext& context) {
    if (numberOf(step, 0) == numberOf(step, 1)) return {};
    return "resting " + placeText(numberOf(step, 0), context) + " at " + placeText(numberOf(step, 1), {});
}

std::string flaw(const Step& step) {
    for (const std::size_t field : {0, 1}) {
        const double place = numberOf(step, field);
        if (!(place > 0 && place < 1)) return "both places must lie between 0 % and 100 %";
    }
    return {};
}

}  // namespace

const StepKind restAtStep = [] {
    StepKind kind{"restAt", "Rest placement", "Moves the resting place of the control; both ends stay.",
                  fields};
    kind.shape = shape;
    kind.phrase = phrase;
    kind.flaw = flaw;
    kind.example = [] { return std::vector<FieldValue>{0.5, 0.2}; };
    return kind;
}();

}  // namespace mellow
