// What the fingers do on keyboards that know each of them, by input port (docs/expressive-keyboards.md).
//
// Which channels are zones is said by hand, which the plan knows, or by the keyboard's configuration
// messages, which are remembered here with where each channel's bend, slide and pressure stand and with the
// notes that are down, in the order in which they were struck. All of it is followed whether somebody listens
// or not, so that a chain that is made while a chord is held knows the fingers.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "core/engine/playing/hands.h"
#include "core/engine/program/plan.h"
#include "core/midi/zone.h"

namespace mellow::engine {

class Zones {
 public:
    /// Notes that are followed; of more that are down at once the oldest are forgotten.
    static constexpr std::size_t noteRoom = 256;

    struct Note {
        PortId port = everyPort;
        std::uint8_t channel = 0;
        std::uint8_t key = 0;
        std::uint8_t velocity = 0;
        std::uint64_t order = 0;  ///< the later the higher
    };

    /// What controllers say of their zones; kept by whoever owns the plan.
    void setByHand(std::span<const HandZones> zones) { byHand_ = zones; }
    /// False while no port can have a zone, so that nobody need ask.
    [[nodiscard]] bool someExist() const { return !byHand_.empty() || wereTold_; }
    /// How many members the zones of a port have.
    [[nodiscard]] midi::ZoneSizes sizes(PortId port) const;

    /// A value of a channel: its kind of message as a key (midi/message_key.h). True when it ends notes.
    bool take(PortId port, std::size_t channel, std::size_t key, int raw);
    void strike(PortId port, std::size_t channel, std::uint8_t key, std::uint8_t velocity);
    /// The note that was down, if one was.
    std::optional<Note> lift(PortId port, std::size_t channel, std::uint8_t key);
    /// A zone that begins anew.
    struct Beginning {
        midi::Zone zone = midi::Zone::lower;
        std::uint16_t channels = 0;  ///< a bit for each that was of it, or is now
    };
    /// Data entry to an RPN. A configuration message that counts begins its zone anew.
    std::optional<Beginning> enter(PortId port, std::size_t channel, int number, bool high, int value);

    /// In the order in which they were struck.
    [[nodiscard]] std::span<const Note> notes() const { return {notes_.data() + firstNote_, noteCount_}; }
    /// Semitones by which the bends of a channel and of its zone's manager move a note.
    [[nodiscard]] double bendOf(PortId port, midi::Zone zone, std::size_t channel) const;
    [[nodiscard]] double managerBendOf(PortId port, midi::Zone zone) const;
    [[nodiscard]] int slideOf(PortId port, std::size_t channel) const {
        return placesOf(port).fingers[channel].slide;
    }
    [[nodiscard]] int pressureOf(PortId port, std::size_t channel) const {
        return placesOf(port).fingers[channel].pressure;
    }
    [[nodiscard]] int bendBytesOf(PortId port, std::size_t channel) const {
        return placesOf(port).fingers[channel].bend;
    }
    /// Whether a finger has said anything of what a kind of message says since it was put to rest.
    [[nodiscard]] bool hasSaid(PortId port, std::size_t channel, std::size_t key) const {
        return (placesOf(port).fingers[channel].said & sayingOf(key)) != 0;
    }

 private:
    static constexpr int unknown = -1;

    struct FingerState {
        std::int16_t bend = midi::bendCentre;
        std::uint8_t slide = midi::slideRest;
        std::uint8_t pressure = 0;
        std::uint8_t said = 0;  ///< a bit for each of the three
    };
    static constexpr std::uint8_t saidAll = 7;
    static constexpr std::uint8_t sayingOf(std::size_t key) {
        return key == midi::bendKey ? 1 : key == midi::pressureKey ? 4 : 2;
    }
    /// What a zone's configuration and its RPN 0 said.
    struct Told {
        int members = unknown;
        int memberCents = unknown;
        int managerCents = unknown;
    };
    struct Places {
        std::array<FingerState, 16> fingers{};
        std::array<Told, 2> told{};
        midi::Zone toldFirst = midi::Zone::upper;  ///< of two, the one that yields to the other
    };
    [[nodiscard]] Places& placesOf(PortId port) { return places_[port % Hands::portCount]; }
    [[nodiscard]] const Places& placesOf(PortId port) const { return places_[port % Hands::portCount]; }
    [[nodiscard]] const HandZones* byHand(PortId port, int HandZones::*zone) const;
    void enterBendRange(PortId port, std::size_t channel, bool high, int value);
    [[nodiscard]] double memberRange(PortId port, midi::Zone zone) const;
    [[nodiscard]] double managerRange(PortId port, midi::Zone zone) const;
    void putToRest(PortId port, std::size_t channel);
    [[nodiscard]] std::uint16_t& alike(PortId port, std::size_t channel, std::uint8_t key) {
        return alike_[(port * std::size_t{37} + channel * std::size_t{128} + key) % alike_.size()];
    }
    void makeRoom();
    template<class Ended>
    void forgetNotes(Ended&& ended);
    void endNotes(PortId port, std::size_t channel);

    std::vector<Places> places_ = std::vector<Places>(Hands::portCount);
    std::span<const HandZones> byHand_;
    // Notes stand one behind the other, from firstNote_ on; those that came last are sought first, and what
    // is surely not down is not sought.
    std::array<Note, 2 * noteRoom> notes_{};
    std::size_t firstNote_ = 0;
    std::size_t noteCount_ = 0;
    std::array<std::uint16_t, 1024> alike_{};  ///< how many are down of each hash
    std::uint64_t struck_ = 0;
    bool wereTold_ = false;  ///< some port was told of a zone
};

}  // namespace mellow::engine
