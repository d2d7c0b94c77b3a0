// Latch: a button that springs back becomes one that stays. Signal rules, section 2: an input that goes from
// below ½ to ½ or above flips the result between 0 and 1; before the first input both were at 0.
#include "core/steps/kinds.h"

namespace mellow {

namespace {

double settled(const Step&, double p) {
    return p >= 0.5 ? 1 : 0;
}

void take(const Step&, StepState& state, double input, Microseconds) {
    const double before = state.started ? state.input : 0;
    if (before < 0.5 && input >= 0.5) state.output = 1 - state.output;
    state.input = input;
    state.started = true;
}

std::string phrase(const Step&, const PhraseContext&) {
    return "latched, on and off in turn";
}

}  // namespace

const StepKind latchStep = [] {
    StepKind kind{"latch", "Latch", "Each press turns it on or off, and it stays.", {}};
    kind.settled = settled;
    kind.recalls = true;
    kind.take = take;
    kind.phrase = phrase;
    return kind;
}();

}  // namespace mellow
