// An edited plan takes over from the one that plays, in mid-stream.
//
// Whatever is the same goes on as if nothing had happened: ears stand where they stood, steps remember what
// they remembered, lanes know what was sent, and held notes are still held. What changed is heard at once,
// and what was taken away is let go.
#include <algorithm>
#include <bit>
#include <cmath>
#include <utility>

#include "core/engine/playing/engine.h"

namespace mellow::engine {

namespace {

template<class Things>
void copyFront(const Things& from, Things& to) {
    std::copy_n(from.begin(), std::min(from.size(), to.size()), to.begin());
}

/// The place of a part by its name, or none; nearly always it stands where it stood.
std::uint32_t partNamed(const Plan& plan, std::uint32_t name, std::size_t likely) {
    const auto& parts = plan.parts;
    if (likely < parts.size() && parts[likely].name == name) return static_cast<std::uint32_t>(likely);
    const auto found = std::find_if(parts.begin(), parts.end(),
                                    [name](const PlanInstrument& each) { return each.name == name; });
    return found == parts.end() ? none : static_cast<std::uint32_t>(found - parts.begin());
}

}  // namespace

Program* Engine::adopt(Program* next, const Sink& sink) {
    Program* old = program_;
    program_ = next;
    mixes_ = plan().hasMixes;
    zones_.setByHand(plan().zones);
    beginEvent(nullptr);
    if (plan().follows != old->plan.follows || plan().clockPort != old->plan.clockPort) {
        clockTempo_ = 0;
        clock_.begin();
    }
    movingChains_ = 0;
    movingGenerators_ = 0;
    carryLanes(*old);
    carryVelocities(*old);
    for (std::uint32_t part = 0; part < plan().parts.size(); ++part) carryPart(*old, part);
    carryDesk(*old);
    for (std::uint32_t chain = 0; chain < plan().chains.size(); ++chain) carryChain(*old, chain);
    changeTempo();
    for (const std::uint32_t ear : plan().notesCounted) {
        if (!isAsleep(plan().chains[plan().ears[ear].chain])) countKeys(ear);
    }
    for (const std::uint32_t ear : plan().generators) {
        EarState& generator = state().ears[ear];
        generator.moves = keepsMoving(*plan().ears[ear].source, generator.generator) &&
                          !isAsleep(plan().chains[plan().ears[ear].chain]);
        if (generator.moves) ++movingGenerators_;
    }
    if (zones_.someExist()) chooseFingers();
    releaseForgottenNotes(sink);
    leaveLanes(*old, sink);
    changeHands(*old, sink);
    for (std::uint32_t chain = 0; chain < plan().chains.size(); ++chain) {
        if (!std::exchange(state().chains[chain].edited, false) || isAsleep(plan().chains[chain])) continue;
        state().chains[chain].moved = true;
        mark(chain);
    }
    walkRest(sink);
    return old;
}

/// Where an instrument plays, who holds it, and how it plays. Who is in hand follows the document where that
/// says something else than before, or nothing but the document decides.
void Engine::carryPart(const Program& old, std::uint32_t p) {
    const Part& part = plan().parts[p];
    const std::uint32_t o = partNamed(old.plan, part.name, p);
    if (o == none) return;
    const Part& before = old.plan.parts[o];
    const PartState& was = old.state.parts[o];
    PartState& now = state().parts[p];
    const bool sameHands = plan().handMoves && old.plan.handMoves &&
                           plan().surroundings->inHand == old.plan.surroundings->inHand;
    if (sameHands) now.inHand = was.inHand;
    const bool samePort = plan().lanes()[part.lane].port == plan().lanes()[before.lane].port;
    now.fingerPort = was.fingerPort;
    now.finger = was.finger;
    if (samePort && !part.keptLanes.empty()) now.channelsUsed |= was.channelsUsed;
    for (const std::uint32_t lane : part.lanes) {
        const std::uint8_t channel = plan().lanes()[lane].channel;
        if (samePort) now.channelsUsed |= was.channelsUsed & static_cast<std::uint16_t>(1 << channel);
        if (lane == part.lane || was.channel != channel) continue;
        now.channel = channel;
        now.lane = lane;
        now.channelsUsed |= static_cast<std::uint16_t>(1 << channel);
    }
    if (was.channel == plan().lanes()[part.lane].channel) now.channel = was.channel;
    if (was.articulation >= 0) {
        const std::uint32_t key = before.articulations[static_cast<std::size_t>(was.articulation)].key;
        const auto& all = part.articulations;
        const auto found = std::find_if(all.begin(), all.end(),
                                        [key](const PlanArticulation& each) { return each.key == key; });
        if (found != all.end()) now.articulation = static_cast<std::int32_t>(found - all.begin());
    }
    state().partLive[p].inHand.store(now.inHand, std::memory_order_relaxed);
    state().partLive[p].articulation.store(now.articulation, std::memory_order_relaxed);
}

void Engine::carryDesk(const Program& old) {
    for (std::size_t d = 0; d < plan().desk.size(); ++d) {
        const DeskListener* before = old.plan.deskAt(plan().desk[d].address);
        if (before == nullptr) continue;
        const auto place = static_cast<std::size_t>(before - old.plan.desk.data());
        state().deskLive[d].store(old.state.deskLive[place].load(std::memory_order_relaxed),
                                  std::memory_order_relaxed);
    }
}

/// Instruments that are gone, are switched off or play elsewhere now hear of no pedal's coming up; so what
/// they hold is let go, unless somebody else in hand plays there.
void Engine::leaveLanes(const Program& old, const Sink& sink) {
    const auto playsOn = [this](std::uint32_t p, const Lane& lane) {
        const Lane& own = plan().lanes()[plan().parts[p].lane];
        return own.port == lane.port && (state().parts[p].channelsUsed >> lane.channel & 1) != 0;
    };
    for (std::uint32_t o = 0; o < old.plan.parts.size(); ++o) {
        const Part& was = old.plan.parts[o];
        if (!old.state.parts[o].inHand) continue;
        const std::uint32_t now = partNamed(plan(), was.name, o);
        for (std::uint32_t left = old.state.parts[o].channelsUsed; left != 0; left &= left - 1) {
            const Lane lane{plan().lanes()[was.lane].port, static_cast<std::uint8_t>(std::countr_zero(left)),
                            0};
            bool used = now != none && playsOn(now, lane);
            for (std::uint32_t p = 0; p < plan().parts.size() && !used; ++p)
                used = isInHand(p) && playsOn(p, lane);
            if (!used) letGo(lanes(sink).at(lane.port, lane.channel), {was.name}, sink);
        }
    }
}

/// Instruments that leave the hand, and those that come into it: where they are new, too.
void Engine::changeHands(const Program& old, const Sink& sink) {
    for (std::uint32_t part = 0; part < plan().parts.size(); ++part) {
        const Part& now = plan().parts[part];
        const std::uint32_t o = partNamed(old.plan, now.name, part);
        const bool isNew = o == none || old.plan.parts[o].lane != now.lane;
        const bool wasInHand = o != none && old.state.parts[o].inHand;
        if (isInHand(part) && (isNew || !wasInHand)) comeIntoHand(part, sink);
        if (!isInHand(part) && wasInHand)
            leaveHand(part, old.plan.parts[o].lane, old.state.parts[o].channelsUsed, sink);
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
    state().chains[index].back = old.state.chains[place].back;
    if (!before->isEvaluated() && old.state.chains[place].raw >= 0) {
        // Looking up notes where the source stands with the chain alone.
        EarState& ear = state().ears[chain.firstEar];
        ear.raw = old.state.chains[place].raw;
        ear.position = placeOf(plan().ears[chain.firstEar], ear.raw);
        ear.spoken = true;
    }
    if (plan().ears[chain.firstEar].handover == Handover::jump &&
        old.plan.ears[before->firstEar].handover != Handover::jump) {
        // Its value may stand elsewhere than the control.
        state().chains[index].raw = -1;
        state().ears[chain.firstEar].raw = -1;
    }
    const auto carry = [](const auto& from, auto& to) {
        to.store(from.load(std::memory_order_relaxed), std::memory_order_relaxed);
    };
    carry(old.state.chainLive[place].raw, state().chainLive[index].raw);
    carry(old.state.chainLive[place].source, state().chainLive[index].source);
    if (plan().ears[chain.firstEar].hands != none)
        carry(old.state.chainLive[place].control, state().chainLive[index].control);
    carry(old.state.chainLive[place].result, state().chainLive[index].result);
    carry(old.state.chainLive[place].stepsUp, state().chainLive[index].stepsUp);
    carry(old.state.chainLive[place].other, state().chainLive[index].other);
    if (chain.chosen) {
        const double q = state().ears[chain.firstEar + chain.earCount - 1].position;
        state().chainLive[index].fed.store(static_cast<int>(chosenBranch(chain, q)),
                                           std::memory_order_relaxed);
    }
    carryHands(old, plan().ears[chain.firstEar], old.plan.ears[before->firstEar]);
    const bool slept = before->onlyInHand && !old.state.parts[before->part].inHand;
    if (slept && !isAsleep(chain)) wake(index);
    if (chain.ticks) updateMoving(index);
}

/// What is known of the controls that move a chain's source.
void Engine::carryHands(const Program& old, const Ear& ear, const Ear& before) {
    if (ear.hands == none || before.hands == none) return;
    std::copy_n(old.state.hands.begin() + before.hands, handsPerEar, state().hands.begin() + ear.hands);
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
        if (!portFits(ear.port, id)) continue;
        for (std::size_t channel = 0; channel < 16; ++channel) {
            if (ear.channel >= 0 && ear.channel != static_cast<int>(channel)) continue;
            if (part != nullptr && (part->inputChannels >> channel & 1) == 0) continue;
            if (part != nullptr && !comesTo(*part, id, channel)) continue;
            for (int key = 0; key < 128; ++key) {
                const bool down = hands_.isHeld(id, channel, static_cast<std::size_t>(key));
                const bool heard =
                    part == nullptr ||
                    (transposed(*part, key) &&
                     part->takesVelocity(hands_.velocity(id, channel, static_cast<std::size_t>(key))));
                if (down && heard) ++count;
            }
        }
    }
    EarState& earState = state().ears[e];
    earState.keysDown = count;
    if (count == 0) lastNoteEnds(*ear.source, earState.generator, now_);
}

/// A note that a parameter sounds ends when nothing drives the parameter any more.
void Engine::releaseForgottenNotes(const Sink& sink) {
    const auto& causes = plan().noteCauses;
    endHeldNotes(
        [&](const NoteMemory::Place& place) {
            return !std::binary_search(causes.begin(), causes.end(), causeOf(notes_.inputOf(place)));
        },
        sink);
    for (std::uint32_t cause = 0; cause < state().notesOn.size(); ++cause) {
        if (!std::binary_search(causes.begin(), causes.end(), cause)) state().notesOn[cause] = false;
    }
}

}  // namespace mellow::engine
