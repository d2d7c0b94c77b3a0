// A source that is one finger of a zone hears: which note it is, and where that finger stands
// (docs/expressive-keyboards.md).
//
// Every message of the zone's members is the source's, and goes no further; but only what the chosen note's
// finger does moves it. Choosing is a matter of the notes that are down and of the instrument's input filter,
// so nothing about it has to be remembered but which finger was the last, for when no note is down.
#include <algorithm>
#include <bit>
#include <utility>

#include "core/engine/playing/engine.h"

namespace mellow::engine {

namespace {

/// Whether a note comes before another in a source's choice.
bool isPreferred(WhichNote of, const Zones::Note& note, const Zones::Note& other) {
    if (of == WhichNote::highest && note.key != other.key) return note.key > other.key;
    if (of == WhichNote::lowest && note.key != other.key) return note.key < other.key;
    return note.order > other.order;
}

}  // namespace

/// Whether an instrument takes what comes on a port and channel.
bool Engine::comesTo(const Part& part, PortId port, std::size_t channel) const {
    if (!portFits(part.inputPort, port)) return false;
    return !part.zone || zones_.sizes(port).has(*part.zone, channel);
}

/// The lane on which an instrument passes on what came on a port and channel.
std::uint32_t Engine::passingLane(std::uint32_t p, PortId port, std::size_t channel) {
    const Part& part = plan().parts[p];
    if (part.keptLanes.empty() || !zones_.sizes(port).isMember(channel)) return state().parts[p].lane;
    state().parts[p].channelsUsed |= static_cast<std::uint16_t>(1 << channel);
    return part.keptLanes[channel];
}

/// Data entry to an RPN may say what the zones are.
void Engine::followZones(const Event& event, std::size_t channel, int number, const Sink& sink) {
    const bool high = event.bytes[1] == midi::dataEntry;
    if (!high && event.bytes[1] != midi::dataEntryLow) return;
    const auto beginning = zones_.enter(event.port, channel, number, high, event.bytes[2]);
    if (!beginning) return;
    configures_ = beginning->channels != 0;
    letFingersGo(event.port, *beginning, sink);
}

/// A zone begins anew, before the message that says so is heard: what its keys sound ends, envelopes let go
/// of them, and sources that followed its fingers rest.
void Engine::letFingersGo(PortId port, const Zones::Beginning& beginning, const Sink& sink) {
    const auto isOfIt = [&](std::int8_t channel) {
        return channel >= 0 && (beginning.channels >> channel & 1) != 0;
    };
    endKeysOf(port, beginning.channels, sink);
    for (std::size_t channel = 0; channel < 16; ++channel) {
        if ((beginning.channels >> channel & 1) != 0) hands_.loosen(port, channel);
    }
    for (const std::uint32_t e : plan().notesCounted) {
        if (isAsleep(plan().chains[plan().ears[e].chain])) continue;
        countKeys(e);
        refreshGenerator(e);
    }
    for (const std::uint32_t e : plan().fingerEars) {
        const Ear& ear = plan().ears[e];
        EarState& at = state().ears[e];
        const bool byManager =
            at.finger < 0 && at.byManager && zoneNoteOf(*ear.source).zone == beginning.zone;
        if (at.fingerPort != port || !(isOfIt(at.finger) || byManager)) continue;
        at.finger = -1;
        at.byManager = false;
        hearPlace(e, ear.rest, port, 0);
    }
    for (PartState& part : state().parts) {
        if (part.fingerPort == port && isOfIt(part.finger)) part.finger = -1;
    }
    chooseFingers();
    walkRest(sink);
    defers_ = mixes_;
}

/// Offs for what keys of some channels sound: by instrument, then as struck. One that another key still
/// sounds waits for that, as ever.
void Engine::endKeysOf(PortId port, std::uint16_t channels, const Sink& sink) {
    const auto isOfThem = [&](const NoteMemory::Place& place) {
        const InputKey& input = notes_.inputOf(place);
        return input.port == port && (channels >> input.channel & 1) != 0;
    };
    const auto send = [&](std::uint32_t i) {
        const NoteMemory::Place& place = notes_.place(i);
        if (!isOfThem(place) || !notes_.isDown(place) || isHeldBack(i, port, channels)) return;
        const auto off =
            midi::make(midi::noteOff, place.output.channel, place.output.key, midi::middleVelocity);
        sink({now_, place.output.port, place.instrument, noChain, -1, off.bytes()});
    };
    for (const Part& part : plan().parts) {
        for (std::uint32_t i = notes_.oldest(); i != NoteMemory::nothing; i = notes_.place(i).behind) {
            if (notes_.place(i).instrument == part.name) send(i);
        }
    }
    for (std::uint32_t i = notes_.oldest(); i != NoteMemory::nothing; i = notes_.place(i).behind) {
        const auto owns = [&](const Part& part) { return part.name == notes_.place(i).instrument; };
        if (std::none_of(plan().parts.begin(), plan().parts.end(), owns)) send(i);
    }
    for (std::uint32_t i = notes_.oldest(); i != NoteMemory::nothing;) {
        if (!isOfThem(notes_.place(i))) {
            i = notes_.place(i).behind;
            continue;
        }
        notes_.forget(notes_.place(i).cause);
        i = notes_.oldest();
    }
}

/// Whether another cause that is down sounds the key of a place, and does not end here before it.
bool Engine::isHeldBack(std::uint32_t place, PortId port, std::uint16_t channels) const {
    const NoteMemory::Place& ended = notes_.place(place);
    bool isBefore = true;
    for (std::uint32_t i = notes_.oldest(); i != NoteMemory::nothing; i = notes_.place(i).behind) {
        const NoteMemory::Place& other = notes_.place(i);
        if (i == place) isBefore = false;
        if (other.cause == ended.cause || other.output != ended.output || !notes_.isDown(other)) continue;
        const InputKey& input = notes_.inputOf(other);
        const bool endsToo = input.port == port && (channels >> input.channel & 1) != 0;
        if (!endsToo || !isBefore) return true;
    }
    return false;
}

// One finger at a time, for instruments that know one only.

/// The newest note of the zones that an instrument hears, or nullptr.
const Zones::Note* Engine::newestOf(const Part& part) const {
    const auto notes = zones_.notes();
    const auto isIts = [&](const Zones::Note& note) {
        return zones_.sizes(note.port).isMember(note.channel) &&
               (part.inputChannels >> note.channel & 1) != 0 && comesTo(part, note.port, note.channel) &&
               transposed(part, note.key) && part.takesVelocity(note.velocity);
    };
    const auto found = std::find_if(notes.rbegin(), notes.rend(), isIts);
    return found == notes.rend() ? nullptr : &*found;
}

/// Notes have come or gone: each instrument has its finger, and each source that follows one.
void Engine::chooseFingers() {
    for (std::uint32_t p = 0; p < plan().parts.size(); ++p) {
        const Part& part = plan().parts[p];
        PartState& now = state().parts[p];
        const Zones::Note* newest = part.keptLanes.empty() ? newestOf(part) : nullptr;
        if (newest == nullptr) continue;
        const auto channel = static_cast<std::int8_t>(newest->channel);
        if (now.finger == channel && now.fingerPort == newest->port) continue;
        now.finger = channel;
        now.fingerPort = newest->port;
        now.fingerTurned = serial_;
    }
    for (const std::uint32_t e : plan().fingerEars) {
        const Zones::Note* chosen = chosenNote(plan().ears[e], zoneNoteOf(*plan().ears[e].source));
        if (chosen == nullptr) continue;
        state().ears[e].fingerPort = chosen->port;
        state().ears[e].finger = static_cast<std::int8_t>(chosen->channel);
    }
}

/// Whether what a finger does, or what belongs to registers of its keyboard, passes to an instrument.
bool Engine::mayPass(const Event& event, std::uint32_t p) {
    const Part& part = plan().parts[p];
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    const std::size_t key = midi::keyOf(event.bytes);
    const midi::ZoneSizes sizes = zones_.sizes(event.port);
    const bool isFingers = key == midi::bendKey || key == midi::pressureKey || key == midi::slideControl;
    if (isFingers) {
        const PartState& now = state().parts[p];
        return !part.keptLanes.empty() || !sizes.isMember(channel) ||
               (now.finger == static_cast<std::int8_t>(channel) && now.fingerPort == event.port);
    }
    if (key >= midi::bendKey) return true;
    const auto control = static_cast<int>(key);
    const midi::Selection& selected = selections_.at(event.port, channel);
    if (midi::isDataEntry(control)) {
        // The keyboard's own: its bend range, and what says what the zones are.
        const bool own = selected.kind == midi::PairKind::rpn &&
                         (selected.number() == pitchRangeRegister || selected.number() == midi::zoneRegister);
        if (own && (configures_ || sizes.isOfZone(channel))) return false;
        const bool whole =
            selected.high != midi::Selection::unknown && selected.low != midi::Selection::unknown;
        // Members share one lane, so what this one has selected is selected there first.
        if (part.keptLanes.empty() && sizes.isOfZone(channel) && whole)
            state().selections[state().parts[p].lane].player = selected;
        return true;
    }
    const bool selectsRpn = control == midi::rpnSelect || control == midi::rpnSelectLow;
    return !(selectsRpn && part.keptLanes.empty() && sizes.isOfZone(channel));
}

/// Whether a message of a finger would pass to an instrument that is in hand, going by who takes it.
bool Engine::passesFinger(const Event& event, std::uint32_t p) const {
    const Part& part = plan().parts[p];
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    bool taken = false;
    bool keep = false;
    for (const Listener& listener : plan().listenersTo(channel, midi::keyOf(event.bytes))) {
        const bool own = listener.part == p || listener.part == none;
        if (!own || listener.ear == none || !portFits(listener.port, event.port)) continue;
        const Ear& ear = plan().ears[listener.ear];
        const bool elsewhere = ear.kind == SourceKind::zoneNote &&
                               !zones_.sizes(event.port).isMember(zoneNoteOf(*ear.source).zone, channel);
        if (elsewhere) continue;
        taken = true;
        keep = keep || listener.keep;
    }
    return taken ? keep : part.pass.unmatched;
}

/// Another finger passes from now on: an instrument is told where it stands. What it never said, and stands
/// at rest, is said only where something else was sent before. It was in hand when its turn came.
void Engine::tellFinger(std::uint32_t p, const Sink& sink) {
    const PartState& now = state().parts[p];
    const auto channel = static_cast<std::size_t>(now.finger);
    const std::uint8_t to = plan().lanes()[now.lane].channel;
    const auto tell = [&](std::size_t key, std::uint32_t slot, const midi::Short& message) {
        midi::Short incoming = onChannel(message.bytes(), static_cast<int>(channel));
        if (!passesFinger({now_, now.fingerPort, incoming.bytes()}, p)) return;
        const Payload payload = engine::payload(message.data[1], message.size > 2 ? message.data[2] : 0);
        const Payload last = lanes(sink).sent(now.lane, slot);
        if (last == payload) return;
        if (last == noPayload && !zones_.hasSaid(now.fingerPort, channel, key)) return;
        lanes(sink).pass(now.lane, {plan().parts[p].name}, message);
    };
    tell(midi::bendKey, bendSlot, midi::makeBend(to, zones_.bendBytesOf(now.fingerPort, channel)));
    tell(midi::slideControl, midi::slideControl,
         midi::make(midi::controlChange, to, midi::slideControl, zones_.slideOf(now.fingerPort, channel)));
    tell(midi::pressureKey, pressureSlot,
         midi::make(midi::channelPressure, to, zones_.pressureOf(now.fingerPort, channel)));
}

// Chains that wait for an off.

/// A chain is to run behind all that the off under way lets pass.
void Engine::waitForOffs(std::uint32_t chain) {
    if (again_ || isAsleep(plan().chains[chain])) return;
    const std::uint32_t rank = plan().rankOf(chain);
    state().late[rank / 64] |= std::uint64_t{1} << (rank % 64);
    someLate_ = true;
}

/// Chains that follow tie lines of chains that wait do so, too; all that have been marked are held back.
void Engine::spreadLate() {
    auto& late = state().late;
    for (std::uint32_t rank = 0; rank < plan().chains.size(); ++rank) {
        if ((late[rank / 64] >> (rank % 64) & 1) == 0) continue;
        const PlanChain& chain = plan().chains[plan().chainAt(rank)];
        for (std::uint32_t b = chain.firstBranch; b < chain.firstBranch + chain.branchCount; ++b) {
            const PlanBranch& branch = plan().branches[b];
            if (branch.tieLine == none || !branch.on) continue;
            for (const std::uint32_t e : plan().tieLines[branch.tieLine].ears) {
                const std::uint32_t reader = plan().rankOf(plan().ears[e].chain);
                late[reader / 64] |= std::uint64_t{1} << (reader % 64);
            }
        }
    }
    for (std::size_t word = 0; word < late.size(); ++word) {
        const std::uint64_t held = state().pending[word] & late[word];
        state().pending[word] &= ~held;
        state().heldBack[word] |= held;
        pendingCount_ -= static_cast<std::uint32_t>(std::popcount(held));
    }
}

/// Those that waited run, whole and once.
void Engine::runLate(const Sink& sink) {
    someLate_ = false;
    lateRun_ = true;
    cursor_ = 0;
    for (std::size_t word = 0; word < state().heldBack.size(); ++word) {
        const std::uint64_t held = std::exchange(state().heldBack[word], 0);
        state().pending[word] |= held;
        pendingCount_ += static_cast<std::uint32_t>(std::popcount(held));
    }
    runPending(static_cast<std::uint32_t>(plan().chains.size()), sink);
    lateRun_ = false;
    std::fill(state().late.begin(), state().late.end(), 0);
}

/// Whether a note that is or was down is one of those that a source chooses from.
bool Engine::isChoosable(const Ear& ear, midi::Zone zone, const Zones::Note& note) const {
    const std::uint32_t p = plan().chains[ear.chain].part;
    if (!portFits(ear.port, note.port) || (ear.channel >= 0 && ear.channel != note.channel)) return false;
    if (!zones_.sizes(note.port).isMember(zone, note.channel)) return false;
    if (p == none) return true;
    const Part& part = plan().parts[p];
    return (part.inputChannels >> note.channel & 1) != 0 && comesTo(part, note.port, note.channel) &&
           transposed(part, note.key) && part.takesVelocity(note.velocity);
}

const Zones::Note* Engine::chosenNote(const Ear& ear, const ZoneNote& wanted) const {
    const Zones::Note* chosen = nullptr;
    for (const Zones::Note& note : zones_.notes()) {
        if (!isChoosable(ear, wanted.zone, note)) continue;
        if (chosen == nullptr || isPreferred(wanted.of, note, *chosen)) chosen = &note;
    }
    return chosen;
}

Engine::Fit Engine::hearFinger(std::uint32_t e, const Event& event) {
    const Ear& ear = plan().ears[e];
    EarState& earState = state().ears[e];
    const ZoneNote wanted = zoneNoteOf(*ear.source);
    const auto channel = static_cast<std::uint8_t>(midi::channelOf(event.bytes));
    const std::size_t key = midi::keyOf(event.bytes);
    const midi::ZoneSizes sizes = zones_.sizes(event.port);
    const bool isNote = key == midi::noteOnKey || key == midi::noteOffKey;
    const bool isManager = wanted.takes == Finger::bend && sizes.isManager(wanted.zone, channel);
    if (!sizes.isMember(wanted.zone, channel) && (isNote || !isManager)) return Fit::no;
    const Zones::Note* chosen = chosenNote(ear, wanted);
    if (chosen != nullptr) {
        earState.fingerPort = chosen->port;
        earState.finger = static_cast<std::int8_t>(chosen->channel);
        earState.byManager = false;
    }
    if (isNote) {
        // A note that is chosen with its coming, or with another's going.
        const bool comes =
            key == midi::noteOnKey && chosen != nullptr && chosen->order == zones_.notes().back().order;
        const bool follows = key == midi::noteOffKey && chosen != nullptr && lifted_ &&
                             isPreferred(wanted.of, *lifted_, *chosen) &&
                             isChoosable(ear, wanted.zone, *lifted_);
        if (follows) waitForOffs(ear.chain);
        if (comes || follows) standFinger(e, wanted, event.port);
        return Fit::heard;
    }
    const bool own = earState.finger == static_cast<std::int8_t>(channel) || isManager;
    const bool alone = earState.finger < 0 && isManager;
    if (alone) {
        earState.byManager = true;
        earState.fingerPort = event.port;
    }
    if (alone || (own && earState.fingerPort == event.port)) standFinger(e, wanted, event.port);
    return Fit::taken;
}

/// A source stands where the finger that it follows stands. port: whose manager counts before any note has.
void Engine::standFinger(std::uint32_t e, const ZoneNote& wanted, PortId port) {
    const Ear& ear = plan().ears[e];
    const EarState& earState = state().ears[e];
    const bool hasFinger = earState.finger >= 0;
    const PortId from = hasFinger ? earState.fingerPort : port;
    const auto channel = static_cast<std::size_t>(hasFinger ? earState.finger : 0);
    double place = 0;
    switch (wanted.takes) {
        case Finger::bend: {
            const double own = hasFinger ? zones_.bendOf(from, wanted.zone, channel) : 0;
            place = 0.5 + (own + zones_.managerBendOf(from, wanted.zone)) / (2 * wanted.range);
            break;
        }
        case Finger::slide:
            place = decode(ear.scale, zones_.slideOf(from, channel), midi::max7);
            break;
        case Finger::pressure:
            place = decode(ear.scale, zones_.pressureOf(from, channel), midi::max7);
            break;
    }
    hearPlace(e, clampPosition(place), from, channel);
}

}  // namespace mellow::engine
