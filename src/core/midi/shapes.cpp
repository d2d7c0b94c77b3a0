#include "core/midi/shapes.h"

#include <algorithm>

namespace mellow::midi {

namespace {

constexpr std::int64_t together = 5000;     // µs between the bytes of a pair
constexpr std::int64_t aPress = 700000;     // µs that a finger stays on a button
constexpr std::uint32_t enoughRepeats = 3;  // which a control that travels does not send
constexpr std::uint32_t enough = 4;         // messages

/// Whether all values that came lie in one of two ranges.
bool within(const std::bitset<128>& values, int low, int high, int otherLow, int otherHigh) {
    for (int value = 0; value <= max7; ++value) {
        const bool allowed = (value >= low && value <= high) || (value >= otherLow && value <= otherHigh);
        if (values[static_cast<std::size_t>(value)] && !allowed) return false;
    }
    return true;
}

}  // namespace

void Shapes::see(std::int64_t time, Bytes message) {
    if (message.empty() || !isChannelStatus(message[0])) return;
    const auto channel = static_cast<std::uint8_t>(channelOf(message));
    using Kind = ControlKey::Kind;
    switch (kindOf(message)) {
        case controlChange:
            return seeControl(time, {Kind::control, channel, message[1]}, message[2]);
        case pitchBend:
            note(time, {Kind::bend, channel, 0}, bendOf(message)).shape = Shape::fourteenBits;
            return;
        case channelPressure:
            note(time, {Kind::pressure, channel, 0}, message[1]).shape = Shape::sevenBits;
            return;
        case keyPressure:
            note(time, {Kind::keyPressure, channel, 0}, message[2]).shape = Shape::sevenBits;
            return;
        case programChange:
            note(time, {Kind::program, channel, 0}, message[1]).shape = Shape::sevenBits;
            return;
        default:
            if (isNoteOn(message)) note(time, {Kind::note, channel, 0}, message[1]).shape = Shape::notes;
            return;
    }
}

HeardControl& Shapes::note(std::int64_t time, const ControlKey& key, int value) {
    HeardControl& control = controls_[key];
    if (control.count == 0) control.low = control.high = value;
    control.key = key;
    control.value = value;
    control.low = std::min(control.low, value);
    control.high = std::max(control.high, value);
    control.time = time;
    ++control.count;
    latest_ = &control;
    return control;
}

void Shapes::seeControl(std::int64_t time, const ControlKey& key, int value) {
    Trace& trace = traces_[key];
    if (isHalfOfAPair(key.number) && key.number >= pairCount) {
        ControlKey highKey = key;
        highKey.number = static_cast<std::uint8_t>(key.number - pairCount);
        const auto high = traces_.find(highKey);
        if (high != traces_.end() && time - high->second.lastTime <= together) {
            if (++high->second.pairs >= 2) {
                HeardControl& pair = note(time, highKey, high->second.last << 7 | value);
                if (pair.shape != Shape::fourteenBits) pair.low = pair.high = pair.value;
                pair.shape = Shape::fourteenBits;
                controls_.erase(key);
                return;
            }
        }
    }
    if (trace.last == max7 && value == 0) ++(time - trace.lastTime <= aPress ? trace.quick : trace.slow);
    trace.repeats += trace.last == value ? 1 : 0;
    trace.values.set(static_cast<std::size_t>(value));
    trace.last = value;
    trace.lastTime = time;
    ++trace.count;
    if (trace.pairs >= 2) return;  // Its low byte tells.
    note(time, key, value).shape = shapeOf(trace);
}

Shape Shapes::shapeOf(const Trace& trace) {
    if (trace.repeats >= enoughRepeats && trace.count >= enough && !trace.values[0]) {
        if (within(trace.values, 1, 8, 120, 127)) return Shape::twosComplement;
        if (within(trace.values, 56, 63, 65, 72)) return Shape::offset;
        if (within(trace.values, 1, 8, 65, 72)) return Shape::sign;
    }
    if (within(trace.values, 0, 0, max7, max7) && trace.count >= 2)
        return trace.quick >= trace.slow ? Shape::momentary : Shape::latching;
    return trace.count >= 2 ? Shape::sevenBits : Shape::unknown;
}

}  // namespace mellow::midi
