// The step kinds that this version runs, each defined in the file of its name.
#pragma once

#include "core/steps/step.h"

namespace mellow {

extern const StepKind windowStep;
extern const StepKind reverseStep;
extern const StepKind bendStep;
extern const StepKind pointsStep;
extern const StepKind smoothStep;
extern const StepKind sCurveStep;
extern const StepKind restAtStep;
extern const StepKind deadZoneStep;
extern const StepKind levelsStep;
extern const StepKind gateStep;
extern const StepKind latchStep;
extern const StepKind holdStep;
extern const StepKind scaleStep;
extern const StepKind limitStep;
extern const StepKind combineStep;
extern const StepKind formulaStep;
extern const StepKind thinStep;

}  // namespace mellow
