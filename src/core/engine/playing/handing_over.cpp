#include "core/engine/playing/handing_over.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "core/model/scale.h"

namespace mellow::engine {

HandState& handOf(std::span<HandState> hands, std::uint32_t& next, PortId port, std::uint8_t channel) {
    const auto found = std::find_if(hands.begin(), hands.end(), [&](const HandState& hand) {
        return hand.known && hand.port == port && hand.channel == channel;
    });
    if (found != hands.end()) return *found;
    HandState& hand = hands[next];
    next = (next + 1) % static_cast<std::uint32_t>(hands.size());
    hand = {};
    hand.port = port;
    hand.channel = channel;
    return hand;
}

std::optional<double> handOver(Handover handover, HandState& hand, double value, double place) {
    constexpr double close = 1e-9;
    const double before = std::exchange(hand.place, place);
    const bool known = std::exchange(hand.known, true);
    if (hand.caught) return place;
    const bool reaches = (before <= value && place >= value) || (before >= value && place <= value);
    hand.caught = std::abs(place - value) < close || (known && handover == Handover::meet && reaches);
    if (hand.caught) return place;
    if (!known || handover == Handover::meet || place == before) return std::nullopt;
    const double moved = place > before ? value + (1 - value) * (place - before) / (1 - before)
                                        : value - value * (before - place) / before;
    hand.caught = std::abs(place - moved) < close;
    return clampPosition(hand.caught ? place : moved);
}

}  // namespace mellow::engine
