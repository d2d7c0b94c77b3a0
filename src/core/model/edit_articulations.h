// What follows when articulations are edited.
#pragma once

#include "core/model/ensemble.h"

namespace mellow {

/// Names the choices of articulation parameters anew, and lets what chose an articulation by its name,
/// reaches and resting values, follow a new one.
void followArticulations(const Ensemble& before, Ensemble& after);

}  // namespace mellow
