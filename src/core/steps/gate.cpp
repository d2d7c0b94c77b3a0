// Gate: on above a threshold, off below it, with a little distance between the two so that it does not
// chatter. Signal rules, section 2: on at p ≥ t, off at p < t − h; the first input as if h were 0.
#include <array>

#include "core/steps/kinds.h"

namespace mellow {

namespace {

constexpr std::array<Field, 2> fields{{
    {"threshold", "On from", "%", Field::Type::number, 0, 1, 0.5, false, {}, "Where it switches on."},
    {"hysteresis",
     "Hysteresis",
     "%",
     Field::Type::number,
     0,
     1,
     0.02,
     false,
     {},
     "How far below that it switches off."},
}};

double settled(const Step& step, double p) {
    return p >= numberOf(step, 0) ? 1 : 0;
}

void take(const Step& step, StepState& state, double input, Microseconds) {
    const double threshold = numberOf(step, 0);
    if (input >= threshold) {
        state.output = 1;
    } else if (!state.started || input < threshold - numberOf(step, 1)) {
        state.output = 0;
    }
    state.input = input;
    state.started = true;
}

std::string phrase(const Step& step, const PhraseContext& context) {
    return "on from " + placeText(numberOf(step, 0), context);
}

std::string flaw(const Step& step) {
    return numberOf(step, 1) >= 0 ? std::string() : "the hysteresis cannot be below 0 %";
}

}  // namespace

const StepKind gateStep = [] {
    StepKind kind{"gate", "Gate", "Switches on above a threshold and off below it.", fields};
    kind.settled = settled;
    kind.take = take;
    kind.phrase = phrase;
    kind.flaw = flaw;
    return kind;
}();

}  // namespace mellow
