// Handing over: when a value that something else has moved meanwhile follows its control again (signal rules,
// section 5). Each port and channel is a control of its own, and what is known of each is a HandState.
#pragma once

#include <optional>
#include <span>

#include "core/engine/program/state.h"

namespace mellow::engine {

/// What is known of a control among those that move an ear; where there is no room for a new one, the first
/// that came is forgotten. next: where the next new one goes, 0..hands.size() − 1.
HandState& handOf(std::span<HandState> hands, std::uint32_t& next, PortId port, std::uint8_t channel);

/// What a control's place becomes for a value that stands at `value`, or nothing while the control has not
/// caught up with it. Places and values are positions, 0..1. `hand` remembers the place.
std::optional<double> handOver(Handover handover, HandState& hand, double value, double place);

}  // namespace mellow::engine
