// What kind of message something is, as one small number: controls 0 to 127 by themselves, then the others.
// Sources say by such numbers what they listen to, and lists of listeners are sorted by them.
#pragma once

#include <cstddef>

#include "core/midi/message.h"

namespace mellow::midi {

inline constexpr std::size_t bendKey = 128;
inline constexpr std::size_t pressureKey = 129;
inline constexpr std::size_t noteOnKey = 130;
inline constexpr std::size_t noteOffKey = 131;
inline constexpr std::size_t keyPressureKey = 132;
inline constexpr std::size_t programKey = 133;
inline constexpr std::size_t messageKeys = 134;  // fits a byte

/// message: of a channel.
constexpr std::size_t keyOf(Bytes message) {
    switch (kindOf(message)) {
        case controlChange:
            return message[1];
        case pitchBend:
            return bendKey;
        case channelPressure:
            return pressureKey;
        case keyPressure:
            return keyPressureKey;
        case programChange:
            return programKey;
        default:
            return isNoteOn(message) ? noteOnKey : noteOffKey;
    }
}

/// True of kinds of message that are about one key of the keyboard.
constexpr bool concernsKey(std::size_t messageKey) {
    return messageKey == noteOnKey || messageKey == noteOffKey || messageKey == keyPressureKey;
}

}  // namespace mellow::midi
