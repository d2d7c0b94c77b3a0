// What chains send, and when (signal rules, section 6): by lanes, which know what was sent, or as notes,
// which know who sounds them; at once, or where something is mixed at the event's end.
#include <algorithm>
#include <array>
#include <cmath>

#include "core/engine/playing/engine.h"

namespace mellow::engine {

/// As sendTabulated, for chains that have something to be careful about.
[[gnu::noinline]] void Engine::sendCarefully(const PlanChain& chain, int raw, const Sink& sink) {
    const Payload* row = chain.table + static_cast<std::size_t>(raw) * chain.branchCount;
    for (std::uint32_t b = 0; b < chain.branchCount; ++b) leave(chain.firstBranch + b, row[b], sink);
}

namespace {

/// What a branch that can be folded comes to at a position behind the trunk.
Payload payloadAt(const PlanBranch& branch, double p) {
    const auto value = branch.on ? settledValue(*branch.body, p) : std::nullopt;
    return value ? payloadOf(*branch.body, *value) : noPayload;
}

}  // namespace

/// As lookUp, where no raw value has come yet: the source rests, or stands where handover left it before the
/// chain was edited.
void Engine::sendBetween(const PlanChain& chain, double position, const Sink& sink) {
    const double p = settledPosition(chain.steps(), position);
    for (std::uint32_t b = chain.firstBranch; b < chain.firstBranch + chain.branchCount; ++b)
        leave(b, payloadAt(plan().branches[b], p), sink);
}

/// Sends what was looked up for a branch, at once or where something is mixed.
void Engine::leave(std::uint32_t b, Payload payload, const Sink& sink) {
    if (payload == noPayload) return;
    if (defers_) {
        defer({Deferred::What::payload, b, payload, 0}, sink);
    } else {
        sendPayload(b, payload, sink);
    }
}

/// What the steps of a branch came to: within its reach, whatever rounding would make of it.
void Engine::sendReach(std::uint32_t b, double q, const Sink& sink) {
    const BranchBody& body = *plan().branches[b].body;
    if (body.kind == MessageKind::osc) return lanes(sink).osc(b, q);
    sendValue(b, valueWithinReach(body, q), sink);
}

/// What is put there otherwise: a rest, a mix, a value that was chosen.
void Engine::sendPosition(std::uint32_t b, double q, const Sink& sink) {
    const BranchBody& body = *plan().branches[b].body;
    q = nearestChoice(body, q);
    if (body.kind == MessageKind::osc) return lanes(sink).osc(b, q);
    sendValue(b, valueAt(body, q), sink);
}

void Engine::sendValue(std::uint32_t b, int value, const Sink& sink) {
    const Payload payload = payloadOf(*plan().branches[b].body, value);
    const Outlet& outlet = plan().outlets[b];
    if (outlet.leaves != Leaves::copied) return sendPayload(b, payload, sink);
    if (state().sent[outlet.slot] != payload) lanes(sink).copy(b, payload);
}

void Engine::sendPayload(std::uint32_t b, Payload payload, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    switch (branch.body->kind) {
        case MessageKind::cc:
        case MessageKind::bend:
        case MessageKind::pressure:
            return lanes(sink).plain(b, payload);
        case MessageKind::cc14:
            return lanes(sink).pair(b, payload);
        case MessageKind::rpn:
        case MessageKind::nrpn:
            return lanes(sink).inRegister(b, payload);
        case MessageKind::keyPressure:
            return sendKeyPressure(b, payload, sink);
        case MessageKind::velocity:
            state().velocities[branch.part] = payload;
            return;
        case MessageKind::note:
            return sendNote(b, payload != 0, sink);
        case MessageKind::program:
            return lanes(sink).program(lanes(sink).laneOf(branch), lanes(sink).senderOf(b),
                                       {branch.body->bank, payload, branch.body->repeats});
        case MessageKind::articulation:
            return chooseArticulation(branch.part, payload, lanes(sink).senderOf(b), sink);
        case MessageKind::osc:
        case MessageKind::relative:
            return;
    }
}

/// To every key that the instrument has sounding, in the order in which they began.
void Engine::sendKeyPressure(std::uint32_t b, int value, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    Lanes lanes = this->lanes(sink);
    const Sender sender = lanes.senderOf(b);
    const auto isOwn = [&](const NoteMemory::Place& place) {
        return place.instrument == sender.instrument && (notes_.isDown(place) || place.cause == comingUp_);
    };
    const auto cameBefore = [&](std::uint32_t index) {
        const OutputKey& key = notes_.place(index).output;
        for (std::uint32_t i = notes_.oldest(); i != index; i = notes_.place(i).behind) {
            if (isOwn(notes_.place(i)) && notes_.place(i).output == key) return true;
        }
        return false;
    };
    for (std::uint32_t i = notes_.oldest(); i != NoteMemory::nothing; i = notes_.place(i).behind) {
        const NoteMemory::Place& place = notes_.place(i);
        if (!isOwn(place)) continue;
        const OutputKey& key = place.output;
        const std::uint32_t lane = lanes.at(key.port, key.channel);
        Payload& last = lanes.sent(lane, keyPressureSlot + key.key);
        const bool repeats = last == payload(key.key, value);
        // Two keys may sound the same one, which only shows where repeats are sent.
        if (repeats && (!branch.body->repeats || cameBefore(i))) continue;
        last = payload(key.key, value);
        lanes.put(lane, sender, midi::make(midi::keyPressure, key.channel, key.key, value));
    }
}

/// A parameter's note is held like any other, with the parameter in place of the key that was pressed.
/// Whether the parameter is on is another matter: what ended its note otherwise does not sound it again.
void Engine::sendNote(std::uint32_t b, bool on, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    if (state().notesOn[branch.place] == on) return;
    state().notesOn[branch.place] = on;
    const InputKey cause = causeKey(parameterPort, branch.place);
    if (!on) return endNote(notes_.find(cause), sink);
    const std::uint32_t laneNumber = lanes(sink).laneOf(branch);
    const Lane& lane = plan().lanes()[laneNumber];
    const Sender sender = lanes(sink).senderOf(b);
    const auto key = static_cast<std::uint8_t>(branch.body->number);
    if (!notes_.begin(cause, serial_, {lane.port, lane.channel, key}, sender.instrument)) return;
    lanes(sink).put(laneNumber, sender,
                    midi::make(midi::noteOn, lane.channel, branch.body->number, branch.body->velocity));
}

/// Ends what a parameter sounds, unless nothing is left of it.
void Engine::endNote(std::uint32_t cause, const Sink& sink) {
    if (cause == NoteMemory::nothing) return;
    const std::array<std::uint8_t, 3> off{midi::noteOff, 0, midi::middleVelocity};
    notes_.lift(cause);
    for (std::uint32_t i = notes_.firstOf(cause); i != NoteMemory::nothing; i = notes_.place(i).nextOfCause)
        release(notes_.place(i), off, sink);
    notes_.forget(cause);
}

// What waits for the end of an event.

void Engine::defer(const Deferred& what, const Sink& sink) {
    auto& deferred = state().deferred;
    if (deferred.size() == deferred.capacity()) flush(sink);
    if (what.what == Deferred::What::mix)
        state().mixQueued[plan().branches[what.index].mix] = static_cast<std::uint32_t>(deferred.size());
    deferred.push_back(what);
}

void Engine::flush(const Sink& sink) {
    auto& deferred = state().deferred;
    for (std::size_t i = 0; i < deferred.size(); ++i) {
        const Deferred each = deferred[i];
        switch (each.what) {
            case Deferred::What::payload:
                sendPayload(each.index, each.payload, sink);
                break;
            case Deferred::What::reach:
                sendReach(each.index, each.q, sink);
                break;
            case Deferred::What::rest:
                sendPosition(each.index, each.q, sink);
                break;
            case Deferred::What::mix: {
                const std::uint32_t mix = plan().branches[each.index].mix;
                if (state().mixQueued[mix] == i) sendPosition(each.index, mixedReach(each.index), sink);
                break;
            }
            case Deferred::What::finish:
                finishNow(each.index, each.payload != 0, sink);
                break;
            case Deferred::What::forgotten:
                endForgottenNotes(*event_, sink);
                break;
            case Deferred::What::leave:
                leaveHand(each.index, plan().parts[each.index].lane, state().parts[each.index].channelsUsed,
                          sink);
                break;
            case Deferred::What::come:
                passPedals(each.index, sink);
                break;
        }
    }
    deferred.clear();
}

/// What the branches that meet on a branch's parameter come to together, as far as they have spoken.
double Engine::mixedReach(std::uint32_t b) const {
    const PlanBranch& branch = plan().branches[b];
    const MixPoint& mix = plan().mixes[branch.mix];
    double total = 0;
    int count = 0;
    for (const std::uint32_t each : mix.branches) {
        const double q = program_->state.mixed[each];
        if (std::isnan(q)) continue;
        if (count++ == 0) {
            total = q;
            continue;
        }
        switch (mix.rule) {
            case Mix::highest:
                total = std::max(total, q);
                break;
            case Mix::lowest:
                total = std::min(total, q);
                break;
            case Mix::product:
                total *= q;
                break;
            default:
                total += q;
                break;
        }
    }
    if (mix.rule == Mix::average) total /= count;
    return nearestChoice(*branch.body, clampPosition(total));
}

}  // namespace mellow::engine
