// What passes an instrument by, its notes, and silence (signal rules, sections 5 and 6). A note-off goes
// wherever its note-on went, whatever was edited meanwhile; what passed is remembered like what chains send,
// so that neither repeats the other.
#include <algorithm>
#include <array>

#include "core/engine/playing/engine.h"

namespace mellow::engine {

// What passes.

/// Passes a message on, if it comes from where the instrument listens.
[[gnu::noinline]] void Engine::pass(const Event& event, std::uint32_t place, const Sink& sink) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    if (!comesTo(plan().parts[place], event.port, channel)) return;
    if (zones_.someExist() && !mayPass(event, place)) return;
    passOn(event, place, sink);
}

void Engine::passOn(const Event& event, std::uint32_t place, const Sink& sink) {
    const Part& part = plan().parts[place];
    const std::uint32_t to =
        passingLane(place, event.port, static_cast<std::size_t>(midi::channelOf(event.bytes)));
    const Lane& lane = plan().lanes()[to];
    const midi::Short message = onChannel(event.bytes, lane.channel);
    lanes(sink).pass(to, {part.name}, message);
    if (midi::kindOf(event.bytes) == midi::controlChange && midi::clearsNotes(message.data[1]))
        notes_.clearChannel(lane.port, lane.channel);
}

void Engine::beginNote(const Event& event, std::uint32_t place, const Sink& sink) {
    const Part& part = plan().parts[place];
    const auto key = transposed(part, event.bytes[1]);
    if (!key || !part.takesVelocity(event.bytes[2])) return;
    const std::uint32_t to =
        passingLane(place, event.port, static_cast<std::size_t>(midi::channelOf(event.bytes)));
    const Lane& lane = plan().lanes()[to];
    midi::Short message = onChannel(event.bytes, lane.channel);
    message.data[1] = static_cast<std::uint8_t>(*key);
    if (state().velocities[place] >= 0)
        message.data[2] = static_cast<std::uint8_t>(state().velocities[place]);
    const OutputKey output{lane.port, lane.channel, message.data[1]};
    if (!notes_.begin(inputKey(event), serial_, output, part.name)) return;
    lanes(sink).put(to, {part.name}, message);
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
    if (notes_.isDown(cause)) comingUp_ = cause;
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
    comingUp_ = NoteMemory::nothing;
}

/// Key pressure goes where its note went; where there is none, to the key as a note would.
void Engine::followNote(const Event& event, std::uint32_t p, const Sink& sink) {
    const Part& part = plan().parts[p];
    const auto follow = [&](std::uint32_t lane, std::uint8_t channel, std::uint8_t key) {
        midi::Short message = onChannel(event.bytes, channel);
        message.data[1] = key;
        lanes(sink).pass(lane, {part.name}, message);
    };
    bool held = false;
    const std::uint32_t cause = notes_.find(inputKey(event));
    for (std::uint32_t i = cause == NoteMemory::nothing ? cause : notes_.firstOf(cause);
         i != NoteMemory::nothing; i = notes_.place(i).nextOfCause) {
        const NoteMemory::Place& place = notes_.place(i);
        if (place.instrument != part.name) continue;
        held = true;
        follow(lanes(sink).at(place.output.port, place.output.channel), place.output.channel,
               place.output.key);
    }
    const auto key = transposed(part, event.bytes[1]);
    if (held || !key) return;
    const std::uint32_t to =
        passingLane(p, event.port, static_cast<std::size_t>(midi::channelOf(event.bytes)));
    follow(to, plan().lanes()[to].channel, static_cast<std::uint8_t>(*key));
}

// Silence.

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
    for (std::uint32_t lane = 0; lane < plan().lanes().size(); ++lane) lanes(sink).forget(lane);
    std::fill(state().osc.begin(), state().osc.end(), std::nullopt);
}

}  // namespace mellow::engine
