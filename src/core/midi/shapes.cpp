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
            if (isChannelMode(message[1]) || seeRegister(time, channel, message[1], message[2])) return;
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

/// True of what belongs to a register: its selection, and its data once one is selected. A high byte is told
/// with low byte 0, and its low byte corrects it.
bool Shapes::seeRegister(std::int64_t time, std::uint8_t channel, int control, int value) {
    Selection& selected = selected_.at(channel);
    if (selectsRegister(control)) {
        selected.take(control, value);
        return true;
    }
    if (!isDataEntry(control) || selected.number() < 0 || selected.number() == Selection::nothing)
        return false;
    using Kind = ControlKey::Kind;
    const ControlKey key{selected.kind == PairKind::rpn ? Kind::rpn : Kind::nrpn, channel,
                         static_cast<std::uint16_t>(selected.number())};
    int& high = dataHigh_.at(channel);
    if (control == dataEntry) high = value;
    const auto known = controls_.find(key);
    const int last = known == controls_.end() ? 0 : known->second.value;
    const int now = control == dataEntry       ? high << 7
                    : control == dataEntryLow  ? high << 7 | value
                    : control == dataIncrement ? std::min(last + 128, max14)
                                               : std::max(last - 128, 0);
    note(time, key, now).shape = Shape::fourteenBits;
    return true;
}

HeardControl& Shapes::note(std::int64_t time, const ControlKey& key, int value) {
    HeardControl& control = controls_[key];
    if (control.count == 0) {
        control.low = control.high = value;
        control.first = time;
    }
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
        highKey.number = static_cast<std::uint16_t>(key.number - pairCount);
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
