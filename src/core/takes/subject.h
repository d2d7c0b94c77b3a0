// What a message is about: the same subject is said something of again and again, and the last counts.
//
// A lane of a take, what new hands take over from old ones, and what is chased are all told apart by it: a
// control by its number, a note and its pressure by its key, bend, channel pressure and program by the
// channel alone, a number that came by OSC by its address.
#pragma once

#include <compare>
#include <string>

#include "core/takes/take.h"

namespace mellow {

struct Subject {
    enum class About : std::uint8_t { note, control, bend, pressure, keyPressure, program, osc, other };
    std::uint16_t port = 0;  ///< place in the take's ports
    About about = About::other;
    std::uint8_t channel = 0;
    std::uint8_t number = 0;  ///< of a control or a key
    std::string address;      ///< of OSC

    [[nodiscard]] bool isNote() const { return about == About::note; }
    auto operator<=>(const Subject&) const = default;
};

inline Subject subjectOf(std::uint16_t port, midi::Bytes body) {
    using About = Subject::About;
    if (const auto line = text::oscLineOf(body)) return {port, About::osc, 0, 0, std::string(line->address)};
    if (body.empty() || !midi::isChannelStatus(body[0])) return {port, About::other, 0, 0, {}};
    const auto channel = static_cast<std::uint8_t>(midi::channelOf(body));
    switch (midi::kindOf(body)) {
        case midi::noteOn:
        case midi::noteOff:
            return {port, About::note, channel, body[1], {}};
        case midi::keyPressure:
            return {port, About::keyPressure, channel, body[1], {}};
        case midi::controlChange:
            return {port, About::control, channel, body[1], {}};
        case midi::programChange:
            return {port, About::program, channel, 0, {}};
        case midi::channelPressure:
            return {port, About::pressure, channel, 0, {}};
        default:
            return {port, About::bend, channel, 0, {}};
    }
}

}  // namespace mellow
