// Window: the part of a control's travel that counts.
//
// A wheel that never quite reaches its ends, or a pedal of which only the middle should matter: the window
// maps low..high to the whole range. Turned round (low above high) it falls; with no width it is a switch.
// Signal rules, section 2: (p − low)/(high − low); low = high: p ≥ low ? 1 : 0.
#include <array>
#include <cmath>

#include "core/steps/kinds.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

constexpr std::array<Field, 2> fields{{
    {"low",
     "From",
     "%",
     Field::Type::number,
     0,
     1,
     0,
     false,
     {},
     "Where the part of the travel in use begins."},
    {"high",
     "To",
     "%",
     Field::Type::number,
     0,
     1,
     1,
     false,
     {},
     "Where it ends. Below From, the result falls."},
}};

double shape(const Step& step, double p) {
    const double low = numberOf(step, 0);
    const double high = numberOf(step, 1);
    if (low == high) return p >= low ? 1.0 : 0.0;
    return (p - low) / (high - low);
}

std::string phrase(const Step& step, const PhraseContext& context) {
    const double low = numberOf(step, 0);
    const double high = numberOf(step, 1);
    if (low == 0 && high == 1) return {};
    if (low == high) return "on from " + placeText(low, context);
    if (low > high) return placeText(high, context) + text::dash + placeText(low, context) + " turned round";
    return placeText(low, context) + text::dash + placeText(high, context);
}

}  // namespace

const StepKind windowStep = [] {
    StepKind kind{"window", "Window", "Keeps part of the travel and stretches it to the whole.", fields};
    kind.shape = shape;
    kind.phrase = phrase;
    kind.example = [] { return std::vector<FieldValue>{0.2, 0.8}; };
    return kind;
}();

}  // namespace mellow
