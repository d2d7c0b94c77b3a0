// Time is whole microseconds from the start (signal rules, section 7).
#pragma once

#include <cstdint>

namespace mellow {

using Microseconds = std::int64_t;

}  // namespace mellow
