// A source speaks: its value reaches its ear, by handover where the chain asks for that, and the chain is
// marked. Each port and channel is a control of its own (signal rules, section 5).
#include <cmath>
#include <utility>

#include "core/engine/engine.h"

namespace mellow::engine {

void Engine::speakRaw(std::uint32_t e, int raw, PortId port, std::size_t channel) {
    const Ear& ear = plan().ears[e];
    const double place = placeOf(ear, raw);
    if (plan().chains[ear.chain].asleep) return hearPlace(e, place, port, channel);
    state().ears[e].raw = raw;
    const bool coarse = raw > ear.max;
    if (ear.role == Role::main) {
        const int shown = coarse ? std::min((raw - ear.max - 1) << 7, ear.max) : raw;
        state().chainLive[ear.chain].raw.store(shown, std::memory_order_relaxed);
    }
    hearPlace(e, place, port, channel);
}

/// A control stands at a place: the chain follows it at once, or once it has caught up, or, asleep, merely
/// knows it.
void Engine::hearPlace(std::uint32_t e, double place, PortId port, std::size_t channel) {
    const Ear& ear = plan().ears[e];
    const bool asleep = plan().chains[ear.chain].asleep;
    if (ear.hands == none) {
        if (!asleep) speak(e, place);
        return;
    }
    HandState& hand = handOf(e, port, channel);
    if (asleep) {
        hand.place = place;
        hand.known = true;
        return;
    }
    const double before = state().ears[e].position;
    const auto position = handOver(e, hand, place);
    if (!position) return;
    // Whoever else moves the value takes it away from all other controls.
    if (*position != before) {
        for (HandState& other : handsOf(e)) other.caught = other.caught && &other == &hand;
    }
    speak(e, *position);
}

void Engine::speak(std::uint32_t e, double position) {
    const Ear& ear = plan().ears[e];
    EarState& earState = state().ears[e];
    ChainState& chain = state().chains[ear.chain];
    earState.position = position;
    earState.spoken = true;
    switch (ear.role) {
        case Role::main:
            chain.moved = true;
            if (ear.max == 0)
                state().chainLive[ear.chain].source.store(static_cast<float>(position),
                                                          std::memory_order_relaxed);
            break;
        case Role::combine:
            state().steps[ear.step].other = position;
            state().steps[ear.step].stirred = true;
            chain.stirred = true;
            break;
        case Role::chooser:
            state().chainLive[ear.chain].fed.store(
                static_cast<int>(chosenBranch(plan().chains[ear.chain], position)),
                std::memory_order_relaxed);
            break;
    }
    mark(ear.chain);
}

std::span<HandState> Engine::handsOf(std::uint32_t e) {
    return std::span(state().hands).subspan(plan().ears[e].hands, handsPerEar);
}

/// What is known of a control that moves an ear; where there is no room for a new one, the first that came is
/// forgotten.
HandState& Engine::handOf(std::uint32_t e, PortId port, std::size_t channel) {
    const auto hands = handsOf(e);
    const auto found = std::find_if(hands.begin(), hands.end(), [&](const HandState& hand) {
        return hand.known && hand.port == port && hand.channel == channel;
    });
    if (found != hands.end()) return *found;
    std::uint32_t& next = state().ears[e].nextHand;
    HandState& hand = hands[next];
    next = (next + 1) % handsPerEar;
    hand = {};
    hand.port = port;
    hand.channel = static_cast<std::uint8_t>(channel);
    return hand;
}

/// What a control's place becomes for the chain, or nothing while the control has not caught up with it
/// (signal rules, section 5).
std::optional<double> Engine::handOver(std::uint32_t e, HandState& hand, double place) {
    constexpr double close = 1e-9;
    const Handover handover = plan().ears[e].handover;
    const double value = state().ears[e].position;
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

void Engine::noteOnForGenerator(std::uint32_t e, bool pressed) {
    EarState& ear = state().ears[e];
    if (pressed) ++ear.keysDown;
    noteBegins(*plan().ears[e].source, ear.generator, now_);
    refreshGenerator(e);
}

void Engine::noteOffForGenerator(std::uint32_t e, bool lifted) {
    EarState& ear = state().ears[e];
    if (!lifted || ear.keysDown == 0 || --ear.keysDown > 0) return;
    lastNoteEnds(*plan().ears[e].source, ear.generator, now_);
    refreshGenerator(e);
}

void Engine::refreshGenerator(std::uint32_t e) {
    EarState& ear = state().ears[e];
    const bool moves = keepsMoving(*plan().ears[e].source, ear.generator);
    if (moves && !ear.moves) ++movingGenerators_;
    if (!moves && ear.moves) --movingGenerators_;
    ear.moves = moves;
}

}  // namespace mellow::engine
