// Ticks to microseconds and back, exactly.
//
// With a division of D ticks a quarter note and a tempo of m microseconds a quarter note, a tick lasts m/D
// microseconds: every time is a whole number of D-ths of a microsecond. With frames, a tick lasts
// 1000000·d / (n·ticksPerFrame) where n/d is the frame rate (30000/1001 for "29"). Both are a numerator over
// one denominator that holds for the whole file, so the map adds integers and rounds once, at the end (signal
// rules, section 7). Numerators are 128 bits wide: no file that fits in memory overflows them.
#pragma once

#include <cstdint>
#include <vector>

#include "core/smf/file.h"

namespace mellow::smf {

class TempoMap {
 public:
    /// The map of the given tracks of a file, merged: all of them for formats 0 and 1, one for format 2.
    /// Tempo events whose body is not three bytes, or says 0, are passed over.
    TempoMap(const File& file, const std::vector<const Track*>& tracks);
    /// The map of a division in ticks a quarter note, at 120 beats a minute until set() says another tempo.
    explicit TempoMap(const Division& division);
    /// From a tick on, which must not fall, a quarter note lasts that many microseconds (1 to 0xFFFFFF).
    void set(std::uint64_t tick, std::uint32_t quarter);

    /// The time of a tick in microseconds from the start, rounded down.
    [[nodiscard]] std::int64_t microseconds(std::uint64_t tick) const;
    /// The tick nearest to a time of 0 or later; a tie goes to the later tick.
    [[nodiscard]] std::uint64_t nearestTick(std::int64_t microseconds) const;

 private:
    __extension__ using Wide = unsigned __int128;
    /// 32 bytes, since a hostile file may hold little else.
    struct Segment {
        std::uint64_t tick;
        std::uint64_t startHigh;  ///< time of `tick`, in units of 1/denominator_ µs: its upper 64 bits
        std::uint64_t startLow;
        std::uint32_t perTick;  ///< in the same units
    };
    static Wide startOf(const Segment& segment) { return Wide{segment.startHigh} << 64 | segment.startLow; }

    std::vector<Segment> segments_;  ///< never empty, the first at tick 0
    std::uint64_t denominator_ = 1;
};

}  // namespace mellow::smf
