// The formula step: whatever is typed, reading it and asking for its value never crash, a sentence says what
// is wrong, and what comes out of the step is a position.
#include <cstdlib>

#include "core/steps/kinds.h"
#include "core/steps/step.h"

using namespace mellow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    Step step = makeStep(formulaStep);
    step.values[0] = std::string(reinterpret_cast<const char*>(data), size);
    if (!flawOf(step).empty()) return 0;
    std::vector<Step> steps{step};
    prepare(steps);
    StepState state;
    for (int i = 0; i <= 64; ++i) {
        step.kind->take(steps[0], state, i / 64.0, i);
        if (!(state.output >= 0 && state.output <= 1)) std::abort();
    }
    return 0;
}
