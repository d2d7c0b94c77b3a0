// The order in which chains run and instruments pass on, where tie lines are written and read.
//
// Shared chains come first, then each instrument's, all as the document has them, and an instrument passes on
// behind its chains (signal rules, section 6). A chain that reads a tie line which a later one writes waits,
// and stands right behind the last that writes it, several in document order; what its instrument passes on
// waits with it (section 11). So each event runs every chain once, with all of its sources new.
#pragma once

#include "core/engine/program/plan.h"

namespace mellow::engine {

/// Fills in the plan's order, ranks and turns, and its parts' endRank, from its chains, branches and ears.
/// Leaves order and ranks empty where nothing waits. No chains may go in a circle.
void findRunningOrder(Plan& plan);

}  // namespace mellow::engine
