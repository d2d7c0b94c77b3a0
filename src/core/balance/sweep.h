// A sweep: the notes that are played while something moves along its travel, and where in time each is held.
//
// For each key and each position there is one note. What moves is put to its place, a moment passes, the key
// goes down; what follows until the sound has settled is left out, then the note is held as long as it is
// measured, and goes; and before the next there is a gap, so that the end of one is not heard in the other. A
// click, which is a short note with a pause before and behind it, lets a recording that was made elsewhere be
// laid over the sweep.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/balance/motion.h"
#include "core/takes/take.h"

namespace mellow::balance {

/// Something that stands still while something else moves.
struct Held {
    Motion motion;
    double position = 0;  ///< 0 to 1
    bool operator==(const Held&) const = default;
};

struct SweepPlan {
    std::string instrument;  ///< id
    Motion motion;
    std::optional<Held> held;
    std::vector<int> keys{60};  ///< 0..127; of a sweep over the keys themselves the lowest and the highest
    int velocity = 90;          ///< 1..127
    int positions = 64;         ///< 2..128, evenly spread; those that come to the same are measured once
    // Microseconds.
    std::int64_t lead = 30'000;     ///< what moves stands before the key goes down
    std::int64_t settle = 150'000;  ///< behind the key's going down, left out
    std::int64_t hold = 400'000;    ///< measured; 400,000 at least, which is a block of ITU-R BS.1770
    std::int64_t gap = 250'000;     ///< behind the key's coming up
    bool click = false;
    bool operator==(const SweepPlan&) const = default;
};

inline constexpr int fewestPositions = 2;
inline constexpr int mostPositions = 128;
inline constexpr std::int64_t shortestHold = 400'000;
inline constexpr std::int64_t longestPart = 10'000'000;  ///< of each part of a note, microseconds
/// Where the click is struck, and where the first note of the sweep has its place behind it.
inline constexpr std::int64_t clickTime = 500'000;
inline constexpr std::int64_t afterClick = 1'500'000;

struct Segment {
    int key = 60;
    int velocity = 90;
    double position = 0;
    // Microseconds of the sweep.
    std::int64_t begins = 0;  ///< its key goes down
    std::int64_t from = 0;    ///< what is measured
    std::int64_t to = 0;
    std::int64_t ends = 0;  ///< the next one's place begins
    bool operator==(const Segment&) const = default;
};

struct Sweep {
    Ensemble ensemble;  ///< in which the instrument plays alone
    Take take;          ///< what the hands do
    std::vector<Segment> segments;
    std::optional<std::int64_t> click;  ///< when it is struck
};

/// Why a plan cannot be played; nothing: it can.
std::optional<Problem> flawOf(const SweepPlan& plan);
/// Error: as flawOf() and Rig::build().
Result<Sweep> sweepOf(const Ensemble& ensemble, const SweepPlan& plan);

/// What is left out behind a key's going down while a chain moves: as long as a plan leaves out, and as its
/// steps need in time. Microseconds; chain: nullptr of none.
std::int64_t settleFor(const Chain* chain);
/// A key in the middle of what an instrument takes, near middle C; of the keys themselves its lowest and
/// highest.
std::vector<int> usualKeys(const Instrument& instrument, const Motion& motion);

}  // namespace mellow::balance
