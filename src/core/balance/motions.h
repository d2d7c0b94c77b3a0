// All that an instrument can be measured along: what moves its chains, at first or second hand, velocity, the
// keys, and each parameter alone that can set a level.
#pragma once

#include <string>
#include <vector>

#include "core/balance/motion.h"

namespace mellow::balance {

/// In the order of its chains; nothing where there is no such instrument.
std::vector<Motion> motionsOf(const Ensemble& ensemble, const std::string& instrument);

}  // namespace mellow::balance
