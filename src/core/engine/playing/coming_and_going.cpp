// Ports come and go while keys are down.
//
// A receiver that is connected has heard nothing of what was sent before, so that is forgotten. One that
// comes back may have missed the ends of notes, and may still sound them: its channels are silenced first.
// Then it is told what its instrument wishes to be told, its resting values or those that it had last.
#include <cmath>

#include "core/engine/playing/engine.h"

namespace mellow::engine {

void Engine::portConnected(PortId port, Again again, const Sink& sink) {
    Lanes lanes = this->lanes(sink);
    for (std::uint32_t lane = 0; lane < plan().lanes().size(); ++lane) {
        const Lane& at = plan().lanes()[lane];
        if (at.port != port) continue;
        if (again == Again::yes) {
            for (const int control : {midi::sustain, midi::allNotesOff})
                lanes.control(lane, {at.instrument}, control, 0);
            notes_.clearChannel(at.port, at.channel);
        }
        lanes.forget(lane);
    }
    for (std::size_t i = 0; i < state().osc.size(); ++i) {
        if (plan().numbering.oscPlaces[i].port == port) state().osc[i].reset();
    }
    // What an edit left behind belongs to no chain, and is not told.
    for (std::uint32_t b = 0; b < plan().firstBeside; ++b) {
        const PlanBranch& branch = plan().branches[b];
        if (!branch.on || branch.part == none || branch.tieLine != none) continue;
        const Part& part = plan().parts[branch.part];
        if (laneOf(branch.part).port != port || !isInHand(branch.part)) continue;
        if (part.onConnect == OnConnect::rest) tellRest(b, sink);
        if (part.onConnect == OnConnect::last) tellLast(b, sink);
    }
}

/// Notes and the velocity of notes have no value that stays.
bool Engine::stays(std::uint32_t b) const {
    const MessageKind kind = plan().branches[b].body->kind;
    return kind != MessageKind::note && kind != MessageKind::velocity && kind != MessageKind::keyPressure;
}

void Engine::tellRest(std::uint32_t b, const Sink& sink) {
    if (stays(b)) sendPosition(b, plan().branches[b].body->restRaw, sink);
}

void Engine::tellLast(std::uint32_t b, const Sink& sink) {
    if (!stays(b)) return;
    const PlanBranch& branch = plan().branches[b];
    const PlanChain& chain = plan().chains[branch.chain];
    const ChainState& chainState = state().chains[branch.chain];
    if (branch.mix != none) {
        if (!std::isnan(state().mixed[b])) sendPosition(b, mixedReach(b), sink);
        return;
    }
    if (!chain.isEvaluated() && !chainState.spoken) return;
    if (!chain.isEvaluated() && chainState.raw < 0) {
        const double p = settledPosition(chain.steps(), state().ears[chain.firstEar].position);
        const auto value = settledValue(*branch.body, p);
        if (value) sendValue(b, *value, sink);
        return;
    }
    const double q = presentPosition(*program_, chain, b - chain.firstBranch, chainState.raw);
    if (q < 0) return;
    const BranchBody& body = *branch.body;
    const auto [low, high] = std::minmax({clampPosition(body.fromRaw), clampPosition(body.toRaw)});
    constexpr double coarseness = 1e-6;  // of what is kept for the window
    if (q >= low - coarseness && q <= high + coarseness) return sendReach(b, q, sink);
    sendPosition(b, q, sink);
}

void Engine::place(const Sink& sink) {
    for (const Placed& placed : program_->placed) {
        const PlanBranch& branch = plan().branches[placed.branch];
        if (!branch.on || branch.part == none || branch.tieLine != none || !stays(placed.branch)) continue;
        if (placed.ifSent && !lanes(sink).wasSent(placed.branch)) continue;
        if (branch.chain == none) {
            sendPosition(placed.branch, placed.position, sink);
            continue;
        }
        if (placed.unlessSpoken && state().chains[branch.chain].spoken) continue;
        if (plan().chains[branch.chain].isEvaluated())
            state().branchLive[placed.branch].value.store(static_cast<float>(placed.position),
                                                          std::memory_order_relaxed);
        if (branch.mix != none) state().mixed[placed.branch] = placed.position;
        sendPosition(placed.branch, placed.position, sink);
    }
}

bool Engine::holds(PortId port, std::uint8_t channel, std::uint8_t key) const {
    return hands_.isDown(port, channel, key) || notes_.find({port, channel, key}) != NoteMemory::nothing;
}

}  // namespace mellow::engine
