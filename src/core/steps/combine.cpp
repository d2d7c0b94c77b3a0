// Combine: the chain's value and the place of a second source become one.
//
// Signal rules, section 2, with p the value and q the second source's position. The second source moves the
// chain too, from this step on (section 3): whoever plays writes its position into the state and stirs the
// step.
#include <algorithm>
#include <array>

#include "core/steps/kinds.h"

namespace mellow {

namespace {

enum How { add, multiply, highest, lowest, average, difference, opposed };
constexpr std::array<std::string_view, 7> ways{"add",     "multiply",   "highest", "lowest",
                                               "average", "difference", "opposed"};

constexpr std::array<Field, 1> fields{{
    {"how", "How", "", Field::Type::choice, 0, 6, multiply, false, ways, "How the two values become one."},
}};

double combined(int how, double p, double q) {
    switch (how) {
        case add:
            return p + q;
        case multiply:
            return p * q;
        case highest:
            return std::max(p, q);
        case lowest:
            return std::min(p, q);
        case average:
            return (p + q) / 2;
        case difference:
            return p - q;
        default:
            return 0.5 + (p - q) / 2;
    }
}

void take(const Step& step, StepState& state, double input, Microseconds) {
    state.input = input;
    state.output = combined(choiceOf(step, 0), input, state.other);
    state.started = true;
}

std::string phrase(const Step& step, const PhraseContext& context) {
    static constexpr std::array<std::string_view, 7> words{
        "plus ", "times ", "or ", "held below ", "averaged with ", "minus ", "against "};
    const auto how = static_cast<std::size_t>(choiceOf(step, 0));
    return std::string(words.at(how)) + context.second + (how == highest ? " where that is higher" : "");
}

}  // namespace

const StepKind combineStep = [] {
    StepKind kind{"combine", "Combine", "Joins a second source to the value.", fields};
    kind.namesSource = true;
    kind.take = take;
    kind.phrase = phrase;
    return kind;
}();

}  // namespace mellow
