// What leaves, and what has left (signal rules, section 6).
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
    const PlanBranch& branch = plan().branches[b];
    if (branch.body->kind == MessageKind::osc) return sendOsc(b, q, sink);
    sendPayload(b, payloadOf(*branch.body, valueAt(*branch.body, q)), sink);
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
    if (control < 64) sent(lane, pairSlot + control % 32) = noPayload;
    midi::Selection& wire = state().selections[lane].wire;
    if (number >= midi::nrpnSelectLow && number <= midi::rpnSelect) wire.take(number, value);
    const bool data = number == midi::dataEntry || number == midi::dataEntryLow ||
                      number == midi::dataIncrement || number == midi::dataDecrement;
    if (data) forgetRegister(lane, wire);
    if (number == midi::resetAllControllers) forgetLane(lane);
    put(lane, sender, midi::make(midi::controlChange, plan().lanes()[lane].channel, number, value), sink);
}

void Engine::sendPlain(std::uint32_t b, Payload payload, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    const Outlet& outlet = plan().outlets[b];
    Payload& last = state().sent[outlet.slot];
    if (last == payload && !branch.body->repeats) return;
    if (branch.body->kind == MessageKind::cc)
        return putControl(branch.lane, senderOf(b), branch.body->number, payload >> 8, sink);
    last = payload;
    const std::array<std::uint8_t, 3> message{outlet.status, static_cast<std::uint8_t>(payload),
                                              static_cast<std::uint8_t>(payload >> 8)};
    sink({now_, outlet.port, outlet.instrument, static_cast<std::int32_t>(branch.chain),
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

// What passes.

/// Passes a message on, if it comes from a port that the instrument listens to.
[[gnu::noinline]] void Engine::pass(const Event& event, std::uint32_t place, const Sink& sink) {
    const Part& part = plan().parts[place];
    if (!portFits(part.inputPort, event.port)) return;
    const midi::Short message = onChannel(event.bytes, laneOf(part).channel);
    if (midi::kindOf(event.bytes) != midi::controlChange) {
        rememberPassed(part.lane, message.bytes());
        return put(part.lane, {part.name}, message, sink);
    }
    const int number = message.data[1];
    const int value = message.data[2];
    LaneSelections& selected = state().selections[part.lane];
    if (number >= midi::nrpnSelectLow && number <= midi::rpnSelect) selected.player.take(number, value);
    const bool data = number == midi::dataEntry || number == midi::dataEntryLow ||
                      number == midi::dataIncrement || number == midi::dataDecrement;
    if (data) reselect(part.lane, part, sink);
    putControl(part.lane, {part.name}, number, value, sink);
    if (number == midi::allSoundOff || number >= midi::firstNoteClearing)
        notes_.clearChannel(laneOf(part).port, laneOf(part).channel);
}

void Engine::rememberPassed(std::uint32_t lane, midi::Bytes message) {
    switch (midi::kindOf(message)) {
        case midi::pitchBend:
            sent(lane, bendSlot) = payload(message[1], message[2]);
            break;
        case midi::channelPressure:
            sent(lane, pressureSlot) = payload(message[1], 0);
            break;
        case midi::programChange:
            sent(lane, programSlot) = payload(message[1], 0);
            break;
        case midi::keyPressure:
            sent(lane, keyPressureSlot + message[1]) = payload(message[1], message[2]);
            break;
        default:
            break;
    }
}

/// A register that the player had selected is selected again, if a chain has selected another since.
void Engine::reselect(std::uint32_t lane, const Part& part, const Sink& sink) {
    const midi::Selection player = state().selections[lane].player;
    if (player.kind == midi::PairKind::control || player == state().selections[lane].wire) return;
    const bool isRpn = player.kind == midi::PairKind::rpn;
    if (player.high != midi::Selection::unknown)
        putControl(lane, {part.name}, isRpn ? midi::rpnSelect : midi::nrpnSelect, player.high, sink);
    if (player.low != midi::Selection::unknown)
        putControl(lane, {part.name}, isRpn ? midi::rpnSelectLow : midi::nrpnSelectLow, player.low, sink);
    state().selections[lane].wire = player;
}

void Engine::beginNote(const Event& event, std::uint32_t place, const Sink& sink) {
    const Part& part = plan().parts[place];
    const auto key = transposed(part, event.bytes[1]);
    if (!key) return;
    const Lane& lane = laneOf(part);
    midi::Short message = onChannel(event.bytes, lane.channel);
    message.data[1] = static_cast<std::uint8_t>(*key);
    if (state().velocities[place] >= 0)
        message.data[2] = static_cast<std::uint8_t>(state().velocities[place]);
    const OutputKey output{lane.port, lane.channel, message.data[1]};
    if (!notes_.begin(inputKey(event), serial_, output, part.name)) return;
    put(part.lane, {part.name}, message, sink);
}

/// A place hears of an off, unless another cause that is down still sounds its key.
void Engine::release(const NoteMemory::Place& place, midi::Bytes off, const Sink& sink) {
    if (notes_.sounds(place)) return;
    midi::Short message = onChannel(off, place.output.channel);
    message.data[1] = place.output.key;
    sink({now_, place.output.port, place.instrument, noChain, -1, message.bytes()});
}

void Engine::endNotesOf(const Event& event, const Part& part, const Sink& sink) {
    const std::uint32_t cause = notes_.find(inputKey(event));
    if (cause == NoteMemory::nothing) return;
    notes_.lift(cause);
    for (std::uint32_t i = notes_.firstOf(cause); i != NoteMemory::nothing; i = notes_.place(i).nextOfCause) {
        if (notes_.place(i).instrument == part.name) release(notes_.place(i), event.bytes, sink);
    }
}

/// Ends what belongs to instruments that the plan no longer has. With it the off is answered.
void Engine::endForgottenNotes(const Event& event, const Sink& sink) {
    const std::uint32_t cause = notes_.find(inputKey(event));
    if (cause == NoteMemory::nothing) return;
    notes_.lift(cause);
    for (std::uint32_t i = notes_.firstOf(cause); i != NoteMemory::nothing; i = notes_.place(i).nextOfCause) {
        const NoteMemory::Place& place = notes_.place(i);
        const auto owns = [&](const Part& part) { return part.name == place.instrument; };
        if (std::none_of(plan().parts.begin(), plan().parts.end(), owns)) release(place, event.bytes, sink);
    }
    notes_.answer(cause);
}

/// Key pressure goes where its note went; where there is none, to the key as a note would.
void Engine::followNote(const Event& event, const Part& part, const Sink& sink) {
    const auto follow = [&](std::uint32_t lane, std::uint8_t channel, std::uint8_t key) {
        midi::Short message = onChannel(event.bytes, channel);
        message.data[1] = key;
        rememberPassed(lane, message.bytes());
        put(lane, {part.name}, message, sink);
    };
    bool held = false;
    const std::uint32_t cause = notes_.find(inputKey(event));
    for (std::uint32_t i = cause == NoteMemory::nothing ? cause : notes_.firstOf(cause);
         i != NoteMemory::nothing; i = notes_.place(i).nextOfCause) {
        const NoteMemory::Place& place = notes_.place(i);
        if (place.instrument != part.name) continue;
        held = true;
        follow(laneAt(place.output.port, place.output.channel), place.output.channel, place.output.key);
    }
    const auto key = transposed(part, event.bytes[1]);
    if (held || !key) return;
    follow(part.lane, laneOf(part).channel, static_cast<std::uint8_t>(*key));
}

// Silence and forgetting.

void Engine::silenceAll(const Sink& sink) {
    notes_.clear([&](const NoteMemory::Place& place) {
        const auto off =
            midi::make(midi::noteOff, place.output.channel, place.output.key, midi::middleVelocity);
        sink({now_, place.output.port, place.instrument, noChain, -1, off.bytes()});
    });
    for (const Lane& lane : plan().lanes()) {
        for (const int control : {midi::sustain, midi::allNotesOff, midi::allSoundOff}) {
            const auto message = midi::make(midi::controlChange, lane.channel, control, 0);
            sink({now_, lane.port, lane.instrument, noChain, -1, message.bytes()});
        }
    }
    for (std::uint32_t lane = 0; lane < plan().lanes().size(); ++lane) forgetLane(lane);
    std::fill(state().osc.begin(), state().osc.end(), std::nullopt);
}

void Engine::portConnected(PortId port) {
    for (std::uint32_t lane = 0; lane < plan().lanes().size(); ++lane) {
        if (plan().lanes()[lane].port == port) forgetLane(lane);
    }
    for (std::size_t i = 0; i < state().osc.size(); ++i) {
        if (plan().numbering.oscPlaces[i].port == port) state().osc[i].reset();
    }
}

void Engine::forgetRegister(std::uint32_t lane, const midi::Selection& selection) {
    const auto& registers = plan().numbering.registers;
    for (std::size_t i = 0; i < registers.size(); ++i) {
        if (registers[i].lane == lane && registers[i].kind == selection.kind &&
            registers[i].number == selection.number())
            state().registers[i] = -1;
    }
}

void Engine::forgetLane(std::uint32_t lane) {
    std::fill_n(state().sent.begin() + static_cast<std::ptrdiff_t>(lane) * slotsPerLane, slotsPerLane,
                noPayload);
    state().selections[lane] = {};
    const auto& registers = plan().numbering.registers;
    for (std::size_t i = 0; i < registers.size(); ++i) {
        if (registers[i].lane == lane) state().registers[i] = -1;
    }
}

std::uint32_t Engine::laneAt(PortId port, std::uint8_t channel) const {
    const auto& lanes = plan().lanes();
    const auto found = std::find(lanes.begin(), lanes.end(), Lane{port, channel, 0});
    return static_cast<std::uint32_t>(found - lanes.begin());
}

}  // namespace mellow::engine
