// A zone of MIDI Polyphonic Expression: a manager channel and its member channels.
//
// A keyboard that knows bend, pressure and slide for each finger gives every note a channel of its own, so
// that messages which mean a whole channel mean one note. The lower zone is managed from channel 1 and its
// members are the channels 2 and up; the upper one from channel 16, with the channels 15 and down. How many
// members a zone has the keyboard says by RPN 6 on the manager channel, or a person by hand. Where both zones
// want more channels than there are, one yields (docs/expressive-keyboards.md; M1-100-UM, version 1.1).
#pragma once

#include <algorithm>
#include <cstddef>

namespace mellow::midi {

enum class Zone { lower, upper };

inline constexpr int zoneRegister = 6;    ///< the RPN that says how many members a zone has
inline constexpr int mostMembers = 15;    ///< of one zone alone
inline constexpr int sharedMembers = 14;  ///< of two together
inline constexpr int slideControl = 74;   ///< the control of the third dimension
inline constexpr int slideRest = 64;      ///< where a note's slide stands before it was sent
inline constexpr double memberBend = 48;  ///< semitones to which a member's bend reaches, unless told
inline constexpr double widestBend = 96;  ///< the widest that there is
inline constexpr double managerBend = 2;  ///< and a manager's

/// How many members the zones of a port have; 0: there is no such zone.
struct ZoneSizes {
    int lower = 0;
    int upper = 0;
    bool operator==(const ZoneSizes&) const = default;

    [[nodiscard]] int of(Zone zone) const { return zone == Zone::lower ? lower : upper; }
    /// The same where they fit beside each other. yields: the one that gives way.
    [[nodiscard]] ZoneSizes fitted(Zone yields) const {
        ZoneSizes both = *this;
        if (lower == 0 || upper == 0 || lower + upper <= sharedMembers) return both;
        (yields == Zone::lower ? both.lower : both.upper) =
            std::max(0, sharedMembers - of(yields == Zone::lower ? Zone::upper : Zone::lower));
        return both;
    }
    /// channel: 0..15, here and below.
    [[nodiscard]] bool isMember(Zone zone, std::size_t channel) const {
        const int c = static_cast<int>(channel);
        return zone == Zone::lower ? c >= 1 && c <= lower : c <= 14 && c >= 15 - upper;
    }
    [[nodiscard]] bool isManager(Zone zone, std::size_t channel) const {
        return of(zone) > 0 && channel == (zone == Zone::lower ? 0U : 15U);
    }
    /// Whether what comes on a channel is of a zone: of its members, or on its manager's channel, which is so
    /// before anybody has said that there is a zone, but not where the other zone has it as a member.
    [[nodiscard]] bool has(Zone zone, std::size_t channel) const {
        const bool isLower = zone == Zone::lower;
        const bool onManager = channel == (isLower ? 0U : 15U);
        return isMember(zone, channel) ||
               (onManager && !isMember(isLower ? Zone::upper : Zone::lower, channel));
    }
    [[nodiscard]] bool isMember(std::size_t channel) const {
        return isMember(Zone::lower, channel) || isMember(Zone::upper, channel);
    }
    [[nodiscard]] bool isOfZone(Zone zone, std::size_t channel) const {
        return isMember(zone, channel) || isManager(zone, channel);
    }
    [[nodiscard]] bool isOfZone(std::size_t channel) const {
        return isOfZone(Zone::lower, channel) || isOfZone(Zone::upper, channel);
    }
};

}  // namespace mellow::midi
