// What came from a port, in words.
#pragma once

#include <string>

#include "core/midi/shapes.h"

namespace mellow::describe {

/// "CC 1", "Pitch bend".
std::string controlName(const midi::HeardControl& control);
/// "7 bits", "14-bit pair 1 + 33", "button, momentary", "encoder, two's complement".
std::string shapeName(const midi::HeardControl& control);
/// "CC 1 at 64 on channel 1, moving, 7 bits". now: microseconds, on the clock of what came.
std::string heard(const midi::HeardControl& control, std::int64_t now);

}  // namespace mellow::describe
