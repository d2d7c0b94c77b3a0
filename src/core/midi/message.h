// One MIDI 1.0 message, seen as the bytes it is.
//
// A channel message is a status byte (kind in the high nibble, channel in the low) and one or two data bytes
// below 128 (MIDI 1.0 Detailed Specification, table I). Everything here works on spans of bytes that somebody
// else owns; Short holds the messages that we make ourselves, none of which is longer than three bytes.
// What this does not do: follow a byte stream (stream_reader.h) or remember anything.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>

#include "core/midi/controls.h"

namespace mellow::midi {

using Bytes = std::span<const std::uint8_t>;

enum Status : std::uint8_t {
    noteOff = 0x80,
    noteOn = 0x90,
    keyPressure = 0xA0,
    controlChange = 0xB0,
    programChange = 0xC0,
    channelPressure = 0xD0,
    pitchBend = 0xE0,
    sysexStart = 0xF0,
    sysexEnd = 0xF7,
    firstRealTime = 0xF8,
    timingClock = 0xF8,
    clockStart = 0xFA,
    clockContinue = 0xFB,
};

inline constexpr int bendCentre = 8192;
inline constexpr int middleVelocity = 64;  ///< what a release counts as that says nothing of how fast it was
inline constexpr int max7 = 127;
inline constexpr int max14 = 16383;

/// A message of one to three bytes, by value.
struct Short {
    std::array<std::uint8_t, 3> data{};
    std::uint8_t size = 0;

    [[nodiscard]] Bytes bytes() const { return {data.data(), size}; }
    bool operator==(const Short&) const = default;
};

/// A message of at most three bytes, copied.
constexpr Short shortOf(Bytes message) {
    Short copy;
    copy.size = static_cast<std::uint8_t>(message.size());
    for (std::size_t i = 0; i < message.size(); ++i) copy.data[i] = message[i];
    return copy;
}
constexpr Short make(int status, int channel, int first, int second) {
    return {{static_cast<std::uint8_t>(status | channel), static_cast<std::uint8_t>(first),
             static_cast<std::uint8_t>(second)},
            3};
}
constexpr Short make(int status, int channel, int first) {
    return {{static_cast<std::uint8_t>(status | channel), static_cast<std::uint8_t>(first), 0}, 2};
}
/// value: 0..16383, sent least significant seven bits first.
constexpr Short makeBend(int channel, int value) {
    return make(pitchBend, channel, value & 0x7F, (value >> 7) & 0x7F);
}

constexpr bool isChannelStatus(std::uint8_t status) {
    return status >= 0x80 && status < 0xF0;
}
constexpr bool isRealTime(std::uint8_t status) {
    return status >= firstRealTime;
}

/// Data bytes that follow a status byte; -1 for SysEx (any number) and for the bytes that start nothing.
constexpr int dataLength(std::uint8_t status) {
    if (status < 0x80) return -1;
    if (status < 0xC0) return 2;
    if (status < 0xE0) return 1;
    if (status < 0xF0) return 2;
    switch (status) {
        case 0xF1:
        case 0xF3:
            return 1;
        case 0xF2:
            return 2;
        case 0xF0:
        case 0xF4:
        case 0xF5:
        case 0xF7:
            return -1;
        default:
            return 0;
    }
}

constexpr std::uint8_t kindOf(Bytes message) {
    return message[0] >= 0xF0 ? message[0] : static_cast<std::uint8_t>(message[0] & 0xF0);
}
constexpr int channelOf(Bytes message) {
    return message[0] & 0x0F;
}
/// Pitch bend's 14 bits, 0..16383.
constexpr int bendOf(Bytes message) {
    return message[1] | (message[2] << 7);
}
constexpr bool isNoteOn(Bytes message) {
    return kindOf(message) == noteOn && message[2] > 0;
}
/// True of 8n, and of 9n with velocity 0, which is the same by definition.
constexpr bool isNoteOff(Bytes message) {
    return kindOf(message) == noteOff || (kindOf(message) == noteOn && message[2] == 0);
}

/// True when the bytes are one whole message: a status byte, exactly its data bytes, all of them below 128.
bool isWhole(Bytes message);

/// "B0 01 40": upper case, one space between bytes.
std::string toHex(Bytes message);

/// Reads one byte from two hexadecimal digits of either case.
std::optional<std::uint8_t> byteFromHex(std::string_view digits);

/// The trade name of a control number ("Mod wheel", "Expression"), or "CC 20" where it has none.
/// Source: MIDI 1.0, table III.
std::string controlName(int number);

}  // namespace mellow::midi
