// From the ensemble to a plan.
#pragma once

#include <memory>

#include "core/engine/plan.h"

namespace mellow::engine {

/// Compiles everything that can run; a chain or instrument that checks say cannot is left out.
/// previous: the numbering of the plan that this one will take over from, which is kept; may be null.
/// Allocates; to be called on the editing side.
std::unique_ptr<Program> compile(const Ensemble& ensemble, const Numbering* previous = nullptr);

}  // namespace mellow::engine
