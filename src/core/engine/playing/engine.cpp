// What comes in is heard: messages that mean something beyond their value are followed (pairs, registers,
// held keys and pedals, the clock's tempo), and each ear that a message fits takes its value. Which ear a
// message may fit was settled by the lists; what a value becomes is speaking.cpp's business, and when the
// chain runs is walking.cpp's.
#include "core/engine/playing/engine.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <utility>

#include "core/engine/playing/desk_place.h"
#include "core/sources/encoder.h"

namespace mellow::engine {

std::optional<int> transposed(const PlanInstrument& part, int key) {
    if (key < part.lowKey || key > part.highKey) return std::nullopt;
    const int moved = key + part.transpose;
    if (moved < 0 || moved > 127) return std::nullopt;
    return moved;
}

midi::Short onChannel(midi::Bytes message, int channel) {
    midi::Short moved = midi::shortOf(message);
    moved.data[0] = static_cast<std::uint8_t>((message[0] & 0xF0) | channel);
    return moved;
}

Engine::Engine(Program* program) : program_(program) {
    if (program == nullptr) return;
    mixes_ = plan().hasMixes;
    zones_.setByHand(plan().zones);
    tempo_ = plan().bpm;
    for (const std::uint32_t ear : plan().generators) {
        EarState& generator = state().ears[ear];
        generator.moves = !isAsleep(plan().chains[plan().ears[ear].chain]);
        if (generator.moves) ++movingGenerators_;
    }
}

void Engine::systemMessage(const Event& event, const Sink& sink) {
    if (plan().follows == Follow::clock && portFits(plan().clockPort, event.port)) followClock(event);
    for (const std::uint32_t place : plan().turns) {
        const Part& part = plan().parts[place];
        if (!isInHand(place) || !portFits(part.inputPort, event.port)) continue;
        const std::uint8_t status = event.bytes[0];
        const bool passes = status == midi::sysexStart ? part.pass.sysex
                            : midi::isRealTime(status) ? part.pass.clock
                                                       : part.pass.unmatched;
        if (passes) sink({now_, laneOf(place).port, part.name, noChain, -1, event.bytes});
    }
}

// The tempo.

void Engine::followClock(const Event& event) {
    switch (event.bytes[0]) {
        case midi::timingClock:
            if (const auto tempo = clock_.beat(now_)) {
                clockTempo_ = *tempo;
                changeTempo();
            }
            break;
        case midi::clockStart:
            clock_.begin();
            startCycles();
            break;
        case midi::clockContinue:
            clock_.begin();
            break;
        default:
            break;
    }
}

void Engine::setTempo(double tempo) {
    fileTempo_ = std::max(0.0, tempo);
    changeTempo();
}

/// Cycles in beats go on from where they stand.
void Engine::startCycles() {
    for (const std::uint32_t e : plan().cycles)
        clockStarts(*plan().ears[e].source, state().ears[e].generator, std::max<Time>(now_, 0));
}

void Engine::followTransport(double bpm, bool starts) {
    if (plan().follows != Follow::transport) return;
    if (bpm > 0) {
        clockTempo_ = std::clamp(bpm, MidiClock::slowest, MidiClock::fastest);
        changeTempo();
    }
    if (starts) startCycles();
}

void Engine::changeTempo() {
    const double tempo = fileTempo_ > 0 ? fileTempo_ : clockTempo_ > 0 ? clockTempo_ : plan().bpm;
    if (tempo == tempo_) return;
    const Time now = std::max<Time>(now_, 0);
    for (const std::uint32_t e : plan().cycles)
        tempoChanges(*plan().ears[e].source, state().ears[e].generator, now, tempo_);
    tempo_ = tempo;
}

// Hearing.

/// Something happens that is not merely looked up; at a grid point there is no event.
void Engine::beginEvent(const Event* event) {
    ++serial_;
    event_ = event;
    shared_ = {};
    sharedFingers_ = {};
    configures_ = false;
    readingCount_ = 0;
    cue_ = Cue::none;
    comingUp_ = NoteMemory::nothing;
    defers_ = mixes_;
}

void Engine::channelMessage(const Event& event, const Sink& sink) {
    beginEvent(&event);
    const std::size_t key = midi::keyOf(event.bytes);
    if (key < midi::bendKey) followControl(event, sink);
    if (key == midi::noteOnKey) cue_ = Cue::noteOn;
    hear(event, key);
    walk(event, sink);
}

void Engine::oscMessage(const Event& event, const Sink& sink) {
    if (event.port == plan().deskPort) return deskMove(event, sink);
    beginEvent(&event);
    for (const std::uint32_t ear : plan().oscEarsAt(event.address)) hearOsc(event, ear);
    walkRest(sink);
}

void Engine::hearOsc(const Event& event, std::uint32_t e) {
    const Ear& ear = plan().ears[e];
    const std::uint32_t part = plan().chains[ear.chain].part;
    const bool heard = portFits(ear.port, event.port) &&
                       (part == none || portFits(plan().parts[part].inputPort, event.port));
    if (heard) hearPlace(e, clampPosition(event.number), event.port, 0);
}

/// An element of the desk is moved, which passes every filter; or a tile is touched, which chooses at once.
void Engine::deskMove(const Event& event, const Sink& sink) {
    beginEvent(&event);
    const DeskListener* listener = plan().deskAt(event.address);
    if (listener == nullptr) return walkRest(sink);
    const double place = deskPlace(*listener, event.number);
    state().deskLive[static_cast<std::size_t>(listener - plan().desk.data())].store(
        static_cast<float>(place), std::memory_order_relaxed);
    for (const std::uint32_t ear : listener->ears) hearPlace(ear, place, event.port, 0);
    if (!listener->names.empty()) {
        for (const Choice& choice : listener->names[nameAt(place, listener->names.size())]) {
            const Sender sender{plan().parts[choice.part].name};
            if (isInHand(choice.part)) chooseArticulation(choice.part, choice.articulation, sender, sink);
        }
    }
    walkRest(sink);
}

/// What a control means beside its value: pedals that are down, registers that are selected, halves of pairs.
void Engine::followControl(const Event& event, const Sink& sink) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    const int number = event.bytes[1];
    const int value = event.bytes[2];
    if (hands_.control(event.port, channel, number, value)) cue_ = Cue::pedalDown;
    if (midi::selectsRegister(number)) {
        selections_.at(event.port, channel).take(number, value);
    } else if (midi::isDataEntry(number)) {
        enterData(event, sink);
    }
    if (midi::isHalfOfAPair(number) && plan().pairsHeard[static_cast<std::size_t>(midi::pairOf(number))]) {
        readPair({event.port, static_cast<std::uint8_t>(channel), midi::PairKind::control,
                  static_cast<std::uint16_t>(midi::pairOf(number))},
                 number < midi::pairCount, value);
    }
}

void Engine::readPair(const midi::PairAddress& address, bool high, int value) {
    const auto take = [this](const midi::PairReading& reading) { readings_[readingCount_++] = reading; };
    if (high) {
        pairs_.high(address, value, now_, take);
    } else {
        pairs_.low(address, value, take);
    }
}

void Engine::enterData(const Event& event, const Sink& sink) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    const midi::Selection& selection = selections_.at(event.port, channel);
    dataAddress_ = {};
    if (selection.number() == midi::Selection::unknown) return;
    if (selection.kind == midi::PairKind::rpn) followZones(event, channel, selection.number(), sink);
    dataAddress_ = {event.port, static_cast<std::uint8_t>(channel), selection.kind,
                    static_cast<std::uint16_t>(selection.number())};
    if (!someoneHears(dataAddress_)) return;
    const int number = event.bytes[1];
    if (number == midi::dataEntry || number == midi::dataEntryLow)
        return readPair(dataAddress_, number == midi::dataEntry, event.bytes[2]);
    pairs_.step(dataAddress_, number == midi::dataIncrement ? 1 : -1,
                [this](const midi::PairReading& reading) { readings_[readingCount_++] = reading; });
}

bool Engine::someoneHears(const midi::PairAddress& address) {
    const auto listeners = plan().listenersTo(address.channel, midi::dataEntry);
    return std::any_of(listeners.begin(), listeners.end(), [&](const Listener& listener) {
        return listener.ear != none &&
               isOfPair(*plan().ears[listener.ear].source, address.kind, address.number);
    });
}

/// A high byte has waited long enough.
void Engine::hearDue(const midi::PairReading& reading) {
    const auto& at = reading.address;
    const std::size_t key = at.kind == midi::PairKind::control ? at.number : std::size_t{midi::dataEntry};
    for (const Listener& listener : plan().listenersTo(at.channel, key)) {
        if (listener.ear == none || !isOfPair(*plan().ears[listener.ear].source, at.kind, at.number))
            continue;
        const bool comes = listener.part == none || comesTo(plan().parts[listener.part], at.port, at.channel);
        if (!comes || !portFits(listener.port, at.port)) continue;
        speakRaw(listener.ear, rawOf(plan().ears[listener.ear], reading), at.port, at.channel);
    }
}

/// Tells every ear that a message concerns, and notes which instruments' chains it matched.
void Engine::hear(const Event& event, std::size_t key) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    heldVelocity_ = 0;
    if (midi::concernsKey(key) && hands_.isHeld(event.port, channel, event.bytes[1]))
        heldVelocity_ = hands_.velocity(event.port, channel, event.bytes[1]);
    keyChanges_ =
        (key == midi::noteOnKey || key == midi::noteOffKey) &&
        hands_.key(event.port, channel, event.bytes[1], key == midi::noteOnKey ? event.bytes[2] : 0);
    lifted_.reset();
    if (key == midi::noteOnKey) zones_.strike(event.port, channel, event.bytes[1], event.bytes[2]);
    if (key == midi::noteOffKey) lifted_ = zones_.lift(event.port, channel, event.bytes[1]);
    if ((key == midi::noteOnKey || key == midi::noteOffKey) && zones_.someExist()) chooseFingers();
    for (const Listener& listener : plan().listenersTo(channel, key)) hearFor(listener, event, key);
}

/// Tells one listener of a message that may concern it.
void Engine::hearFor(const Listener& listener, const Event& event, std::size_t key) {
    if (!portFits(listener.partPort, event.port)) return;
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    if (plan().zoned && listener.part != none && !comesTo(plan().parts[listener.part], event.port, channel))
        return;
    int note = event.bytes[1];
    if (midi::concernsKey(key) && listener.part != none) {
        const Part& part = plan().parts[listener.part];
        const auto moved = transposed(part, note);
        if (!moved) return;
        note = *moved;
    }
    const bool follows =
        listener.ear != none && row(plan().ears[listener.ear].source->kind).origin == Origin::generator;
    if (follows) {
        if (portFits(listener.port, event.port)) hearKey(listener, event, key);
        return;
    }
    if (midi::concernsKey(key) && listener.part != none) {
        const Part& part = plan().parts[listener.part];
        if (part.isLayer() && !isOfLayer(part, event, key)) return;
    }
    if (listener.ear == none) return hearCue(listener);
    if (!portFits(listener.port, event.port)) return;
    if (hearWith(listener.ear, event, note) != Fit::taken || isAsleep(plan().chains[listener.chain])) return;
    if (listener.part == none) {
        Matched& by = plan().ears[listener.ear].kind == SourceKind::zoneNote ? sharedFingers_ : shared_;
        by = {true, by.keep || listener.keep};
    } else {
        State::PartMatch& match = state().matches[listener.part];
        match.keep = listener.keep || (match.event == serial_ && match.keep);
        match.event = serial_;
    }
}

/// A note comes to a generator: of one key that its instrument takes, counted as long as it is held by a
/// note-on of the instrument's layer. One struck again outside of it holds no longer.
void Engine::hearKey(const Listener& listener, const Event& event, std::size_t key) {
    if (isAsleep(plan().chains[listener.chain])) return;
    const auto takes = [&](int velocity) {
        return velocity > 0 && (listener.part == none || plan().parts[listener.part].takesVelocity(velocity));
    };
    // What an instrument holds that came into hand just now has been counted.
    const bool held = again_ ? true : takes(heldVelocity_);
    const bool holds = key == midi::noteOnKey && takes(event.bytes[2]);
    if (holds) noteOnForGenerator(listener.ear, !held);
    if (held && !holds && !again_) noteOffForGenerator(listener.ear, true);
}

/// A note reaches an instrument only in hand; a pedal counts all the same.
void Engine::hearCue(const Listener& listener) {
    const bool out = listener.part != none && !isInHand(listener.part);
    if (cue_ == Cue::none || (cue_ == Cue::noteOn && out)) return;
    if (isAsleep(plan().chains[listener.chain])) return;
    state().chains[listener.chain].hears = true;
    mark(listener.chain);
}

/// Whether a note belongs to an instrument's velocity layer: a note-on by its velocity, an off by that of its
/// note-on. What is not of notes coming and going does.
bool Engine::isOfLayer(const Part& part, const Event& event, std::size_t key) const {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    if (key == midi::noteOnKey) return part.takesVelocity(event.bytes[2]);
    return key != midi::noteOffKey ||
           part.takesVelocity(hands_.velocity(event.port, channel, event.bytes[1]));
}

/// note: the key of a note message, as the instrument takes it.
Engine::Fit Engine::hearWith(std::uint32_t e, const Event& event, int note) {
    const Ear& ear = plan().ears[e];
    const Source& source = *ear.source;
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    const SourceRow& kind = row(source.kind);
    if (kind.value != nullptr) {
        const int raw = kind.value(source, event.bytes, note);
        if (raw < 0) return Fit::no;
        speakRaw(e, raw, event.port, channel);
        return kind.consumes ? Fit::taken : Fit::heard;
    }
    // What needs to know more than the message.
    switch (source.kind) {
        case SourceKind::key:
            if (source.number != note) return Fit::no;
            speakRaw(e, keyIsDown(ear, event.bytes[1]) ? midi::max7 : 0, event.port, channel);
            return Fit::taken;
        case SourceKind::zoneNote:
            return hearFinger(e, event);
        case SourceKind::relative:
            if (isAsleep(plan().chains[ear.chain])) return Fit::no;
            speak(e, clampPosition(state().ears[e].position + encoderMove(source, event.bytes[2])));
            return Fit::taken;
        case SourceKind::cc14:
            return hearPair(e, midi::PairKind::control, midi::pairOf(event.bytes[1]));
        case SourceKind::rpn:
        case SourceKind::nrpn:
            return hearPair(e, dataAddress_.kind, dataAddress_.number);
        default:
            return Fit::no;
    }
}

Engine::Fit Engine::hearPair(std::uint32_t e, midi::PairKind kind, int number) {
    const Ear& ear = plan().ears[e];
    if (!isOfPair(*ear.source, kind, number)) return Fit::no;
    for (std::size_t i = 0; i < readingCount_; ++i) {
        const midi::PairReading& reading = readings_[i];
        if (isOfPair(*ear.source, reading.address.kind, reading.address.number))
            speakRaw(e, rawOf(ear, reading), reading.address.port, reading.address.channel);
    }
    return Fit::taken;
}

/// True while a key is held on any port and channel that an ear listens to.
bool Engine::keyIsDown(const Ear& ear, std::size_t key) {
    const std::uint32_t p = plan().chains[ear.chain].part;
    const Part* part = p == none ? nullptr : &plan().parts[p];
    for (std::size_t port = 0; port < hands_.portsUsed(); ++port) {
        const auto id = static_cast<PortId>(port);
        if (!portFits(ear.port, id)) continue;
        for (std::size_t channel = 0; channel < 16; ++channel) {
            const bool heard = (ear.channel < 0 || ear.channel == static_cast<int>(channel)) &&
                               (part == nullptr ||
                                ((part->inputChannels >> channel & 1) != 0 && comesTo(*part, id, channel) &&
                                 part->takesVelocity(hands_.velocity(id, channel, key))));
            if (heard && hands_.isDown(id, channel, key)) return true;
        }
    }
    return false;
}

}  // namespace mellow::engine
