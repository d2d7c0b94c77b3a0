// A source speaks: its value reaches its ear, by handover where the chain asks for that, and the chain is
// marked. Each port and channel is a control of its own (signal rules, section 5).
#include <cmath>
#include <utility>

#include "core/engine/playing/engine.h"
#include "core/engine/playing/handing_over.h"

namespace mellow::engine {

void Engine::speakRaw(std::uint32_t e, int raw, PortId port, std::size_t channel) {
    const Ear& ear = plan().ears[e];
    const double place = placeOf(ear, raw);
    const bool asleep = isAsleep(plan().chains[ear.chain]);
    if (asleep && ear.hands != none) return hearPlace(e, place, port, channel);
    state().ears[e].raw = raw;
    if (asleep) return standAt(e, place);
    const bool coarse = raw > ear.max;
    // What hands over stands where its value does, wherever the control is.
    if (ear.role == Role::main && ear.hands == none) {
        const int shown = coarse ? std::min((raw - ear.max - 1) << 7, ear.max) : raw;
        state().chainLive[ear.chain].raw.store(shown, std::memory_order_relaxed);
    }
    hearPlace(e, place, port, channel);
}

/// A control stands at a place: the chain follows it at once, or once it has caught up, or, asleep, merely
/// knows it.
void Engine::hearPlace(std::uint32_t e, double place, PortId port, std::size_t channel) {
    const Ear& ear = plan().ears[e];
    const bool asleep = isAsleep(plan().chains[ear.chain]);
    if (ear.hands == none) return asleep ? standAt(e, place) : speak(e, place);
    HandState& hand = handOf(handsOf(e), state().ears[e].nextHand, port, static_cast<std::uint8_t>(channel));
    if (asleep) {
        hand.place = place;
        hand.known = true;
        return;
    }
    const double before = state().ears[e].position;
    // A value that nobody knows yet is no value to wait for.
    if (!state().ears[e].spoken) hand.caught = true;
    const auto position = handOver(ear.handover, hand, before, place);
    ChainLive& live = state().chainLive[ear.chain];
    live.control.store(hand.caught ? -1.0F : static_cast<float>(place), std::memory_order_relaxed);
    if (!position) return;
    if (ear.role == Role::main && ear.max > 0)
        live.raw.store(encode(ear.scale, *position, ear.max), std::memory_order_relaxed);
    // Whoever else moves the value takes it away from all other controls.
    if (*position != before) {
        for (HandState& other : handsOf(e)) other.caught = other.caught && &other == &hand;
    }
    speak(e, *position);
}

/// Where a source of a chain that sleeps stands now counts when the chain is in hand again; nothing runs.
void Engine::standAt(std::uint32_t e, double position) {
    const Ear& ear = plan().ears[e];
    EarState& earState = state().ears[e];
    earState.position = position;
    earState.spoken = true;
    if (ear.role == Role::combine) state().steps[ear.step].other = position;
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
    const bool moves =
        keepsMoving(*plan().ears[e].source, ear.generator) && !isAsleep(plan().chains[plan().ears[e].chain]);
    if (moves && !ear.moves) ++movingGenerators_;
    if (!moves && ear.moves) --movingGenerators_;
    ear.moves = moves;
}

}  // namespace mellow::engine
