// Dispatch: from an incoming message straight to the chains that want it.
//
// Each ear says what it hears as channels and a kind of message (Hearing). Sorted by both, these become one
// list for each of 16 channels and 134 kinds of message, so that an event reads its list and nothing else,
// however large the ensemble. Lists whose chains all merely look up are marked, and those that concern one
// chain alone say which.
#pragma once

#include "core/engine/program/plan.h"

namespace mellow::engine {

/// Adds what the plan's next chain hears, ears and cues. Where a message concerns several of its ears, they
/// come one after another.
void addHearings(Plan& plan, const PlanChain& chain);

/// Makes the lists of a plan that has all its chains, ears and hearings.
void indexDispatch(Plan& plan);

}  // namespace mellow::engine
