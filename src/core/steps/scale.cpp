// Scale: plain arithmetic, times a number and plus a number, held between 0 and 1.
// Signal rules, section 2: m·p + a.
#include <array>

#include "core/steps/kinds.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

constexpr std::array<Field, 2> fields{{
    {"times", "Times", "", Field::Type::number, -4, 4, 1, false, {}, "Below 0 it falls."},
    {"plus", "Plus", "", Field::Type::number, -1, 1, 0, false, {}, "1 is the whole travel."},
}};

double shape(const Step& step, double p) {
    return numberOf(step, 0) * p + numberOf(step, 1);
}

std::string phrase(const Step& step, const PhraseContext&) {
    const double times = numberOf(step, 0);
    const double plus = numberOf(step, 1);
    std::string words = times == 1 ? std::string() : "times " + text::plain(times);
    if (plus != 0)
        words += (words.empty() ? "" : ", ") + std::string(plus > 0 ? "raised by " : "lowered by ") +
                 text::withUnit(100 * (plus > 0 ? plus : -plus), "%");
    return words;
}

}  // namespace

const StepKind scaleStep = [] {
    StepKind kind{"scale", "Scale", "Multiplies and adds, and keeps the result in range.", fields};
    kind.shape = shape;
    kind.phrase = phrase;
    kind.example = [] { return std::vector<FieldValue>{1.5, 0.0}; };
    return kind;
}();

}  // namespace mellow
