// Entries are found by hashing an address and looking at the next few places; where all of them are taken the
// first is given up, which costs a control that is not moving now its half-finished value. Those that wait
// are listed in the order in which they came, since that is how they fall due.
#include "core/midi/pairs.h"

#include <algorithm>

namespace mellow::midi {

Pairs::Pairs() : entries_(capacity) {
    waiting_.reserve(capacity);
}

Pairs::Entry& Pairs::at(const PairAddress& address) {
    const std::uint64_t key = static_cast<std::uint64_t>(address.port) << 24 |
                              static_cast<std::uint64_t>(address.channel) << 20 |
                              static_cast<std::uint64_t>(address.kind) << 16 | address.number;
    const std::uint64_t mixed = key * 0x9E3779B97F4A7C15U;
    const std::size_t first = static_cast<std::size_t>(mixed >> 40) % capacity;
    Entry* chosen = &entries_[first];
    for (std::size_t i = 0; i < reach; ++i) {
        Entry& entry = entries_[(first + i) % capacity];
        if (entry.used && entry.address == address) return entry;
        if (!entry.used) {
            chosen = &entry;
            break;
        }
    }
    if (chosen->waiting) stopWaiting(*chosen);
    *chosen = Entry{};
    chosen->used = true;
    chosen->address = address;
    return *chosen;
}

/// RPN 0 is counted in cents, a hundred to each semitone of its high byte.
Pairs::Unit Pairs::unitOf(const PairAddress& address) {
    constexpr int cents = 100;
    if (address.kind == PairKind::rpn && address.number == 0) return {cents, max7 * cents + cents - 1};
    return {};
}

void Pairs::stepBy(Entry& entry, int by) {
    const Unit unit = unitOf(entry.address);
    const bool coarse = entry.alone >= aloneAtMost;
    const std::array rests{0, (unit.max + 1) / 2};
    for (std::size_t i = 0; i < rests.size(); ++i) {
        Standing& standing = entry.standings.at(i);
        if (standing.value == unknown) standing = {0, rests.at(i), true};
        if (coarse) {
            const int high = standing.fine ? standing.value / unit.half : standing.value;
            standing.value = std::clamp(high + by, 0, max7);
            standing.high = standing.value;
        } else {
            const int value = standing.fine ? standing.value : standing.value * unit.half;
            standing.value = std::clamp(value + by, 0, unit.max);
            standing.high = standing.value / unit.half;
        }
        standing.fine = !coarse;
    }
}

void Pairs::wait(Entry& entry, std::int64_t now) {
    entry.waiting = true;
    entry.arrived = now;
    waiting_.push_back(static_cast<std::uint32_t>(&entry - entries_.data()));
}

void Pairs::stopWaiting(Entry& entry) {
    entry.waiting = false;
    std::erase(waiting_, static_cast<std::uint32_t>(&entry - entries_.data()));
}

void Pairs::giveUp(Entry& entry) {
    stopWaiting(entry);
    if (entry.alone < aloneAtMost) ++entry.alone;
}

void Selection::take(int number, int value) {
    const PairKind of = number >= 100 ? PairKind::rpn : PairKind::nrpn;
    if (kind != of) *this = {of, unknown, unknown};
    (number % 2 == 1 ? high : low) = value;
}

int Selection::number() const {
    if (high == unknown || low == unknown || kind == PairKind::control) return unknown;
    const int whole = high << 7 | low;
    return whole == nothing ? unknown : whole;
}

}  // namespace mellow::midi
