// What comes to a player, and what it tells of: messages and numbers, each with its port.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <optional>
#include <string_view>

#include "core/engine/playing/engine.h"
#include "core/midi/message.h"

namespace mellow::io {

inline constexpr std::string_view practiceKeysPort = "practice-keys";
inline constexpr std::string_view practiceRackPort = "practice-rack";
/// An OSC address that begins with this moves an element of the desk: "/desk/ELEMENT", of a pad
/// "/desk/ELEMENT/x".
inline constexpr std::string_view deskAddress = "/desk";

/// What behind it says which element: "/ELEMENT"; nothing where an address does not begin so.
inline std::optional<std::string_view> elementAddress(std::string_view address) {
    if (!address.starts_with(deskAddress)) return std::nullopt;
    const std::string_view behind = address.substr(deskAddress.size());
    return behind.starts_with('/') ? std::optional(behind) : std::nullopt;
}

/// One message that came in or went out.
struct Happening {
    engine::Time time = 0;
    bool out = false;
    engine::PortId port = 0;
    std::uint32_t instrument = 0;  ///< interned; of those that went out; engine::none: it is feedback
    midi::Short message;           ///< of a SysEx only its first byte
    bool played = false;           ///< by a take, not by hands
    bool made = false;             ///< of those that went out: by a chain, and not passed on
};

/// A number that came to an OSC address, or that leaves for one.
/// Of the desk, where port is that of the desk.
struct OscMessage {
    static constexpr std::size_t longest = 119;  ///< letters of an address
    engine::PortId port = 0;
    double number = 0;
    std::array<char, longest + 1> address{};  ///< ends with a 0

    /// Nothing where the address is too long.
    static std::optional<OscMessage> of(engine::PortId port, std::string_view address, double number) {
        if (address.size() > longest) return std::nullopt;
        OscMessage message;
        message.port = port;
        message.number = number;
        std::copy(address.begin(), address.end(), message.address.begin());
        return message;
    }
};

/// As Happening, by OSC.
struct OscHappening {
    bool out = false;
    std::uint32_t instrument = 0;  ///< interned; of those that went out
    OscMessage message;            ///< of those that went out, in display units
};

/// A message that came in through a port, at its time.
struct Incoming {
    engine::Time time = 0;
    engine::PortId port = 0;
    midi::Bytes bytes;
};

}  // namespace mellow::io
