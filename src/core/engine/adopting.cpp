// An edited plan takes over from the one that plays, in mid-stream.
//
// Whatever is the same goes on as if nothing had happened: ears stand where they stood, steps remember what
// they remembered, lanes know what was sent, and held notes are still held. What changed is heard at once,
// and what was taken away is let go.
#include <algorithm>
#include <array>
#include <utility>

#include "core/engine/engine.h"

namespace mellow::engine {

namespace {

template<class Things>
void copyFront(const Things& from, Things& to) {
    std::copy_n(from.begin(), std::min(from.size(), to.size()), to.begin());
}

}  // namespace

Program* Engine::adopt(Program* next, const Sink& sink) {
    Program* old = program_;
    program_ = next;
    mixes_ = !plan().mixes.empty();
    beginEvent(nullptr);
    movingChains_ = 0;
    movingGenerators_ = 0;
    carryLanes(*old);
    carryParts(*old);
    for (std::uint32_t chain = 0; chain < plan().chains.size(); ++chain) carryChain(*old, chain);
    for (const std::uint32_t ear : plan().notesCounted) countKeys(ear);
    for (const std::uint32_t ear : plan().generators) {
        if (state().ears[ear].moves) ++movingGenerators_;
    }
    releaseForgottenNotes(sink);
    for (std::uint32_t part = 0; part < plan().parts.size(); ++part) {
        const Part& now = plan().parts[part];
        const auto& parts = old->plan.parts;
        const auto before =
            std::find_if(parts.begin(), parts.end(), [&](const Part& each) { return each.name == now.name; });
        if (before == parts.end() || before->inHand == now.inHand) continue;
        if (now.inHand) {
            comeIntoHand(part, sink);
        } else {
            leaveHand(part, before->lane, sink);
        }
    }
    for (std::uint32_t chain = 0; chain < plan().chains.size(); ++chain) {
        if (!std::exchange(state().chains[chain].edited, false) || plan().chains[chain].asleep) continue;
        state().chains[chain].moved = true;
        mark(chain);
    }
    walkRest(sink);
    return old;
}

void Engine::carryLanes(const Program& old) {
    copyFront(old.state.sent, state().sent);
    copyFront(old.state.selections, state().selections);
    copyFront(old.state.registers, state().registers);
    copyFront(old.state.osc, state().osc);
    copyFront(old.state.tieLines, state().tieLines);
}

void Engine::carryParts(const Program& old) {
    for (std::size_t p = 0; p < plan().parts.size(); ++p) {
        if (!plan().parts[p].drivesVelocity) continue;
        for (std::size_t o = 0; o < old.plan.parts.size(); ++o) {
            if (old.plan.parts[o].name == plan().parts[p].name)
                state().velocities[p] = old.state.velocities[o];
        }
    }
}

void Engine::carryChain(const Program& old, std::uint32_t index) {
    const PlanChain& chain = plan().chains[index];
    const auto found = std::lower_bound(old.plan.chainsByKey.begin(), old.plan.chainsByKey.end(), chain.key,
                                        [&old](auto at, auto key) { return old.plan.chains[at].key < key; });
    if (found == old.plan.chainsByKey.end() || old.plan.chains[*found].key != chain.key) return;
    const PlanChain& before = old.plan.chains[*found];
    if (chain.version != before.version && chain.origin->sources[0] != before.origin->sources[0]) return;
    const ChainState& was = old.state.chains[*found];
    const bool same = chain.version == before.version;
    state().chains[index].raw = was.raw;
    state().chains[index].spoken = was.spoken;
    state().chains[index].edited = was.spoken && !same;
    const auto carrySteps = [&](const std::vector<Step>& now, std::uint32_t first,
                                const std::vector<Step>& then, std::uint32_t firstThen) {
        for (std::size_t i = 0; i < std::min(now.size(), then.size()); ++i) {
            if (now[i].kind != then[i].kind) break;
            const double rest = state().steps[first + i].other;
            state().steps[first + i] = old.state.steps[firstThen + i];
            // Where the second source stands comes with its ear.
            state().steps[first + i].other = rest;
        }
    };
    carrySteps(chain.steps, chain.firstState, before.steps, before.firstState);
    for (std::uint32_t b = 0; b < std::min(chain.branchCount, before.branchCount); ++b) {
        const std::uint32_t placeNow = chain.firstBranch + b;
        const std::uint32_t placeThen = before.firstBranch + b;
        const PlanBranch& now = plan().branches[placeNow];
        const PlanBranch& then = old.plan.branches[placeThen];
        carrySteps(now.steps, now.firstState, then.steps, then.firstState);
        if (chain.origin->written.branches[b].target == before.origin->written.branches[b].target && now.on &&
            then.on)
            state().mixed[placeNow] = old.state.mixed[placeThen];
        if (!same) continue;
        const float value = old.state.branchLive[placeThen].value.load(std::memory_order_relaxed);
        state().branchLive[placeNow].value.store(value, std::memory_order_relaxed);
    }
    carryEars(old, chain, before);
    if (!before.isEvaluated() && was.spoken) {
        // Looking up notes where the source stands with the chain alone.
        const Ear& ear = plan().ears[chain.firstEar];
        EarState& earState = state().ears[chain.firstEar];
        earState.raw = was.raw;
        earState.position = placeOf(ear, was.raw);
        earState.spoken = true;
    }
    const ChainLive& live = old.state.chainLive[*found];
    state().chainLive[index].raw.store(live.raw.load(std::memory_order_relaxed), std::memory_order_relaxed);
    state().chainLive[index].source.store(live.source.load(std::memory_order_relaxed),
                                          std::memory_order_relaxed);
    state().chainLive[index].result.store(live.result.load(std::memory_order_relaxed),
                                          std::memory_order_relaxed);
    // A chain that slept and wakes is handed over.
    if (before.asleep && !chain.asleep) state().ears[chain.firstEar].hand = {};
    updateMoving(index);
}

/// Ears are matched by what they are for: the source, the chooser, and each combine by its step.
void Engine::carryEars(const Program& old, const PlanChain& now, const PlanChain& before) {
    for (std::uint32_t e = now.firstEar; e < now.firstEar + now.earCount; ++e) {
        const Ear& ear = plan().ears[e];
        for (std::uint32_t o = before.firstEar; o < before.firstEar + before.earCount; ++o) {
            const Ear& earlier = old.plan.ears[o];
            const bool sameJob = ear.role == earlier.role && ear.place == earlier.place;
            const bool sameSource = now.version == before.version || ear.source == earlier.source;
            if (!sameJob || !sameSource) continue;
            state().ears[e] = old.state.ears[o];
            if (ear.role == Role::combine) state().steps[ear.step].other = state().ears[e].position;
        }
    }
}

/// How many keys are down that an envelope hears, counted anew, since what it hears may have changed.
void Engine::countKeys(std::uint32_t e) {
    const Ear& ear = plan().ears[e];
    const std::uint32_t p = plan().chains[ear.chain].part;
    const Part* part = p == none ? nullptr : &plan().parts[p];
    std::uint16_t count = 0;
    for (std::size_t port = 0; port < Hands::portCount; ++port) {
        const auto id = static_cast<PortId>(port);
        if (!portFits(ear.port, id) || (part != nullptr && !portFits(part->inputPort, id))) continue;
        for (std::size_t channel = 0; channel < 16; ++channel) {
            if (ear.channel >= 0 && ear.channel != static_cast<int>(channel)) continue;
            if (part != nullptr && (part->inputChannels >> channel & 1) == 0) continue;
            for (int key = 0; key < 128; ++key) {
                const bool down = hands_.isDown(id, channel, static_cast<std::size_t>(key));
                if (down && (part == nullptr || transposed(*part, key))) ++count;
            }
        }
    }
    EarState& earState = state().ears[e];
    earState.keysDown = count;
    if (count == 0) lastNoteEnds(ear.source, earState.generator, now_);
    earState.moves = keepsMoving(ear.source, earState.generator);
}

void Engine::leaveHand(std::uint32_t p, std::uint32_t lane, const Sink& sink) {
    const Sender sender{plan().parts[p].name};
    const std::uint8_t channel = plan().lanes()[lane].channel;
    for (const std::uint8_t pedal : Hands::pedals) {
        const Payload last = sent(lane, pedal);
        if (last != noPayload && last >> 8 > 0) putControl(lane, sender, pedal, 0, sink);
    }
    constexpr Payload centre = payload(0, midi::bendCentre >> 7);
    if (Payload& last = sent(lane, bendSlot); last != noPayload && last != centre) {
        last = centre;
        put(lane, sender, midi::makeBend(channel, midi::bendCentre), sink);
    }
    if (Payload& last = sent(lane, pressureSlot); last != noPayload && last != 0) {
        last = 0;
        put(lane, sender, midi::make(midi::channelPressure, channel, 0), sink);
    }
    const std::array<std::uint8_t, 3> off{midi::noteOff, 0, 64};
    for (std::size_t i = 0; i < notes_.held().size(); ++i) {
        const HeldNote& note = notes_.held()[i];
        if (note.input.port == parameterPort && note.instrument == sender.instrument)
            releaseNote(i, off, sink);
    }
    notes_.sweep();
}

/// The pedals that are down come to it as if they went down now: to its chains that slept, or passed on.
void Engine::comeIntoHand(std::uint32_t p, const Sink& sink) {
    const Part& part = plan().parts[p];
    for (std::size_t port = 0; port < Hands::portCount; ++port) {
        for (std::size_t channel = 0; channel < 16; ++channel) {
            if ((part.inputChannels >> channel & 1) == 0) continue;
            for (std::size_t pedal = 0; pedal < Hands::pedals.size(); ++pedal) {
                const auto id = static_cast<PortId>(port);
                const int value = hands_.pedal(id, channel, pedal);
                if (value < Hands::down || !portFits(part.inputPort, id)) continue;
                const auto message = midi::make(midi::controlChange, static_cast<int>(channel),
                                                Hands::pedals.at(pedal), value);
                givePedal({now_, id, message.bytes()}, p, sink);
            }
        }
    }
}

void Engine::givePedal(const Event& event, std::uint32_t p, const Sink& sink) {
    bool taken = false;
    bool keep = false;
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    for (const Listener& listener : plan().listenersTo(channel, event.bytes[1])) {
        const bool own = listener.part == p || listener.part == none;
        if (!own || listener.ear == none || !portFits(listener.port, event.port)) continue;
        taken = true;
        keep = keep || listener.keep;
        const PlanChain& chain = plan().chains[listener.chain];
        if (listener.part == p && chain.origin->written.active == Active::inHand)
            hearWith(listener.ear, event, event.bytes[1]);
    }
    if (taken ? keep : plan().parts[p].pass.unmatched) pass(event, p, sink);
}

/// A note that a parameter sounds ends when nothing drives the parameter any more.
void Engine::releaseForgottenNotes(const Sink& sink) {
    const std::array<std::uint8_t, 3> off{midi::noteOff, 0, 64};
    const auto& causes = plan().noteCauses;
    for (std::size_t i = 0; i < notes_.held().size(); ++i) {
        const HeldNote& note = notes_.held()[i];
        if (note.input.port != parameterPort) continue;
        const std::uint32_t cause = static_cast<std::uint32_t>(note.input.channel) << 8 | note.input.key;
        if (!std::binary_search(causes.begin(), causes.end(), cause)) releaseNote(i, off, sink);
    }
    notes_.sweep();
}

}  // namespace mellow::engine
