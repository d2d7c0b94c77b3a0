// What a kind of step would do, for pictures that one chooses by.
#pragma once

#include <span>
#include <vector>

#include "core/steps/step.h"

namespace mellow {

struct StepExample {
    /// False: over the travel of the source. True: while a hand moves up and down twice, since what the step
    /// does is a matter of time.
    bool overTime = false;
    std::vector<double> before;  ///< what comes to the step
    std::vector<double> after;   ///< what it makes of it
};

/// What a step does behind other steps. count: of points, evenly spread. A second source stands in the
/// middle.
StepExample exampleOf(const Step& step, std::span<const Step> behind, std::size_t count);
/// The same of a kind with values that show best what it does.
StepExample exampleOf(const StepKind& kind, std::span<const Step> behind, std::size_t count);

}  // namespace mellow
