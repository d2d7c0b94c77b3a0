// A unit that waits stands once in the order, whatever becomes of its value; one that a reset made void is
// passed over when its turn comes.
#include "io/ports/pacer.h"

#include <algorithm>
#include <utility>

namespace mellow::io {

namespace {

using engine::Output;
using engine::Sink;
using engine::Time;

constexpr double microsecondsASecond = 1e6;
constexpr std::size_t bendPlace = 128;
constexpr std::size_t pressurePlace = 129;
constexpr std::size_t keyPressurePlace = 130;

bool isPedal(int control) {
    return std::find(midi::pedals.begin(), midi::pedals.end(), control) != midi::pedals.end();
}

}  // namespace

Pacer::Pacer()
    : urgent_(urgentRoom), sysEx_(sysExRoom), units_(plainUnits + registerUnits), order_(units_.size()) {
    whole_.reserve(sysExRoom);
}

void Pacer::offer(const Output& output, const Sink& emit) {
    if (midi::isRealTime(output.bytes[0])) return emit(output);
    // What one branch sends at one time may belong together.
    const bool goesOn = output.branch >= 0 && output.branch == lastBranch_ && output.time == asked_;
    if (!goesOn) pump(output.time, emit);
    asked_ = output.time;
    lastBranch_ = output.branch;
    take(output);
    if (rate() <= 0) pump(output.time, emit);
}

void Pacer::take(const Output& output) {
    const midi::Bytes bytes = output.bytes;
    if (!midi::isChannelStatus(bytes[0])) return hurry(output);
    const int channel = midi::channelOf(bytes);
    const std::size_t first = static_cast<std::size_t>(channel) * controlsAChannel;
    switch (midi::kindOf(bytes)) {
        case midi::controlChange:
            return takeControl(output, channel);
        case midi::pitchBend:
            return wait(first + bendPlace, output, midi::bendOf(bytes), -1);
        case midi::channelPressure:
            return wait(first + pressurePlace, output, bytes[1], -1);
        case midi::keyPressure:
            return wait(first + keyPressurePlace + bytes[1], output, bytes[2], -1);
        default:
            return hurry(output);
    }
}

void Pacer::takeControl(const Output& output, int channel) {
    const int number = output.bytes[1];
    const int value = output.bytes[2];
    const std::size_t first = static_cast<std::size_t>(channel) * controlsAChannel;
    if (midi::selectsRegister(number))
        return offered_.at(static_cast<std::size_t>(channel)).take(number, value);
    if (midi::isDataEntry(number)) return takeData(output, channel);
    if (number == midi::resetAllControllers) {
        for (std::size_t unit = first; unit < first + controlsAChannel; ++unit) units_[unit].pending = false;
    }
    if (midi::isBankSelect(number) || isPedal(number) || midi::isChannelMode(number)) return hurry(output);
    const auto control = static_cast<std::uint32_t>(number);
    if (!midi::isHalfOfAPair(control)) return wait(first + control, output, value, -1);
    const auto pair = static_cast<std::size_t>(midi::pairOf(control));
    const bool low = control != pair;
    wait(first + pair, output, low ? -1 : value, low ? value : -1);
}

void Pacer::takeData(const Output& output, int channel) {
    const midi::Selection& selection = offered_.at(static_cast<std::size_t>(channel));
    const bool known = selection.number() != midi::Selection::unknown;
    const int number = output.bytes[1];
    const bool isValue = number == midi::dataEntry || number == midi::dataEntryLow;
    if (!known) return hurry(output);
    const std::size_t unit = isValue ? unitOfRegister(selection, channel) : units_.size();
    if (unit == units_.size()) return hurry(output, selection);
    const bool low = number == midi::dataEntryLow;
    wait(unit, output, low ? -1 : output.bytes[2], low ? output.bytes[2] : -1);
}

/// The unit of a register, new or old; the number of units where there is no room for a new one.
std::size_t Pacer::unitOfRegister(const midi::Selection& selection, int channel) {
    const auto isIt = [&](const Unit& unit) {
        return unit.channel == channel && unit.selection == selection;
    };
    const auto begin = units_.begin() + plainUnits;
    const auto end = begin + static_cast<std::ptrdiff_t>(registersUsed_);
    auto found = std::find_if(begin, end, isIt);
    if (found == end) {
        found = std::find_if(begin, end, [](const Unit& unit) { return !unit.pending; });
        if (found == end && registersUsed_ == registerUnits) return units_.size();
        if (found == end) ++registersUsed_;
        // One that stands in the order may only be what it was.
        const auto place = static_cast<std::uint32_t>(found - units_.begin());
        for (std::size_t i = 0; i < orderCount_; ++i) {
            if (order_[(orderFirst_ + i) % order_.size()] == place) return units_.size();
        }
        *found = {};
        found->selection = selection;
        found->channel = static_cast<std::uint8_t>(channel);
    }
    return static_cast<std::size_t>(found - units_.begin());
}

void Pacer::wait(std::size_t place, const Output& output, int high, int low) {
    Unit& unit = units_[place];
    if (!unit.pending) {
        unit.pending = true;
        unit.high = unit.low = -1;
        unit.from = output;
        unit.from.bytes = {};
        if (orderCount_ == order_.size()) tidyOrder();
        order_[(orderFirst_ + orderCount_++) % order_.size()] = static_cast<std::uint32_t>(place);
    } else if ((high >= 0 && unit.high >= 0) || (high < 0 && unit.low >= 0)) {
        dropped_.fetch_add(1, std::memory_order_relaxed);
    }
    // A new high byte is followed by its own low byte.
    if (high >= 0) unit.high = static_cast<std::int16_t>(high);
    if (low >= 0) unit.low = static_cast<std::int16_t>(low);
}

/// Takes out what does not wait any more, or stands there again further on.
void Pacer::tidyOrder() {
    const std::size_t count = std::exchange(orderCount_, 0);
    for (std::size_t i = 0; i < count; ++i) {
        const std::uint32_t place = order_[(orderFirst_ + i) % order_.size()];
        bool again = false;
        for (std::size_t j = i + 1; j < count && !again; ++j)
            again = order_[(orderFirst_ + j) % order_.size()] == place;
        if (units_[place].pending && !again) order_[(orderFirst_ + orderCount_++) % order_.size()] = place;
    }
}

void Pacer::hurry(const Output& output, const midi::Selection& needs) {
    const midi::Bytes bytes = output.bytes;
    const bool isLong = bytes.size() > 3;
    // Ends of notes always find room, since beginnings stop before it is all taken.
    const bool crowded = urgentCount_ > urgentRoom / 4 * 3 && midi::isNoteOn(bytes);
    if (crowded || urgentCount_ == urgentRoom || (isLong && bytes.size() > sysExRoom - sysExCount_)) {
        dropped_.fetch_add(1, std::memory_order_relaxed);
        return;
    }
    Urgent& urgent = urgent_[(urgentFirst_ + urgentCount_++) % urgentRoom];
    urgent = {output, {}, needs, 0};
    urgent.from.bytes = {};
    if (!isLong) {
        urgent.message = midi::shortOf(bytes);
        return;
    }
    urgent.sysExSize = static_cast<std::uint32_t>(bytes.size());
    for (const std::uint8_t byte : bytes) sysEx_[(sysExFirst_ + sysExCount_++) % sysExRoom] = byte;
}

void Pacer::pump(Time until, const Sink& emit) {
    while (orderCount_ > 0 && !units_[order_[orderFirst_]].pending) {
        orderFirst_ = (orderFirst_ + 1) % order_.size();
        --orderCount_;
    }
    while (waits()) {
        const auto when = [this](Time offered) { return std::max(free_, offered); };
        const Time never = until + 1;
        const Time urgent = urgentCount_ > 0 ? when(urgent_[urgentFirst_].from.time) : never;
        const Time value = orderCount_ > 0 ? when(units_[order_[orderFirst_]].from.time) : never;
        if (std::min(urgent, value) > until) return;
        free_ = urgent <= value ? sendUrgent(urgent, emit) : sendUnit(value, emit);
        while (orderCount_ > 0 && !units_[order_[orderFirst_]].pending) {
            orderFirst_ = (orderFirst_ + 1) % order_.size();
            --orderCount_;
        }
    }
    if (until - second_ >= static_cast<Time>(microsecondsASecond)) countLoad(until, 0);
}

/// When the wire is free after it.
Time Pacer::sendUrgent(Time at, const Sink& emit) {
    const Urgent urgent = urgent_[urgentFirst_];
    urgentFirst_ = (urgentFirst_ + 1) % urgentRoom;
    --urgentCount_;
    if (urgent.needs.number() != midi::Selection::unknown)
        select(urgent.needs, midi::channelOf(urgent.message.bytes()), urgent.from, at, emit);
    if (urgent.sysExSize == 0) {
        put(urgent.from, urgent.message.bytes(), at, emit);
        return at;
    }
    whole_.clear();
    for (std::uint32_t i = 0; i < urgent.sysExSize; ++i)
        whole_.push_back(sysEx_[(sysExFirst_ + i) % sysExRoom]);
    sysExFirst_ = (sysExFirst_ + urgent.sysExSize) % sysExRoom;
    sysExCount_ -= urgent.sysExSize;
    put(urgent.from, whole_, at, emit);
    return at;
}

Time Pacer::sendUnit(Time at, const Sink& emit) {
    const std::size_t place = order_[orderFirst_];
    orderFirst_ = (orderFirst_ + 1) % order_.size();
    --orderCount_;
    Unit& unit = units_[place];
    unit.pending = false;
    const auto send = [&](const midi::Short& message) { put(unit.from, message.bytes(), at, emit); };
    if (place >= plainUnits) {
        select(unit.selection, unit.channel, unit.from, at, emit);
        if (unit.high >= 0) send(midi::make(midi::controlChange, unit.channel, midi::dataEntry, unit.high));
        if (unit.low >= 0) send(midi::make(midi::controlChange, unit.channel, midi::dataEntryLow, unit.low));
        return at;
    }
    const auto channel = static_cast<int>(place / controlsAChannel);
    const std::size_t control = place % controlsAChannel;
    if (control == bendPlace) {
        send(midi::makeBend(channel, unit.high));
    } else if (control == pressurePlace) {
        send(midi::make(midi::channelPressure, channel, unit.high));
    } else if (control >= keyPressurePlace) {
        send(midi::make(midi::keyPressure, channel, static_cast<int>(control - keyPressurePlace), unit.high));
    } else {
        const auto number = static_cast<int>(control);
        if (unit.high >= 0) send(midi::make(midi::controlChange, channel, number, unit.high));
        if (unit.low >= 0) send(midi::make(midi::controlChange, channel, number + 32, unit.low));
    }
    return at;
}

void Pacer::select(const midi::Selection& wanted, int channel, const Output& from, Time& at,
                   const Sink& emit) {
    midi::Selection& wire = wire_.at(static_cast<std::size_t>(channel));
    if (wire == wanted) return;
    const bool isRpn = wanted.kind == midi::PairKind::rpn;
    const auto send = [&](int number, int value) {
        put(from, midi::make(midi::controlChange, channel, number, value).bytes(), at, emit);
    };
    send(isRpn ? midi::rpnSelect : midi::nrpnSelect, wanted.high);
    send(isRpn ? midi::rpnSelectLow : midi::nrpnSelectLow, wanted.low);
    wire = wanted;
}

/// at: when it begins; then when the wire is free again.
void Pacer::put(const Output& from, midi::Bytes bytes, Time& at, const Sink& emit) {
    Output output = from;
    output.time = at;
    output.bytes = bytes;
    emit(output);
    countLoad(at, bytes.size());
    const int bytesASecond = rate();
    if (bytesASecond > 0)
        at += static_cast<Time>(static_cast<double>(bytes.size()) * microsecondsASecond / bytesASecond);
}

void Pacer::countLoad(Time at, std::size_t bytes) {
    const auto span = static_cast<double>(at - second_);
    if (span >= microsecondsASecond) {
        const double room = std::max(1, rate()) * span / microsecondsASecond;
        load_.store(static_cast<float>(std::min(1.0, static_cast<double>(secondBytes_) / room)),
                    std::memory_order_relaxed);
        second_ = at;
        secondBytes_ = 0;
    }
    secondBytes_ += bytes;
}

}  // namespace mellow::io
