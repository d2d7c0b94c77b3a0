// Lengths by status, whether bytes are one whole message, hexadecimal to read and to write, and the names of
// control numbers that the standard gives (MIDI 1.0, "Controller messages"). Numbers without a name are
// called by their number.
#include "core/midi/message.h"

#include <algorithm>

namespace mellow::midi {

bool isWhole(Bytes message) {
    if (message.empty() || message[0] < 0x80) return false;
    const auto isData = [](std::uint8_t byte) { return byte < 0x80; };
    if (message[0] == sysexStart) {
        return message.size() >= 2 && message.back() == sysexEnd &&
               std::all_of(message.begin() + 1, message.end() - 1, isData);
    }
    const int length = dataLength(message[0]);
    return length >= 0 && message.size() == static_cast<std::size_t>(length) + 1 &&
           std::all_of(message.begin() + 1, message.end(), isData);
}

std::string toHex(Bytes message) {
    static constexpr char digits[] = "0123456789ABCDEF";
    std::string text;
    text.reserve(message.size() * 3);
    for (const std::uint8_t byte : message) {
        if (!text.empty()) text += ' ';
        text += digits[byte >> 4];
        text += digits[byte & 15];
    }
    return text;
}

std::optional<std::uint8_t> byteFromHex(std::string_view digits) {
    if (digits.size() != 2) return std::nullopt;
    int value = 0;
    for (const char digit : digits) {
        int nibble = 0;
        if (digit >= '0' && digit <= '9') {
            nibble = digit - '0';
        } else if (digit >= 'A' && digit <= 'F') {
            nibble = digit - 'A' + 10;
        } else if (digit >= 'a' && digit <= 'f') {
            nibble = digit - 'a' + 10;
        } else {
            return std::nullopt;
        }
        value = value * 16 + nibble;
    }
    return static_cast<std::uint8_t>(value);
}

std::string controlName(int number) {
    switch (number) {
        case 1:
            return "Mod wheel";
        case 2:
            return "Breath";
        case 4:
            return "Foot pedal";
        case 5:
            return "Portamento time";
        case 7:
            return "Volume";
        case 8:
            return "Balance";
        case 10:
            return "Pan";
        case 11:
            return "Expression";
        case 64:
            return "Sustain pedal";
        case 65:
            return "Portamento";
        case 66:
            return "Sostenuto pedal";
        case 67:
            return "Soft pedal";
        case 68:
            return "Legato pedal";
        case 69:
            return "Hold 2 pedal";
        case 71:
            return "Resonance";
        case 72:
            return "Release time";
        case 73:
            return "Attack time";
        case 74:
            return "Brightness";
        case 76:
            return "Vibrato rate";
        case 77:
            return "Vibrato depth";
        case 91:
            return "Reverb send";
        case 93:
            return "Chorus send";
        default:
            return "CC " + std::to_string(number);
    }
}

}  // namespace mellow::midi
