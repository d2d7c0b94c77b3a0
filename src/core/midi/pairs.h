// Values that come in two bytes: 14-bit controls, RPN and NRPN.
//
// A control change carries seven bits, so a finer control sends two: the high byte on its number, the low
// byte on the number 32 above it (MIDI 1.0, "Controller numbers 32–63"). RPN and NRPN send data entry, 6 and
// 38, in the same way for whatever register was selected before. What makes this awkward is that many
// controls never send the low byte, and nobody says so. The rule that copes with all of them is in the signal
// rules, section 5: a value counts when its low byte comes; a high byte alone is taken 5 ms later, or when
// the next comes; and after three alone in a row the control is read as one of seven bits, at once, until a
// low byte comes after all. Data increment and decrement step the value that the register has; before any has
// come that is where whoever listens rests, at the low end or in the middle, so both are kept.
//
// Memory is of fixed size and found by hashing. What it cannot hold it forgets, oldest neighbour first.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "core/midi/message.h"

namespace mellow::midi {

enum class PairKind : std::uint8_t { control, rpn, nrpn };

/// Which value of two bytes: a control 0..31, or a register 0..16383, as heard on a port and channel.
struct PairAddress {
    std::uint16_t port = 0;
    std::uint8_t channel = 0;
    PairKind kind = PairKind::control;
    std::uint16_t number = 0;
    bool operator==(const PairAddress&) const = default;
};

/// A value that counts. Of one that is read as seven bits `fine` is false, and it is 0..127; else 0..16383,
/// or of RPN 0 cents, 0..12799.
struct PairReading {
    PairAddress address;
    int value = 0;  ///< for who rests at the low end
    bool fine = true;
    int fromMiddle = 0;  ///< for who rests in the middle; another than `value` after steps alone
};

class Pairs {
 public:
    static constexpr std::int64_t patience = 5000;  ///< microseconds that a high byte waits for its low byte

    Pairs();

    /// A high byte has come. Calls take(PairReading) for what counts now: none, one, or two.
    template<class Take>
    void high(const PairAddress& address, int value, std::int64_t now, Take&& take) {
        Entry& entry = at(address);
        settle(entry, take);
        for (Standing& standing : entry.standings) standing.high = value;
        if (entry.alone >= aloneAtMost) return take(stand(entry, value, false));
        wait(entry, now);
    }

    /// A low byte has come.
    template<class Take>
    void low(const PairAddress& address, int value, Take&& take) {
        Entry& entry = at(address);
        if (entry.waiting) stopWaiting(entry);
        entry.alone = 0;
        const Unit unit = unitOf(address);
        for (Standing& standing : entry.standings) {
            standing.value = standing.high * unit.half + std::min(value, unit.half - 1);
            standing.fine = true;
        }
        take(readingOf(entry));
    }

    /// Data increment or decrement comes, by ±1: behind what waits, one step of the value, of 1/127 while it
    /// is read as seven bits. A low byte that comes after it joins the high byte of what it came to.
    template<class Take>
    void step(const PairAddress& address, int by, Take&& take) {
        Entry& entry = at(address);
        settle(entry, take);
        stepBy(entry, by);
        take(readingOf(entry));
    }

    /// A grid point has come: what has waited long enough counts, in the order in which it came.
    template<class Take>
    void due(std::int64_t now, Take&& take) {
        while (!waiting_.empty() && entries_[waiting_.front()].arrived + patience <= now) {
            Entry& entry = entries_[waiting_.front()];
            settle(entry, take);
        }
    }

    [[nodiscard]] bool waiting() const { return !waiting_.empty(); }

 private:
    static constexpr std::size_t capacity = 4096;
    static constexpr std::size_t reach = 8;  ///< how far from its hash an entry may be
    static constexpr int aloneAtMost = 3;

    static constexpr int unknown = -1;
    /// Where a value stands for those who rest in one place.
    struct Standing {
        int high = 0;
        int value = unknown;
        bool fine = true;
    };
    /// What a high byte is worth, and the highest value.
    struct Unit {
        int half = max7 + 1;
        int max = max14;
    };
    struct Entry {
        PairAddress address;
        std::int64_t arrived = 0;
        std::array<Standing, 2> standings{};  ///< for who rests at the low end, and in the middle
        std::uint8_t alone = 0;               ///< high bytes in a row without a low byte, counted to three
        bool used = false;
        bool waiting = false;
    };

    /// What waits counts now, before something else happens to the value.
    template<class Take>
    void settle(Entry& entry, Take&& take) {
        if (!entry.waiting) return;
        const Unit unit = unitOf(entry.address);
        for (Standing& standing : entry.standings) {
            standing.value = standing.high * unit.half;
            standing.fine = true;
        }
        take(readingOf(entry));
        giveUp(entry);
    }
    static PairReading stand(Entry& entry, int value, bool fine) {
        for (Standing& standing : entry.standings) {
            standing.value = value;
            standing.fine = fine;
        }
        return readingOf(entry);
    }
    static PairReading readingOf(const Entry& entry) {
        const auto& [low, middle] = entry.standings;
        return {entry.address, low.value, low.fine, middle.value};
    }
    static Unit unitOf(const PairAddress& address);
    static void stepBy(Entry& entry, int by);
    Entry& at(const PairAddress& address);
    void wait(Entry& entry, std::int64_t now);
    void stopWaiting(Entry& entry);
    void giveUp(Entry& entry);

    std::vector<Entry> entries_;
    std::vector<std::uint32_t> waiting_;  ///< places in entries_, in order of arrival
};

/// Follows which register is selected (CC 101/100 and 99/98), for one port and channel.
struct Selection {
    static constexpr int unknown = -1;
    static constexpr int nothing = 16383;  ///< the null select, 127/127

    /// Takes control `number`, 98 to 101.
    void take(int number, int value);
    /// The selected register of `kind`, or `unknown`.
    [[nodiscard]] int number() const;

    PairKind kind = PairKind::control;  ///< control: nothing was ever selected
    int high = unknown;
    int low = unknown;
    bool operator==(const Selection&) const = default;
};

}  // namespace mellow::midi
