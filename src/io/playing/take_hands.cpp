// Notes are about themselves: nobody takes one over.
#include "io/playing/take_hands.h"

namespace mellow::io {

namespace {

/// What a message is about, among what hands can touch on a channel: a control, or a kind of message behind
/// them.
std::optional<std::size_t> touchableOf(midi::Bytes bytes) {
    constexpr std::size_t kinds = midi::controlCount;
    if (bytes.empty() || !midi::isChannelStatus(bytes[0])) return std::nullopt;
    switch (midi::kindOf(bytes)) {
        case midi::noteOn:
        case midi::noteOff:
            return std::nullopt;
        case midi::controlChange:
            return bytes[1];
        default:
            return kinds + (bytes[0] >> 4);
    }
}

}  // namespace

void TakeHands::touch(std::size_t port, midi::Bytes message) {
    if (const auto touchable = touchableOf(message)) laneOf(port, message).touched.set(*touchable);
}

bool TakeHands::isTouched(std::size_t port, midi::Bytes message) const {
    const auto touchable = touchableOf(message);
    return touchable && laneOf(port, message).touched[*touchable];
}

void TakeHands::follow(std::size_t port, midi::Bytes message) {
    if (message.empty() || !midi::isChannelStatus(message[0])) return;
    Holding& holding = laneOf(port, message).holding;
    if (midi::isNoteOn(message) && holding.keys[message[1]] < 255) ++holding.keys[message[1]];
    if (midi::isNoteOff(message) && holding.keys[message[1]] > 0) --holding.keys[message[1]];
    if (midi::kindOf(message) == midi::controlChange) {
        for (std::size_t pedal = 0; pedal < midi::pedals.size(); ++pedal) {
            if (midi::pedals.at(pedal) == message[1]) holding.pedals.at(pedal) = message[2];
        }
    }
    if (midi::kindOf(message) == midi::pitchBend) holding.bent = midi::bendOf(message) != midi::bendCentre;
    if (midi::kindOf(message) == midi::channelPressure) holding.pressed = message[1] > 0;
}

}  // namespace mellow::io
