// Chasing: what has to be said so that playing from the middle of a take begins with everything where it
// stood.
//
// Whoever jumps into a take has not heard what came before. So the last thing that was said of each control,
// bend, pressure, program, register and element of the desk is said again, in the order in which it came, and
// keys that are down at that moment are struck again, last. What a control did on its way is not repeated:
// steps that remember it (a latch, a relative encoder) are brought where they stood by running the take
// (engine/playing/adopting.cpp), and by this only as far as a hand could bring them.
#pragma once

#include <cstdint>
#include <vector>

#include "core/takes/take.h"

namespace mellow {

/// Places of the events before a time that are to be played again, in the order in which to play them.
std::vector<std::uint32_t> eventsToChase(const Take& take, std::int64_t time);

}  // namespace mellow
