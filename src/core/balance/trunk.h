// Which chain something moves, and where its trunk stands meanwhile.
//
// What is moved is not always what stands at the head of a chain: a wheel may write a tie line that the chain
// reads, through steps of its own. So nothing is worked out: the chain is given one more target, the sweep is
// played by the engine that plays everything, and that target hears where the trunk stands.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/balance/sweep.h"

namespace mellow::balance {

/// The chain of an instrument that a motion moves; empty: none does.
std::string chainMovedBy(const Ensemble& ensemble, const Instrument& instrument, const SweepPlan& plan);
/// Where the trunk of a chain stands in each segment of a sweep, 0 to 1. Error: as sweepOf().
Result<std::vector<double>> trunkOver(const Ensemble& ensemble, std::string_view chain,
                                      const SweepPlan& plan);

}  // namespace mellow::balance
