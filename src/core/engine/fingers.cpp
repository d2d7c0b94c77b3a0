// A source that is one finger of a zone hears: which note it is, and where that finger stands
// (docs/expressive-keyboards.md).
//
// Every message of the zone's members is the source's, and goes no further; but only what the chosen note's
// finger does moves it. Choosing is a matter of the notes that are down and of the instrument's input filter,
// so nothing about it has to be remembered but which finger was the last, for when no note is down.
#include "core/engine/engine.h"

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

/// Data entry to an RPN may say what the zones are, and so which keys an envelope hears.
void Engine::followZones(const Event& event, std::size_t channel, int number) {
    const bool high = event.bytes[1] == midi::dataEntry;
    if (!high && event.bytes[1] != midi::dataEntryLow) return;
    if (!zones_.enter(event.port, channel, number, high, event.bytes[2]) || !plan().zoned) return;
    for (const std::uint32_t e : plan().notesCounted) {
        if (isAsleep(plan().chains[plan().ears[e].chain])) continue;
        countKeys(e);
        refreshGenerator(e);
    }
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
    }
    if (isNote) {
        // A note that is chosen with its coming, or with another's going.
        const bool comes =
            key == midi::noteOnKey && chosen != nullptr && chosen->order == zones_.notes().back().order;
        const bool follows = key == midi::noteOffKey && chosen != nullptr && lifted_ &&
                             isPreferred(wanted.of, *lifted_, *chosen) &&
                             isChoosable(ear, wanted.zone, *lifted_);
        if (comes || follows) standFinger(e, wanted, event.port);
        return Fit::heard;
    }
    const bool own = earState.finger == static_cast<std::int8_t>(channel) || isManager;
    if ((earState.finger < 0 && isManager) || (own && earState.fingerPort == event.port))
        standFinger(e, wanted, event.port);
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
