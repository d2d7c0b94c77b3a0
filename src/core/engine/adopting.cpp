// An edited plan takes over from the one that plays, in mid-stream.
//
// Whatever is the same goes on as if nothing had happened: ears stand where they stood, steps remember what
// they remembered, lanes know what was sent, and held notes are still held. What changed is heard at once,
// and what was taken away is let go.
#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include "core/engine/engine.h"

namespace mellow::engine {

namespace {

std::uint32_t causeOf(const InputKey& input) {
    return static_cast<std::uint32_t>(input.channel) << 8 | input.key;
}

template<class Things>
void copyFront(const Things& from, Things& to) {
    std::copy_n(from.begin(), std::min(from.size(), to.size()), to.begin());
}

/// A part by its name; nearly always it stands where it stood.
const PlanInstrument* partNamed(const Plan& plan, std::uint32_t name, std::size_t likely) {
    const auto& parts = plan.parts;
    if (likely < parts.size() && parts[likely].name == name) return &parts[likely];
    const auto found = std::find_if(parts.begin(), parts.end(),
                                    [name](const PlanInstrument& each) { return each.name == name; });
    return found == parts.end() ? nullptr : &*found;
}

}  // namespace

Program* Engine::adopt(Program* next, const Sink& sink) {
    Program* old = program_;
    program_ = next;
    mixes_ = plan().hasMixes;
    beginEvent(nullptr);
    if (plan().follows != old->plan.follows || plan().clockPort != old->plan.clockPort) {
        clockTempo_ = 0;
        clock_.begin();
    }
    movingChains_ = 0;
    movingGenerators_ = 0;
    carryLanes(*old);
    carryVelocities(*old);
    for (std::uint32_t chain = 0; chain < plan().chains.size(); ++chain) carryChain(*old, chain);
    changeTempo();
    for (const std::uint32_t ear : plan().notesCounted) countKeys(ear);
    for (const std::uint32_t ear : plan().generators) {
        if (state().ears[ear].moves) ++movingGenerators_;
    }
    releaseForgottenNotes(sink);
    leaveLanes(old->plan, sink);
    changeHands(old->plan, sink);
    for (std::uint32_t chain = 0; chain < plan().chains.size(); ++chain) {
        if (!std::exchange(state().chains[chain].edited, false) || plan().chains[chain].asleep) continue;
        state().chains[chain].moved = true;
        mark(chain);
    }
    walkRest(sink);
    return old;
}

/// Instruments that are gone, are switched off or play elsewhere now hear of no pedal's coming up; so what
/// they hold is let go, unless somebody else in hand plays there.
void Engine::leaveLanes(const Plan& old, const Sink& sink) {
    for (std::size_t p = 0; p < old.parts.size(); ++p) {
        const Part& was = old.parts[p];
        const Part* now = partNamed(plan(), was.name, p);
        if (!was.inHand || (now != nullptr && now->lane == was.lane)) continue;
        const bool used = std::any_of(plan().parts.begin(), plan().parts.end(), [&was](const Part& other) {
            return other.lane == was.lane && other.inHand;
        });
        if (!used) letGo(was.lane, {was.name}, sink);
    }
}

/// Instruments that leave the hand, and those that come into it: where they are new, too.
void Engine::changeHands(const Plan& old, const Sink& sink) {
    for (std::uint32_t part = 0; part < plan().parts.size(); ++part) {
        const Part& now = plan().parts[part];
        const Part* before = partNamed(old, now.name, part);
        const bool isNew = before == nullptr || before->lane != now.lane;
        const bool wasInHand = before != nullptr && before->inHand;
        if (now.inHand && (isNew || !wasInHand)) comeIntoHand(part, sink);
        if (!now.inHand && wasInHand) leaveHand(part, before->lane, sink);
    }
}

void Engine::carryLanes(const Program& old) {
    copyFront(old.state.sent, state().sent);
    copyFront(old.state.selections, state().selections);
    copyFront(old.state.registers, state().registers);
    copyFront(old.state.osc, state().osc);
    copyFront(old.state.tieLines, state().tieLines);
    copyFront(old.state.notesOn, state().notesOn);
}

void Engine::carryVelocities(const Program& old) {
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
    const PlanChain* before = old.plan.chainWithKey(chain.key);
    if (before == nullptr) return;
    const auto place = static_cast<std::size_t>(before - old.plan.chains.data());
    if (chain.version == before->version) {
        carryWhole(old, index, *before);
    } else if (*chain.body->sources[0] == *before->body->sources[0]) {
        carryParts(old, index, *before);
        state().chains[index].edited = old.state.chains[place].spoken;
    } else {
        return;
    }
    state().chains[index].raw = old.state.chains[place].raw;
    state().chains[index].spoken = old.state.chains[place].spoken;
    if (!before->isEvaluated() && old.state.chains[place].raw >= 0) {
        // Looking up notes where the source stands with the chain alone.
        EarState& ear = state().ears[chain.firstEar];
        ear.raw = old.state.chains[place].raw;
        ear.position = placeOf(plan().ears[chain.firstEar], ear.raw);
        ear.spoken = true;
    }
    const auto carry = [](const auto& from, auto& to) {
        to.store(from.load(std::memory_order_relaxed), std::memory_order_relaxed);
    };
    carry(old.state.chainLive[place].raw, state().chainLive[index].raw);
    carry(old.state.chainLive[place].source, state().chainLive[index].source);
    carry(old.state.chainLive[place].result, state().chainLive[index].result);
    carry(old.state.chainLive[place].stepsUp, state().chainLive[index].stepsUp);
    if (chain.chosen) {
        const double q = state().ears[chain.firstEar + chain.earCount - 1].position;
        state().chainLive[index].fed.store(static_cast<int>(chosenBranch(chain, q)),
                                           std::memory_order_relaxed);
    }
    carryHands(old, plan().ears[chain.firstEar], old.plan.ears[before->firstEar]);
    if (before->asleep && !chain.asleep) wake(index);
    if (chain.ticks) updateMoving(index);
}

/// What is known of the controls that move a chain's source.
void Engine::carryHands(const Program& old, const Ear& ear, const Ear& before) {
    if (ear.hands == none || before.hands == none) return;
    std::copy_n(old.state.hands.begin() + before.hands, handsPerEar, state().hands.begin() + ear.hands);
}

/// A chain that slept is handed over, and its tie lines stand where they were written to meanwhile.
void Engine::wake(std::uint32_t index) {
    const PlanChain& chain = plan().chains[index];
    if (plan().ears[chain.firstEar].hands != none) {
        for (HandState& hand : handsOf(chain.firstEar)) hand.caught = false;
    }
    for (std::uint32_t e = chain.firstEar; e < chain.firstEar + chain.earCount; ++e) {
        const Ear& ear = plan().ears[e];
        const double written = ear.tieLine == none ? std::nan("") : state().tieLines[ear.tieLine];
        if (std::isnan(written)) continue;
        state().ears[e].position = written;
        if (ear.role == Role::combine) state().steps[ear.step].other = written;
    }
}

/// A chain that does the same as before: all that it remembers lies in the same order.
void Engine::carryWhole(const Program& old, std::uint32_t index, const PlanChain& before) {
    const PlanChain& chain = plan().chains[index];
    const auto copy = [](const auto& from, std::size_t first, std::size_t count, auto& to, std::size_t at) {
        std::copy_n(from.begin() + static_cast<std::ptrdiff_t>(first), count,
                    to.begin() + static_cast<std::ptrdiff_t>(at));
    };
    const std::uint32_t states = std::min(chain.stateCount, before.stateCount);
    copy(old.state.steps, before.firstState, states, state().steps, chain.firstState);
    copy(old.state.ears, before.firstEar, chain.earCount, state().ears, chain.firstEar);
    if (!chain.isEvaluated()) return;
    copy(old.state.mixed, before.firstBranch, chain.branchCount, state().mixed, chain.firstBranch);
    for (std::uint32_t b = 0; b < chain.branchCount; ++b) {
        const float value =
            old.state.branchLive[before.firstBranch + b].value.load(std::memory_order_relaxed);
        state().branchLive[chain.firstBranch + b].value.store(value, std::memory_order_relaxed);
    }
}

/// An edited chain keeps what still has its place: steps up to the first of another kind, ears with the same
/// source, what branches to the same targets last produced.
void Engine::carryParts(const Program& old, std::uint32_t index, const PlanChain& before) {
    const PlanChain& chain = plan().chains[index];
    const auto carrySteps = [&](std::span<const Step> now, std::uint32_t first, std::span<const Step> then,
                                std::uint32_t firstThen) {
        if (chain.stateCount == 0 || before.stateCount == 0) return;
        for (std::size_t i = 0; i < std::min(now.size(), then.size()); ++i) {
            if (now[i].kind != then[i].kind) break;
            const double rest = state().steps[first + i].other;
            state().steps[first + i] = old.state.steps[firstThen + i];
            // Where the second source stands comes with its ear.
            state().steps[first + i].other = rest;
        }
    };
    carrySteps(chain.steps(), chain.firstState, before.steps(), before.firstState);
    for (std::uint32_t b = 0; b < std::min(chain.branchCount, before.branchCount); ++b) {
        const PlanBranch& now = plan().branches[chain.firstBranch + b];
        const PlanBranch& then = old.plan.branches[before.firstBranch + b];
        carrySteps(now.body->steps, now.firstState, then.body->steps, then.firstState);
        const bool sameTarget =
            chain.body->written->branches[b].target == before.body->written->branches[b].target;
        if (sameTarget && now.body->on && then.body->on)
            state().mixed[chain.firstBranch + b] = old.state.mixed[before.firstBranch + b];
    }
    carryEars(old, chain, before);
}

/// Ears are matched by what they are for: the source, the chooser, and each combine by its step.
void Engine::carryEars(const Program& old, const PlanChain& now, const PlanChain& before) {
    for (std::uint32_t e = now.firstEar; e < now.firstEar + now.earCount; ++e) {
        const Ear& ear = plan().ears[e];
        for (std::uint32_t o = before.firstEar; o < before.firstEar + before.earCount; ++o) {
            const Ear& earlier = old.plan.ears[o];
            const bool sameJob = ear.role == earlier.role && ear.place == earlier.place;
            if (!sameJob || *ear.source != *earlier.source) continue;
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
    for (std::size_t port = 0; port < hands_.portsUsed(); ++port) {
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
    if (count == 0) lastNoteEnds(*ear.source, earState.generator, now_);
    earState.moves = keepsMoving(*ear.source, earState.generator);
}

/// Ends the notes of parameters for which wanted(place) holds.
template<class Wanted>
void Engine::endParameterNotes(Wanted&& wanted, const Sink& sink) {
    for (std::uint32_t i = notes_.oldest(); i != NoteMemory::nothing;) {
        const NoteMemory::Place& place = notes_.place(i);
        i = place.behind;
        const InputKey& input = notes_.inputOf(place);
        if (input.port != parameterPort || !wanted(place)) continue;
        state().notesOn[causeOf(input)] = false;
        endNote(place.cause, sink);
    }
}

void Engine::leaveHand(std::uint32_t p, std::uint32_t lane, const Sink& sink) {
    const Sender sender{plan().parts[p].name};
    letGo(lane, sender, sink);
    endParameterNotes([&](const NoteMemory::Place& place) { return place.instrument == sender.instrument; },
                      sink);
}

/// Pedals come up, bend is centred and pressure ends.
void Engine::letGo(std::uint32_t lane, const Sender& sender, const Sink& sink) {
    Lanes lanes = this->lanes(sink);
    const std::uint8_t channel = plan().lanes()[lane].channel;
    for (const std::uint8_t pedal : midi::holdingPedals) {
        const Payload last = lanes.sent(lane, pedal);
        if (last != noPayload && last >> 8 > 0) lanes.control(lane, sender, pedal, 0);
    }
    constexpr Payload centre = payload(0, midi::bendCentre >> 7);
    if (Payload& last = lanes.sent(lane, bendSlot); last != noPayload && last != centre) {
        last = centre;
        lanes.put(lane, sender, midi::makeBend(channel, midi::bendCentre));
    }
    if (Payload& last = lanes.sent(lane, pressureSlot); last != noPayload && last != 0) {
        last = 0;
        lanes.put(lane, sender, midi::make(midi::channelPressure, channel, 0));
    }
}

/// The pedals that are down come to it: to its chains that slept, or passed on, the highest where ports and
/// channels differ.
void Engine::comeIntoHand(std::uint32_t p, const Sink& sink) {
    const Part& part = plan().parts[p];
    std::array<midi::Short, midi::holdingPedals.size()> highest{};
    for (std::size_t port = 0; port < hands_.portsUsed(); ++port) {
        for (std::size_t channel = 0; channel < 16; ++channel) {
            if ((part.inputChannels >> channel & 1) == 0) continue;
            for (std::size_t pedal = 0; pedal < midi::holdingPedals.size(); ++pedal) {
                const auto id = static_cast<PortId>(port);
                const int value = hands_.pedal(id, channel, pedal);
                if (value == 0 || !portFits(part.inputPort, id)) continue;
                const auto message = midi::make(midi::controlChange, static_cast<int>(channel),
                                                midi::holdingPedals.at(pedal), value);
                const bool passes = takePedal({now_, id, message.bytes()}, p);
                if (passes && value > highest.at(pedal).data[2]) highest.at(pedal) = message;
            }
        }
    }
    for (const midi::Short& pedal : highest) {
        if (pedal.size > 0) pass({now_, part.inputPort, pedal.bytes()}, p, sink);
    }
}

/// A pedal that is down comes to the chains of an instrument that slept. True when it is to be passed on too.
bool Engine::takePedal(const Event& event, std::uint32_t p) {
    bool taken = false;
    bool keep = false;
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    for (const Listener& listener : plan().listenersTo(channel, event.bytes[1])) {
        const bool own = listener.part == p || listener.part == none;
        if (!own || listener.ear == none || !portFits(listener.port, event.port)) continue;
        taken = true;
        keep = keep || listener.keep;
        const PlanChain& chain = plan().chains[listener.chain];
        if (listener.part == p && chain.body->written->active == Active::inHand)
            hearWith(listener.ear, event, event.bytes[1]);
    }
    return taken ? keep : plan().parts[p].pass.unmatched;
}

/// A note that a parameter sounds ends when nothing drives the parameter any more.
void Engine::releaseForgottenNotes(const Sink& sink) {
    const auto& causes = plan().noteCauses;
    endParameterNotes(
        [&](const NoteMemory::Place& place) {
            return !std::binary_search(causes.begin(), causes.end(), causeOf(notes_.inputOf(place)));
        },
        sink);
    for (std::uint32_t cause = 0; cause < state().notesOn.size(); ++cause) {
        if (!std::binary_search(causes.begin(), causes.end(), cause)) state().notesOn[cause] = false;
    }
}

}  // namespace mellow::engine
