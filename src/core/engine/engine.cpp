// Hearing and walking, and the tempo. Which ear a message fits was settled by the lists; here its value is
// taken, handovers are asked whether they follow, and the chain is marked by its rank. Walking takes marked
// chains by rank and lets instruments pass on in their turn, so that what velocity sets is there before its
// note sounds.
#include "core/engine/engine.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <utility>

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
    tempo_ = plan().bpm;
    movingGenerators_ = static_cast<std::uint32_t>(plan().generators.size());
}

void Engine::systemMessage(const Event& event, const Sink& sink) {
    if (plan().follows == Follow::clock && portFits(plan().clockPort, event.port)) followClock(event);
    for (const std::uint32_t place : plan().turns) {
        const Part& part = plan().parts[place];
        if (!part.inHand || !portFits(part.inputPort, event.port)) continue;
        const std::uint8_t status = event.bytes[0];
        const bool passes = status == midi::sysexStart ? part.pass.sysex
                            : midi::isRealTime(status) ? part.pass.clock
                                                       : part.pass.unmatched;
        if (passes) sink({now_, laneOf(part).port, part.name, noChain, -1, event.bytes});
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
            for (const std::uint32_t e : plan().cycles)
                clockStarts(*plan().ears[e].source, state().ears[e].generator, now_);
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
void Engine::changeTempo() {
    const double tempo = fileTempo_ > 0 ? fileTempo_ : clockTempo_ > 0 ? clockTempo_ : plan().bpm;
    if (tempo == tempo_) return;
    const Time now = std::max<Time>(now_, 0);
    for (const std::uint32_t e : plan().cycles)
        tempoChanges(*plan().ears[e].source, state().ears[e].generator, now, tempo_);
    tempo_ = tempo;
}

// Hearing.

namespace {

std::size_t listenKeyOf(midi::Bytes bytes) {
    switch (midi::kindOf(bytes)) {
        case midi::controlChange:
            return bytes[1];
        case midi::pitchBend:
            return bendKey;
        case midi::channelPressure:
            return pressureKey;
        case midi::keyPressure:
            return keyPressureKey;
        case midi::programChange:
            return programKey;
        default:
            return midi::isNoteOn(bytes) ? noteOnKey : noteOffKey;
    }
}

bool concernsKey(std::size_t listenKey) {
    return listenKey == noteOnKey || listenKey == noteOffKey || listenKey == keyPressureKey;
}

bool isData(int control) {
    return control == midi::dataEntry || control == midi::dataEntryLow || control == midi::dataIncrement ||
           control == midi::dataDecrement;
}

}  // namespace

/// Something happens that is not merely looked up; at a grid point there is no event.
void Engine::beginEvent(const Event* event) {
    ++serial_;
    event_ = event;
    shared_ = {};
    readingCount_ = 0;
    dataStep_ = 0;
    cue_ = Cue::none;
    defers_ = mixes_;
}

void Engine::channelMessage(const Event& event, const Sink& sink) {
    beginEvent(&event);
    const std::size_t key = listenKeyOf(event.bytes);
    if (key < bendKey) followControl(event);
    if (key == noteOnKey) cue_ = Cue::noteOn;
    hear(event, key);
    walk(event, sink);
}

void Engine::oscMessage(const Event& event, const Sink& sink) {
    beginEvent(&event);
    const auto& all = plan().oscListeners;
    const auto found =
        std::lower_bound(all.begin(), all.end(), event.address,
                         [](const OscListener& a, auto address) { return a.address < address; });
    if (found == all.end() || found->address != event.address) return walkRest(sink);
    for (const std::uint32_t e : found->ears) {
        const Ear& ear = plan().ears[e];
        const std::uint32_t part = plan().chains[ear.chain].part;
        const bool heard = portFits(ear.port, event.port) &&
                           (part == none || portFits(plan().parts[part].inputPort, event.port));
        if (!heard) continue;
        hearPlace(e, clampPosition(event.number), event.port, 0);
    }
    walkRest(sink);
}

/// What a control means beside its value: pedals that are down, registers that are selected, halves of pairs.
void Engine::followControl(const Event& event) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    const int number = event.bytes[1];
    const int value = event.bytes[2];
    if (hands_.control(event.port, channel, number, value)) cue_ = Cue::pedalDown;
    if (number >= midi::nrpnSelectLow && number <= midi::rpnSelect) {
        selections_.at(event.port, channel).take(number, value);
    } else if (isData(number)) {
        enterData(event);
    }
    if (number < 64 && plan().pairsHeard[static_cast<std::size_t>(number % 32)]) {
        readPair({event.port, static_cast<std::uint8_t>(channel), midi::PairKind::control,
                  static_cast<std::uint16_t>(number % 32)},
                 number < 32, value);
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

void Engine::enterData(const Event& event) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    const midi::Selection& selection = selections_.at(event.port, channel);
    dataAddress_ = {};
    if (selection.number() == midi::Selection::unknown) return;
    dataAddress_ = {event.port, static_cast<std::uint8_t>(channel), selection.kind,
                    static_cast<std::uint16_t>(selection.number())};
    if (!someoneHears(dataAddress_)) return;
    const int number = event.bytes[1];
    if (number == midi::dataEntry || number == midi::dataEntryLow)
        return readPair(dataAddress_, number == midi::dataEntry, event.bytes[2]);
    pairs_.settle(dataAddress_,
                  [this](const midi::PairReading& reading) { readings_[readingCount_++] = reading; });
    dataStep_ = number == midi::dataIncrement ? 1 : -1;
    dataCoarse_ = pairs_.step(dataAddress_, dataStep_);
}

namespace {

bool isOfPair(const Source& source, midi::PairKind kind, int number) {
    const SourceKind wanted = kind == midi::PairKind::control ? SourceKind::cc14
                              : kind == midi::PairKind::rpn   ? SourceKind::rpn
                                                              : SourceKind::nrpn;
    return source.kind == wanted && source.number == number;
}

}  // namespace

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
        if (!portFits(listener.partPort, at.port) || !portFits(listener.port, at.port)) continue;
        speakRaw(listener.ear, rawOf(plan().ears[listener.ear], reading), at.port, at.channel);
    }
}

/// Tells every ear that a message concerns, and notes which instruments' chains it matched.
void Engine::hear(const Event& event, std::size_t key) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    const bool changes = (key == noteOnKey || key == noteOffKey) &&
                         hands_.key(event.port, channel, event.bytes[1], key == noteOnKey);
    for (const Listener& listener : plan().listenersTo(channel, key)) {
        if (!portFits(listener.partPort, event.port)) continue;
        int note = event.bytes[1];
        if (concernsKey(key) && listener.part != none) {
            const auto moved = transposed(plan().parts[listener.part], note);
            if (!moved) continue;
            note = *moved;
        }
        if (listener.ear == none) {
            // A note reaches an instrument only in hand; a pedal counts all the same.
            const bool out = listener.part != none && !plan().parts[listener.part].inHand;
            if (cue_ == Cue::none || (cue_ == Cue::noteOn && out)) continue;
            state().chains[listener.chain].hears = true;
            mark(listener.chain);
            continue;
        }
        if (!portFits(listener.port, event.port)) continue;
        const SourceKind kind = plan().ears[listener.ear].source->kind;
        if (row(kind).origin == Origin::generator) {
            if (key == noteOnKey) noteOnForGenerator(listener.ear, changes);
            if (key == noteOffKey) noteOffForGenerator(listener.ear, changes);
            continue;
        }
        if (hearWith(listener.ear, event, note) != Fit::taken) continue;
        if (listener.part == none) {
            shared_ = {true, shared_.keep || listener.keep};
        } else {
            State::PartMatch& match = state().matches[listener.part];
            match.keep = listener.keep || (match.event == serial_ && match.keep);
            match.event = serial_;
        }
    }
}

/// note: the key of a note message, as the instrument takes it.
Engine::Fit Engine::hearWith(std::uint32_t e, const Event& event, int note) {
    const Ear& ear = plan().ears[e];
    const Source& source = *ear.source;
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    const auto take = [&](int raw) {
        speakRaw(e, raw, event.port, channel);
        return Fit::taken;
    };
    switch (source.kind) {
        case SourceKind::cc:
        case SourceKind::keyPressure:
            return take(event.bytes[2]);
        case SourceKind::bend:
            return take(midi::bendOf(event.bytes));
        case SourceKind::pressure:
            return take(event.bytes[1]);
        case SourceKind::program:
            return source.number == anyNumber || source.number == event.bytes[1] ? take(event.bytes[1])
                                                                                 : Fit::no;
        case SourceKind::velocity:
            take(event.bytes[2]);
            return Fit::heard;
        case SourceKind::releaseVelocity:
            // A note-on of velocity 0 says nothing of its release, so it counts as the middle.
            take(midi::kindOf(event.bytes) == midi::noteOn ? midi::middleVelocity : event.bytes[2]);
            return Fit::heard;
        case SourceKind::keyNumber:
            take(note);
            return Fit::heard;
        case SourceKind::key:
            return source.number == note ? take(keyIsDown(ear, event.bytes[1]) ? midi::max7 : 0) : Fit::no;
        case SourceKind::relative:
            if (plan().chains[ear.chain].asleep) return Fit::no;
            speak(e, clampPosition(state().ears[e].position + encoderMove(source, event.bytes[2])));
            return Fit::taken;
        case SourceKind::cc14:
            return hearPair(e, midi::PairKind::control, event.bytes[1] % 32);
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
    if (dataStep_ != 0) speakRaw(e, stepped(e), dataAddress_.port, dataAddress_.channel);
    return Fit::taken;
}

/// The raw value that data increment or decrement leads to, in the resolution in which the value is read.
int Engine::stepped(std::uint32_t e) const {
    const Ear& ear = plan().ears[e];
    const int raw = program_->state.ears[e].raw;
    const int firstCoarse = ear.max + 1;
    if (dataCoarse_) {
        const int half = ear.max == pitchRangeMax ? centsASemitone : midi::max7 + 1;
        const int high = raw < 0              ? encode(ear.scale, ear.rest, midi::max7)
                         : raw >= firstCoarse ? raw - firstCoarse
                                              : raw / half;
        return firstCoarse + std::clamp(high + dataStep_, 0, midi::max7);
    }
    const int fine = raw < 0              ? encode(ear.scale, ear.rest, ear.max)
                     : raw >= firstCoarse ? rawOf(ear, {{}, (raw - firstCoarse) << 7, true})
                                          : raw;
    return std::clamp(fine + dataStep_, 0, ear.max);
}

/// True while a key is held on any port and channel that an ear listens to.
bool Engine::keyIsDown(const Ear& ear, std::size_t key) {
    const std::uint32_t p = plan().chains[ear.chain].part;
    const Part* part = p == none ? nullptr : &plan().parts[p];
    for (std::size_t port = 0; port < hands_.portsUsed(); ++port) {
        const auto id = static_cast<PortId>(port);
        if (!portFits(ear.port, id) || (part != nullptr && !portFits(part->inputPort, id))) continue;
        for (std::size_t channel = 0; channel < 16; ++channel) {
            const bool heard = (ear.channel < 0 || ear.channel == static_cast<int>(channel)) &&
                               (part == nullptr || (part->inputChannels >> channel & 1) != 0);
            if (heard && hands_.isDown(id, channel, key)) return true;
        }
    }
    return false;
}

void Engine::speakRaw(std::uint32_t e, int raw, PortId port, std::size_t channel) {
    const Ear& ear = plan().ears[e];
    const double place = placeOf(ear, raw);
    if (plan().chains[ear.chain].asleep) return hearPlace(e, place, port, channel);
    state().ears[e].raw = raw;
    const bool coarse = raw > ear.max;
    if (ear.role == Role::main) {
        const int shown = coarse ? std::min((raw - ear.max - 1) << 7, ear.max) : raw;
        state().chainLive[ear.chain].raw.store(shown, std::memory_order_relaxed);
    }
    hearPlace(e, place, port, channel);
}

/// A control stands at a place: the chain follows it at once, or once it has caught up, or, asleep, merely
/// knows it.
void Engine::hearPlace(std::uint32_t e, double place, PortId port, std::size_t channel) {
    const Ear& ear = plan().ears[e];
    const bool asleep = plan().chains[ear.chain].asleep;
    if (ear.hands == none) {
        if (!asleep) speak(e, place);
        return;
    }
    HandState& hand = handOf(e, port, channel);
    if (asleep) {
        hand.place = place;
        hand.known = true;
        return;
    }
    const double before = state().ears[e].position;
    const auto position = handOver(e, hand, place);
    if (!position) return;
    // Whoever else moves the value takes it away from all other controls.
    if (*position != before) {
        for (HandState& other : handsOf(e)) other.caught = other.caught && &other == &hand;
    }
    speak(e, *position);
}

void Engine::speak(std::uint32_t e, double position) {
    const Ear& ear = plan().ears[e];
    EarState& earState = state().ears[e];
    ChainState& chain = state().chains[ear.chain];
    earState.position = position;
    earState.spoken = true;
    switch (ear.role) {
        case Role::main:
            chain.moved = true;
            if (ear.max == 0)
                state().chainLive[ear.chain].source.store(static_cast<float>(position),
                                                          std::memory_order_relaxed);
            break;
        case Role::combine:
            state().steps[ear.step].other = position;
            state().steps[ear.step].stirred = true;
            chain.stirred = true;
            break;
        case Role::chooser:
            state().chainLive[ear.chain].fed.store(
                static_cast<int>(chosenBranch(plan().chains[ear.chain], position)),
                std::memory_order_relaxed);
            break;
    }
    mark(ear.chain);
}

std::span<HandState> Engine::handsOf(std::uint32_t e) {
    return std::span(state().hands).subspan(plan().ears[e].hands, handsPerEar);
}

/// What is known of a control that moves an ear; where there is no room for a new one, the first that came is
/// forgotten.
HandState& Engine::handOf(std::uint32_t e, PortId port, std::size_t channel) {
    const auto hands = handsOf(e);
    const auto found = std::find_if(hands.begin(), hands.end(), [&](const HandState& hand) {
        return hand.known && hand.port == port && hand.channel == channel;
    });
    if (found != hands.end()) return *found;
    std::uint32_t& next = state().ears[e].nextHand;
    HandState& hand = hands[next];
    next = (next + 1) % handsPerEar;
    hand = {};
    hand.port = port;
    hand.channel = static_cast<std::uint8_t>(channel);
    return hand;
}

/// What a control's place becomes for the chain, or nothing while the control has not caught up with it
/// (signal rules, section 5).
std::optional<double> Engine::handOver(std::uint32_t e, HandState& hand, double place) {
    constexpr double close = 1e-9;
    const Handover handover = plan().ears[e].handover;
    const double value = state().ears[e].position;
    const double before = std::exchange(hand.place, place);
    const bool known = std::exchange(hand.known, true);
    if (hand.caught) return place;
    const bool reaches = (before <= value && place >= value) || (before >= value && place <= value);
    hand.caught = std::abs(place - value) < close || (known && handover == Handover::meet && reaches);
    if (hand.caught) return place;
    if (!known || handover == Handover::meet || place == before) return std::nullopt;
    const double moved = place > before ? value + (1 - value) * (place - before) / (1 - before)
                                        : value - value * (before - place) / before;
    hand.caught = std::abs(place - moved) < close;
    return clampPosition(hand.caught ? place : moved);
}

void Engine::noteOnForGenerator(std::uint32_t e, bool pressed) {
    EarState& ear = state().ears[e];
    if (pressed) ++ear.keysDown;
    noteBegins(*plan().ears[e].source, ear.generator, now_);
    refreshGenerator(e);
}

void Engine::noteOffForGenerator(std::uint32_t e, bool lifted) {
    EarState& ear = state().ears[e];
    if (!lifted || ear.keysDown == 0 || --ear.keysDown > 0) return;
    lastNoteEnds(*plan().ears[e].source, ear.generator, now_);
    refreshGenerator(e);
}

void Engine::refreshGenerator(std::uint32_t e) {
    EarState& ear = state().ears[e];
    const bool moves = keepsMoving(*plan().ears[e].source, ear.generator);
    if (moves && !ear.moves) ++movingGenerators_;
    if (!moves && ear.moves) --movingGenerators_;
    ear.moves = moves;
}

// The clock.

void Engine::runClock(Time until, const Sink& sink) {
    Time grid = (now_ < 0 ? 0 : now_ / gridStep + 1) * gridStep;
    while (grid <= until && moving()) {
        now_ = grid;
        gridPoint(sink);
        grid += gridStep;
    }
}

void Engine::gridPoint(const Sink& sink) {
    beginEvent(nullptr);
    ticking_ = true;
    pairs_.due(now_, [this](const midi::PairReading& reading) { hearDue(reading); });
    for (const std::uint32_t e : plan().generators) {
        EarState& ear = state().ears[e];
        if (!ear.moves) continue;
        const double before = ear.position;
        const double position = clampPosition(movedTo(*plan().ears[e].source, ear.generator, now_, tempo_));
        if (position != before || !ear.spoken) speak(e, position);
        refreshGenerator(e);
    }
    if (movingChains_ > 0) {
        for (const std::uint32_t chain : plan().timedChains) {
            if (state().chains[chain].moving) mark(chain);
        }
    }
    walkRest(sink);
}

// Walking.

void Engine::mark(std::uint32_t chain) {
    const std::uint32_t rank = plan().rankOf(chain);
    std::uint64_t& word = state().pending[rank / 64];
    const std::uint64_t bit = std::uint64_t{1} << (rank % 64);
    if ((word & bit) == 0) ++pendingCount_;
    word |= bit;
}

/// Runs marked chains of ranks below `end` that have not had their turn.
void Engine::runPending(std::uint32_t end, const Sink& sink) {
    while (pendingCount_ > 0 && cursor_ < end) {
        const std::uint64_t word = state().pending[cursor_ / 64] >> (cursor_ % 64);
        if (word == 0) {
            cursor_ = (cursor_ / 64 + 1) * 64;
            continue;
        }
        cursor_ += static_cast<std::uint32_t>(std::countr_zero(word));
        if (cursor_ >= end) break;
        state().pending[cursor_ / 64] &= ~(std::uint64_t{1} << (cursor_ % 64));
        --pendingCount_;
        runChain(plan().chainAt(cursor_), sink);
        ++cursor_;
    }
    cursor_ = std::max(cursor_, end);
}

/// The chains that are left, and what waited for the end.
void Engine::walkRest(const Sink& sink) {
    runPending(static_cast<std::uint32_t>(plan().chains.size()), sink);
    ticking_ = false;
    cursor_ = 0;
    if (defers_) flush(sink);
    defers_ = false;
}

void Engine::walk(const Event& event, const Sink& sink) {
    if (midi::isNoteOff(event.bytes)) {
        // Whoever holds the note ends it, whether it still hears this channel or not.
        const bool held = notes_.find(inputKey(event)) != NoteMemory::nothing;
        for (const std::uint32_t part : plan().turns) {
            if (held) finish(part, sink);
        }
        walkRest(sink);
        if (held) endForgottenNotes(event, sink);
        return;
    }
    for (const std::uint32_t part : plan().receivers[static_cast<std::size_t>(midi::channelOf(event.bytes))])
        finish(part, sink);
    walkRest(sink);
}

/// Runs what stands before the end of an instrument's chains, then passes on what it passes.
void Engine::finish(std::uint32_t part, const Sink& sink) {
    runPending(plan().parts[part].endRank, sink);
    if (defers_) {
        defer({Deferred::What::finish, part, 0, 0}, sink);
    } else {
        finishNow(part, sink);
    }
}

void Engine::finishNow(std::uint32_t place, const Sink& sink) {
    const Event& event = *event_;
    const Part& part = plan().parts[place];
    const auto& match = state().matches[place];
    const bool own = match.event == serial_;
    const bool taken = shared_.any || own;
    const bool kept = !taken || shared_.keep || (own && match.keep);
    if (midi::isNoteOff(event.bytes)) {
        endNotesOf(event, part, sink);
    } else if (midi::kindOf(event.bytes) == midi::noteOn) {
        if (kept && part.pass.notes && portFits(part.inputPort, event.port)) beginNote(event, place, sink);
    } else if (midi::kindOf(event.bytes) == midi::keyPressure) {
        const bool passes = part.pass.notes && (taken ? kept : part.pass.unmatched);
        if (passes && portFits(part.inputPort, event.port)) followNote(event, part, sink);
    } else {
        const bool always =
            midi::kindOf(event.bytes) == midi::controlChange && event.bytes[1] >= midi::firstChannelMode;
        if (always || (taken ? kept : part.pass.unmatched)) pass(event, place, sink);
    }
}

}  // namespace mellow::engine
