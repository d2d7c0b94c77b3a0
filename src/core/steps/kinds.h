// The step kinds that this version runs, each defined in the file of its name.
#pragma once

#include "core/steps/step.h"

namespace mellow {

extern const StepKind windowStep;
extern const StepKind reverseStep;
extern const StepKind bendStep;
extern const StepKind pointsStep;
extern const StepKind smoothStep;

}  // namespace mellow
