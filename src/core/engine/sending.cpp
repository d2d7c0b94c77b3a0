// What chains send (signal rules, section 6).
//
// A lane remembers what was last sent on it, by chains and by the player alike, so that a repeat is not sent:
// single messages by their data bytes, 14-bit controls as pairs, registers (RPN and NRPN) with the one that
// is selected, notes with who sounds them. Everything that leaves a lane as a control goes through
// putControl(), which keeps all of that consistent.
#include <algorithm>
#include <array>
#include <cmath>

#include "core/engine/engine.h"

namespace mellow::engine {

/// As sendTabulated, for chains that have something to be careful about.
[[gnu::noinline]] void Engine::sendCarefully(const PlanChain& chain, int raw, const Sink& sink) {
    const Payload* row = chain.table + static_cast<std::size_t>(raw) * chain.branchCount;
    for (std::uint32_t b = 0; b < chain.branchCount; ++b) {
        const Payload payload = row[b];
        if (payload == noPayload) continue;
        if (defers_) {
            defer({Deferred::What::payload, chain.firstBranch + b, payload, 0}, sink);
        } else {
            sendPayload(chain.firstBranch + b, payload, sink);
        }
    }
}

void Engine::sendReach(std::uint32_t b, double q, const Sink& sink) {
    const BranchBody& body = *plan().branches[b].body;
    if (body.kind == MessageKind::osc) return sendOsc(b, q, sink);
    const Payload payload = payloadOf(body, valueAt(body, q));
    const Outlet& outlet = plan().outlets[b];
    if (outlet.leaves != Leaves::copied) return sendPayload(b, payload, sink);
    if (state().sent[outlet.slot] != payload) copyOut(b, payload, sink);
}

void Engine::sendPayload(std::uint32_t b, Payload payload, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    switch (branch.body->kind) {
        case MessageKind::cc:
        case MessageKind::bend:
        case MessageKind::pressure:
            return sendPlain(b, payload, sink);
        case MessageKind::cc14:
            return sendPair(b, payload, sink);
        case MessageKind::rpn:
        case MessageKind::nrpn:
            return sendRegister(b, payload, sink);
        case MessageKind::keyPressure:
            return sendKeyPressure(b, payload, sink);
        case MessageKind::velocity:
            state().velocities[branch.part] = payload;
            return;
        case MessageKind::note:
            return sendNote(b, payload != 0, sink);
        case MessageKind::program:
            return sendProgram(b, payload, sink);
        case MessageKind::osc:
        case MessageKind::relative:
            return;
    }
}

Engine::Sender Engine::senderOf(std::uint32_t b) const {
    const PlanBranch& branch = plan().branches[b];
    return {plan().parts[branch.part].name, static_cast<std::int32_t>(branch.chain),
            static_cast<std::int32_t>(b)};
}

void Engine::put(std::uint32_t lane, const Sender& sender, const midi::Short& message, const Sink& sink) {
    sink({now_, plan().lanes()[lane].port, sender.instrument, sender.chain, sender.branch, message.bytes()});
}

/// Sends a control and remembers all that it means: its value, that a pair is no longer known, which register
/// is selected or has been changed, that a lane has been reset.
void Engine::putControl(std::uint32_t lane, const Sender& sender, int number, int value, const Sink& sink) {
    const auto control = static_cast<std::uint32_t>(number);
    sent(lane, control) = payload(number, value);
    if (midi::isHalfOfAPair(control))
        sent(lane, pairSlot + static_cast<std::uint32_t>(midi::pairOf(control))) = noPayload;
    midi::Selection& wire = state().selections[lane].wire;
    if (midi::selectsRegister(number)) wire.take(number, value);
    const bool data = midi::isDataEntry(number);
    if (data) forgetRegister(lane, wire);
    if (number == midi::resetAllControllers) forgetLane(lane);
    put(lane, sender, midi::make(midi::controlChange, plan().lanes()[lane].channel, number, value), sink);
}

void Engine::sendPlain(std::uint32_t b, Payload payload, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    if (state().sent[plan().outlets[b].slot] == payload && !branch.body->repeats) return;
    if (branch.body->kind == MessageKind::cc)
        return putControl(branch.lane, senderOf(b), branch.body->number, payload >> 8, sink);
    copyOut(b, payload, sink);
}

/// Sends a payload as it is.
void Engine::copyOut(std::uint32_t b, Payload payload, const Sink& sink) {
    const Outlet& outlet = plan().outlets[b];
    state().sent[outlet.slot] = payload;
    const std::array<std::uint8_t, 3> message{outlet.status, static_cast<std::uint8_t>(payload),
                                              static_cast<std::uint8_t>(payload >> 8)};
    sink({now_, outlet.port, outlet.instrument, static_cast<std::int32_t>(plan().branches[b].chain),
          static_cast<std::int32_t>(b), midi::Bytes(message).first(outlet.size)});
}

/// The high byte, then the low byte; while the high byte is unchanged, the low byte alone.
void Engine::sendPair(std::uint32_t b, int value, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    const auto number = static_cast<std::uint32_t>(branch.body->number);
    const Payload last = sent(branch.lane, pairSlot + number);
    if (last == value && !branch.body->repeats) return;
    if (last == noPayload || last >> 7 != value >> 7)
        putControl(branch.lane, senderOf(b), branch.body->number, value >> 7, sink);
    putControl(branch.lane, senderOf(b), branch.body->number + 32, value & midi::max7, sink);
    sent(branch.lane, pairSlot + number) = static_cast<Payload>(value);
}

/// Select, unless it is selected already, then data entry, high byte and low.
void Engine::sendRegister(std::uint32_t b, int value, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    if (state().registers[branch.place] == value && !branch.body->repeats) return;
    const bool isRpn = branch.body->kind == MessageKind::rpn;
    const midi::Selection wanted{isRpn ? midi::PairKind::rpn : midi::PairKind::nrpn, branch.body->number >> 7,
                                 branch.body->number & midi::max7};
    const Sender sender = senderOf(b);
    if (state().selections[branch.lane].wire != wanted) {
        putControl(branch.lane, sender, isRpn ? midi::rpnSelect : midi::nrpnSelect, wanted.high, sink);
        putControl(branch.lane, sender, isRpn ? midi::rpnSelectLow : midi::nrpnSelectLow, wanted.low, sink);
    }
    const int half = branch.body->max == pitchRangeMax ? centsASemitone : midi::max7 + 1;
    putControl(branch.lane, sender, midi::dataEntry, value / half, sink);
    putControl(branch.lane, sender, midi::dataEntryLow, value % half, sink);
    state().registers[branch.place] = value;
}

/// To every key that the instrument has sounding, in the order in which they began.
void Engine::sendKeyPressure(std::uint32_t b, int value, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    const Sender sender = senderOf(b);
    const auto isOwn = [&](const NoteMemory::Place& place) {
        return place.instrument == sender.instrument && notes_.isDown(place);
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
        const std::uint32_t lane = laneAt(key.port, key.channel);
        Payload& last = sent(lane, keyPressureSlot + key.key);
        const bool repeats = last == payload(key.key, value);
        // Two keys may sound the same one, which only shows where repeats are sent.
        if (repeats && (!branch.body->repeats || cameBefore(i))) continue;
        last = payload(key.key, value);
        put(lane, sender, midi::make(midi::keyPressure, key.channel, key.key, value), sink);
    }
}

namespace {

InputKey causeKey(std::uint32_t cause) {
    return {parameterPort, static_cast<std::uint8_t>(cause >> 8), static_cast<std::uint8_t>(cause)};
}

}  // namespace

/// A parameter's note is held like any other, with the parameter in place of the key that was pressed.
/// Whether the parameter is on is another matter: what ended its note otherwise does not sound it again.
void Engine::sendNote(std::uint32_t b, bool on, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    if (state().notesOn[branch.place] == on) return;
    state().notesOn[branch.place] = on;
    const InputKey cause = causeKey(branch.place);
    if (!on) return endNote(notes_.find(cause), sink);
    const Lane& lane = plan().lanes()[branch.lane];
    const Sender sender = senderOf(b);
    const auto key = static_cast<std::uint8_t>(branch.body->number);
    if (!notes_.begin(cause, serial_, {lane.port, lane.channel, key}, sender.instrument)) return;
    put(branch.lane, sender,
        midi::make(midi::noteOn, lane.channel, branch.body->number, branch.body->velocity), sink);
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

void Engine::sendProgram(std::uint32_t b, int value, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    const auto selected = [&](int control, int number) {
        return sent(branch.lane, static_cast<std::uint32_t>(control)) == payload(control, number);
    };
    const bool inBank = !branch.body->bank || (selected(midi::bankSelect, (*branch.body->bank)[0]) &&
                                               selected(midi::bankSelectLow, (*branch.body->bank)[1]));
    Payload& last = sent(branch.lane, programSlot);
    if (last == payload(value, 0) && inBank && !branch.body->repeats) return;
    const Sender sender = senderOf(b);
    if (branch.body->bank) {
        putControl(branch.lane, sender, midi::bankSelect, (*branch.body->bank)[0], sink);
        putControl(branch.lane, sender, midi::bankSelectLow, (*branch.body->bank)[1], sink);
    }
    last = payload(value, 0);
    put(branch.lane, sender, midi::make(midi::programChange, plan().lanes()[branch.lane].channel, value),
        sink);
}

/// One float, in display units.
void Engine::sendOsc(std::uint32_t b, double q, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    const auto value = static_cast<float>(displayValue(branch.body->range, q));
    std::optional<float>& last = state().osc[branch.place];
    if (last == value && !branch.body->repeats) return;
    last = value;
    const OscPlace& place = plan().numbering.oscPlaces[branch.place];
    const Sender sender = senderOf(b);
    sink({now_, place.port, sender.instrument, sender.chain, sender.branch, {}, place.address, value});
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
            case Deferred::What::mix: {
                const std::uint32_t mix = plan().branches[each.index].mix;
                if (state().mixQueued[mix] == i) sendReach(each.index, mixedReach(each.index), sink);
                break;
            }
            case Deferred::What::finish:
                finishNow(each.index, sink);
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
