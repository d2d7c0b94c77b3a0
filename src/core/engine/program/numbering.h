// Numbers for names: what plays compares numbers and never texts.
//
// Ports, instruments, chains, tie lines, lanes and registers are numbered in the order in which they were
// first seen, and keep their numbers in every later plan compiled from this one. That is how memory is
// carried across an edit, and how a note-off finds a port that the document no longer mentions.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/engine/program/names.h"
#include "core/midi/pairs.h"

namespace mellow::engine {

using PortId = std::uint16_t;
/// Stands for every port: as a filter it lets all through, as an event's port it passes every filter.
inline constexpr PortId everyPort = 0;
constexpr bool portFits(PortId filter, PortId port) {
    return filter == everyPort || port == everyPort || filter == port;
}
/// Where notes come from that a parameter sounds, and key switches that are held; no port has these numbers.
inline constexpr PortId parameterPort = 0xFFFF;
inline constexpr PortId switchPort = 0xFFFE;

/// The port from which the desk is moved.
inline constexpr std::string_view deskPortName = "desk";

inline constexpr std::uint32_t none = 0xFFFFFFFF;

/// An output port and channel, with a memory of what was last sent there.
struct Lane {
    PortId port = everyPort;
    std::uint8_t channel = 0;      ///< 0..15
    std::uint32_t instrument = 0;  ///< the first instrument (interned) that plays there
    bool operator==(const Lane& other) const { return port == other.port && channel == other.channel; }
};

/// What a lane remembers: controls 0..127, then these.
inline constexpr std::uint32_t bendSlot = 128;
inline constexpr std::uint32_t pressureSlot = 129;
inline constexpr std::uint32_t programSlot = 130;
inline constexpr std::uint32_t keyPressureSlot = 131;  ///< and 127 more, by key
inline constexpr std::uint32_t pairSlot = 259;         ///< 14-bit controls 0..31
inline constexpr std::uint32_t slotsPerLane = 291;

/// A register (RPN or NRPN) of a lane that some parameter sends.
struct Register {
    std::uint32_t lane = 0;
    midi::PairKind kind = midi::PairKind::rpn;
    int number = 0;
    bool operator==(const Register&) const = default;
};

/// An OSC address of a port that some parameter sends.
struct OscPlace {
    PortId port = everyPort;
    std::string address;
    bool operator==(const OscPlace&) const = default;
};

/// Names and places that keep their numbers from plan to plan.
struct Numbering {
    Names ports;        ///< number 0 is "any"
    Names instruments;  ///< by id
    std::shared_ptr<Names> chainKeys =
        std::make_shared<Names>();  ///< many, and only added to: shared by plans
    Names tieLines;
    Names noteCauses;  ///< "instrument/parameter" of note parameters, "instrument//key" of held key switches
    Names articulations;  ///< "instrument/articulation"
    Names mixes;          ///< "instrument/parameter" of parameters on which branches meet by a rule
    std::vector<Lane> lanes;
    std::vector<Register> registers;
    std::vector<OscPlace> oscPlaces;
};

}  // namespace mellow::engine
