// What of a port's messages is heard: a choice of the machine's owner, port by port.
#pragma once

#include <cstdint>

#include "core/midi/message.h"

namespace mellow::io {

struct PortFilter {
    bool silenced = false;       ///< nothing is heard
    bool clock = true;           ///< MIDI clock, start, continue and stop
    bool activeSensing = false;  ///< active sensing
    bool sysEx = true;
    std::uint16_t channels = 0xFFFF;  ///< a bit a channel
    bool operator==(const PortFilter&) const = default;

    /// In one word, so that it can be changed while it is read.
    [[nodiscard]] constexpr std::uint32_t packed() const {
        return static_cast<std::uint32_t>(channels) | (silenced ? 1U << 16 : 0) | (clock ? 1U << 17 : 0) |
               (activeSensing ? 1U << 18 : 0) | (sysEx ? 1U << 19 : 0);
    }
    static constexpr PortFilter unpacked(std::uint32_t word) {
        return {(word >> 16 & 1) != 0, (word >> 17 & 1) != 0, (word >> 18 & 1) != 0, (word >> 19 & 1) != 0,
                static_cast<std::uint16_t>(word)};
    }
    /// Whether a whole message is heard.
    [[nodiscard]] constexpr bool lets(midi::Bytes message) const {
        if (silenced || message.empty()) return false;
        const std::uint8_t status = message[0];
        if (midi::isChannelStatus(status)) return (channels >> (status & 0x0F) & 1) != 0;
        if (status == 0xF0) return sysEx;
        if (status == 0xFE) return activeSensing;
        if (status >= 0xF8 && status <= 0xFC) return clock;
        return true;
    }
};

}  // namespace mellow::io
