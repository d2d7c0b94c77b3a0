#include "core/engine/playing/zones.h"

#include <algorithm>

#include "core/model/scale.h"

namespace mellow::engine {

namespace {

constexpr std::size_t at(midi::Zone zone) {
    return zone == midi::Zone::lower ? 0 : 1;
}

/// How far a bend of two bytes moves a note whose whole range is so many cents up and down.
double semitones(int bend, double range) {
    return (decode(Scale::centred, bend, midi::max14) - 0.5) * 2 * range;
}

}  // namespace

// Which channels are zones.

/// The first controller that says it of a port.
const HandZones* Zones::byHand(PortId port, int HandZones::*zone) const {
    const auto says = [&](const HandZones& each) { return portFits(each.port, port) && each.*zone >= 0; };
    const auto found = std::find_if(byHand_.begin(), byHand_.end(), says);
    return found == byHand_.end() ? nullptr : &*found;
}

midi::ZoneSizes Zones::sizes(PortId port) const {
    const Places& places = placesOf(port);
    const HandZones* lower = byHand(port, &HandZones::lower);
    const HandZones* upper = byHand(port, &HandZones::upper);
    const midi::ZoneSizes wanted{lower != nullptr ? lower->lower : std::max(0, places.told[0].members),
                                 upper != nullptr ? upper->upper : std::max(0, places.told[1].members)};
    // What is said by hand stands; of two that the keyboard told, the later.
    const bool bothSame = (lower == nullptr) == (upper == nullptr);
    const midi::Zone yields = !bothSame          ? (lower == nullptr ? midi::Zone::lower : midi::Zone::upper)
                              : lower != nullptr ? midi::Zone::upper
                                                 : places.toldFirst;
    return wanted.fitted(yields);
}

/// A configuration message begins its zone anew, unless that is said by hand.
std::optional<Zones::Beginning> Zones::enter(PortId port, std::size_t channel, int number, bool high,
                                             int value) {
    if (number == 0) enterBendRange(port, channel, high, value);
    const bool isManager = channel == 0 || channel == 15;
    if (number != midi::zoneRegister || !high || !isManager || value > midi::mostMembers) return std::nullopt;
    const midi::Zone zone = channel == 0 ? midi::Zone::lower : midi::Zone::upper;
    if (byHand(port, zone == midi::Zone::lower ? &HandZones::lower : &HandZones::upper) != nullptr)
        return std::nullopt;
    const midi::ZoneSizes before = sizes(port);
    Places& places = placesOf(port);
    places.told[at(zone)] = {value, unknown, unknown};
    places.toldFirst = zone == midi::Zone::lower ? midi::Zone::upper : midi::Zone::lower;
    wereTold_ = true;
    const midi::ZoneSizes now = sizes(port);
    Beginning beginning{zone, 0};
    for (std::size_t c = 0; c < 16; ++c) {
        if (!before.isOfZone(zone, c) && !now.isOfZone(zone, c)) continue;
        beginning.channels |= static_cast<std::uint16_t>(1 << c);
        places.fingers[c] = {};
    }
    forgetNotes(
        [&](const Note& note) { return note.port == port && (beginning.channels >> note.channel & 1) != 0; });
    return beginning;
}

/// RPN 0 on a member counts for all members of its zone.
void Zones::enterBendRange(PortId port, std::size_t channel, bool high, int value) {
    const midi::ZoneSizes now = sizes(port);
    for (const midi::Zone zone : {midi::Zone::lower, midi::Zone::upper}) {
        if (!now.isOfZone(zone, channel)) continue;
        const bool manager = now.isManager(zone, channel);
        const int whole = static_cast<int>(manager ? managerRange(port, zone) : memberRange(port, zone));
        Told& told = placesOf(port).told[at(zone)];
        (manager ? told.managerCents : told.memberCents) =
            high ? value * centsASemitone : whole * centsASemitone + std::min(value, centsASemitone - 1);
    }
}

// Fingers.

bool Zones::take(PortId port, std::size_t channel, std::size_t key, int raw) {
    FingerState& finger = placesOf(port).fingers[channel];
    switch (key) {
        case midi::bendKey:
            finger.bend = static_cast<std::int16_t>(raw);
            break;
        case midi::pressureKey:
            finger.pressure = static_cast<std::uint8_t>(raw);
            break;
        case midi::slideControl:
            finger.slide = static_cast<std::uint8_t>(raw);
            break;
        case midi::resetAllControllers:
            putToRest(port, channel);
            return false;
        default:
            if (key >= midi::bendKey || !midi::clearsNotes(static_cast<int>(key))) return false;
            endNotes(port, channel);
            return true;
    }
    finger.said |= sayingOf(key);
    return false;
}

/// A manager's reset is one of its members, too.
void Zones::putToRest(PortId port, std::size_t channel) {
    const midi::ZoneSizes now = sizes(port);
    FingerState atRest;
    atRest.said = saidAll;
    for (std::size_t c = 0; c < 16; ++c) {
        const bool managed =
            (now.isManager(midi::Zone::lower, channel) && now.isMember(midi::Zone::lower, c)) ||
            (now.isManager(midi::Zone::upper, channel) && now.isMember(midi::Zone::upper, c));
        if (c == channel || managed) placesOf(port).fingers[c] = atRest;
    }
}

/// All notes of a channel end; on a manager's, all of its zone.
void Zones::endNotes(PortId port, std::size_t channel) {
    const midi::ZoneSizes now = sizes(port);
    forgetNotes([&](const Note& note) {
        const auto isManagedBy = [&](midi::Zone zone) {
            return now.isManager(zone, channel) && now.isMember(zone, note.channel);
        };
        return note.port == port &&
               (note.channel == channel || isManagedBy(midi::Zone::lower) || isManagedBy(midi::Zone::upper));
    });
}

template<class Ended>
void Zones::forgetNotes(Ended&& ended) {
    const auto first = notes_.begin() + static_cast<std::ptrdiff_t>(firstNote_);
    const auto end =
        std::remove_if(first, first + static_cast<std::ptrdiff_t>(noteCount_), [&](const Note& note) {
            if (!ended(note)) return false;
            --alike(note.port, note.channel, note.key);
            return true;
        });
    noteCount_ = static_cast<std::size_t>(end - first);
}

/// The oldest goes where there are as many as can be followed.
void Zones::makeRoom() {
    if (noteCount_ == noteRoom) {
        const Note& oldest = notes_[firstNote_];
        --alike(oldest.port, oldest.channel, oldest.key);
        ++firstNote_;
        --noteCount_;
    }
    if (firstNote_ + noteCount_ < notes_.size()) return;
    const auto first = notes_.begin() + static_cast<std::ptrdiff_t>(firstNote_);
    std::copy(first, first + static_cast<std::ptrdiff_t>(noteCount_), notes_.begin());
    firstNote_ = 0;
}

void Zones::strike(PortId port, std::size_t channel, std::uint8_t key, std::uint8_t velocity) {
    lift(port, channel, key);
    makeRoom();
    notes_[firstNote_ + noteCount_++] = {port, static_cast<std::uint8_t>(channel), key, velocity, ++struck_};
    ++alike(port, channel, key);
}

std::optional<Zones::Note> Zones::lift(PortId port, std::size_t channel, std::uint8_t key) {
    std::uint16_t& mayBe = alike(port, channel, key);
    if (mayBe == 0) return std::nullopt;
    for (std::size_t place = firstNote_ + noteCount_; place > firstNote_; --place) {
        const Note lifted = notes_[place - 1];
        if (lifted.port != port || lifted.channel != channel || lifted.key != key) continue;
        const auto at = notes_.begin() + static_cast<std::ptrdiff_t>(place);
        std::copy(at, notes_.begin() + static_cast<std::ptrdiff_t>(firstNote_ + noteCount_), at - 1);
        --noteCount_;
        --mayBe;
        return lifted;
    }
    return std::nullopt;
}

double Zones::memberRange(PortId port, midi::Zone zone) const {
    const int told = placesOf(port).told[at(zone)].memberCents;
    const HandZones* hand = byHand(port, zone == midi::Zone::lower ? &HandZones::lower : &HandZones::upper);
    return told != unknown   ? static_cast<double>(told) / centsASemitone
           : hand != nullptr ? hand->noteBend
                             : midi::memberBend;
}

double Zones::managerRange(PortId port, midi::Zone zone) const {
    const int told = placesOf(port).told[at(zone)].managerCents;
    const HandZones* hand = byHand(port, zone == midi::Zone::lower ? &HandZones::lower : &HandZones::upper);
    return told != unknown   ? static_cast<double>(told) / centsASemitone
           : hand != nullptr ? hand->allBend
                             : midi::managerBend;
}

double Zones::bendOf(PortId port, midi::Zone zone, std::size_t channel) const {
    return semitones(placesOf(port).fingers[channel].bend, memberRange(port, zone));
}

double Zones::managerBendOf(PortId port, midi::Zone zone) const {
    return semitones(placesOf(port).fingers[zone == midi::Zone::lower ? 0 : 15].bend,
                     managerRange(port, zone));
}

}  // namespace mellow::engine
