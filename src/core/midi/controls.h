// Control numbers, and which of them mean more than a value.
//
// Most of the 128 controls of a channel are just that. Some are halves of pairs, some choose a register and
// enter its value, some are pedals that hold what is played, some command the channel. Everybody who treats
// them apart asks here which are which (MIDI 1.0, "Controller messages", table III; pedals by the names that
// it gives them).
#pragma once

#include <array>
#include <cstdint>

namespace mellow::midi {

enum Control : std::uint8_t {
    bankSelect = 0,
    modulation = 1,
    dataEntry = 6,
    volume = 7,
    expression = 11,
    bankSelectLow = 32,
    dataEntryLow = 38,
    sustain = 64,
    sostenuto = 66,
    softPedal = 67,
    legato = 68,
    hold2 = 69,
    firstSoundControl = 71,
    lastSoundControl = 78,
    dataIncrement = 96,
    dataDecrement = 97,
    nrpnSelectLow = 98,
    nrpnSelect = 99,
    rpnSelectLow = 100,
    rpnSelect = 101,
    lastOrdinary = 119,
    allSoundOff = 120,
    resetAllControllers = 121,
    allNotesOff = 123,
};

inline constexpr int controlCount = 128;
/// Where General MIDI's system-on leaves them (General MIDI Level 1, developer guidelines; MMA RP-021 for
/// sound controls).
inline constexpr int volumeAtSystemOn = 100;
inline constexpr int soundControlAtSystemOn = 64;
/// A control below `pairCount` is the high half of a pair with the one that stands `pairCount` above it.
inline constexpr int pairCount = 32;

constexpr bool isHalfOfAPair(int control) {
    return control >= 0 && control < 2 * pairCount;
}
/// The pair that a half belongs to, by its lower number.
constexpr int pairOf(int half) {
    return half % pairCount;
}

constexpr bool isBankSelect(int control) {
    return control == bankSelect || control == bankSelectLow;
}
/// Enters a value for the register that is selected, whole or as a step.
constexpr bool isDataEntry(int control) {
    return control == dataEntry || control == dataEntryLow || control == dataIncrement ||
           control == dataDecrement;
}
/// Chooses the register for which data is entered.
constexpr bool selectsRegister(int control) {
    return control >= nrpnSelectLow && control <= rpnSelect;
}
/// A command to the channel, no value.
constexpr bool isChannelMode(int control) {
    return control >= allSoundOff && control < controlCount;
}
/// A command after which no note of the channel sounds.
constexpr bool clearsNotes(int control) {
    return control == allSoundOff || (control >= allNotesOff && control < controlCount);
}

/// Pedals that hold what is played, which an instrument that leaves the hand must let go of; and all that a
/// foot lifts when it leaves.
inline constexpr std::array<std::uint8_t, 3> holdingPedals{sustain, sostenuto, hold2};
inline constexpr std::array<std::uint8_t, 4> pedals{sustain, sostenuto, softPedal, hold2};

constexpr bool isHoldingPedal(int control) {
    for (const std::uint8_t pedal : holdingPedals) {
        if (pedal == control) return true;
    }
    return false;
}

}  // namespace mellow::midi
