// What passes an instrument by, its notes, and silence (signal rules, sections 5 and 6). A note-off goes
// wherever its note-on went, whatever was edited meanwhile; what passed is remembered like what chains send,
// so that neither repeats the other.
#include <algorithm>
#include <array>

#include "core/engine/engine.h"

namespace mellow::engine {

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
    if (midi::selectsRegister(number)) selected.player.take(number, value);
    const bool data = midi::isDataEntry(number);
    if (data) reselect(part.lane, part, sink);
    putControl(part.lane, {part.name}, number, value, sink);
    if (midi::clearsNotes(number)) notes_.clearChannel(laneOf(part).port, laneOf(part).channel);
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
