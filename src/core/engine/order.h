// The order in which chains run, where some write tie lines that others read (signal rules, section 6).
#pragma once

#include <string>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::engine {

/// Ids of the tie lines that a chain writes, by its branches that are on, and reads, by any of its sources.
std::vector<std::string> tieLinesWritten(const Chain& chain);
std::vector<std::string> tieLinesRead(const Chain& chain);

/// An order of the list in which those that write a tie line come before those that read it, and which is
/// that of the document otherwise. runs: a flag a chain; those without it are left out. Chains in a circle
/// come last, in document order.
std::vector<std::size_t> runningOrder(const std::vector<Chain>& chains, const std::vector<bool>& runs);

}  // namespace mellow::engine
