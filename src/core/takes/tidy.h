// Tidying: what was played, played a little better.
//
// A tidy stroke takes the points of a lane between two times and gives others: smoothed, thinned, drawn anew,
// scaled, clipped. It is a value (LaneEdit) that can be shown before it is made, and made for many lanes at
// once. What lies outside is untouched: its events stay as they are, to the byte, and where a stroke would
// leave the lane standing elsewhere than it stood, the old value is said again at the stroke's end, so that
// it sounds as it did.
//
// A lane is a step function: a value stands until the next one. All promises are about that function. Times
// are microseconds of the take; values are the lane's own, 0 to its highest.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "core/takes/lanes.h"

namespace mellow {

struct LanePoint {
    std::int64_t time = 0;
    double value = 0;
    bool operator==(const LanePoint&) const = default;
};

/// What a stroke begins with: the points of a lane from a time on and before another.
struct LaneStretch {
    const TakeLane* lane = nullptr;
    std::int64_t from = 0;
    std::int64_t to = 0;
    std::vector<LanePoint> points;
    std::optional<double> before;  ///< where the lane stands when the stretch begins
    bool endsAtPoint = false;      ///< the next point stands right where the stretch ends

    /// Where the lane stands when the stretch ends.
    [[nodiscard]] std::optional<double> after() const {
        return points.empty() ? before : std::optional(points.back().value);
    }
};
LaneStretch stretchOf(const Take& take, const TakeLane& lane, std::int64_t from, std::int64_t to);

/// The points of a lane from `from` on and before `to` are replaced by these, whose times lie in between or
/// at `to`, and never fall.
struct LaneEdit {
    Subject subject;
    bool isPair = false;
    double highest = 127;
    std::int64_t from = 0;
    std::int64_t to = 0;
    std::vector<LanePoint> points;
};
/// The take with all edits made. Of one subject there may be several edits, which must not overlap.
Take withEdits(const Take& take, const std::vector<LaneEdit>& edits);

/// Each point becomes the mean of the step function around it, weighted by a raised cosine as wide as
/// `width` microseconds; towards the ends the window narrows, so that the first and the last point stay as
/// they are. Every value stays between the least and the greatest of its window.
LaneEdit smoothed(const LaneStretch& stretch, std::int64_t width);
/// The fewest points whose step function is nowhere further than `error` from what was played, and stands at
/// the end where that stood.
LaneEdit thinned(const LaneStretch& stretch, double error);
/// How a line goes from one point to the next.
enum class Easing { straight, easedIn, easedOut, easedBoth };
/// A line through points in order of time, which covers their span of it; a point at least every `step`
/// microseconds while it moves.
LaneEdit drawn(const LaneStretch& stretch, const std::vector<LanePoint>& through, Easing easing,
               std::int64_t step = 5000);
struct Scaling {
    double factor = 1;  ///< of values, from the pivot
    double pivot = 0;
    double shift = 0;        ///< of values, after that
    double timeFactor = 1;   ///< from the stretch's begin
    std::int64_t later = 0;  ///< microseconds
};
/// Scaled and shifted, in value and time; what it is moved onto is replaced. Values are clamped to the lane,
/// times to 0 and later. Two edits where the stretch moves right away from its place.
std::vector<LaneEdit> scaled(const Take& take, const LaneStretch& stretch, const Scaling& scaling);
LaneEdit clipped(const LaneStretch& stretch, double floor, double ceiling);
/// The stretch, and so many more times right behind it.
LaneEdit repeated(const Take& take, const LaneStretch& stretch, int times);
LaneEdit removed(const LaneStretch& stretch);
/// Points from elsewhere, in positions from 0 to 1 and times from 0, put where the stretch begins.
LaneEdit pasted(const LaneStretch& stretch, const std::vector<LanePoint>& positions, std::int64_t length);
/// The stretch as positions from 0 to 1 and times from 0, for pasting; begins with where the lane stands.
std::vector<LanePoint> copied(const LaneStretch& stretch);

/// Notes, by their places in TakeLanes::notes.
using NoteChoice = std::vector<std::size_t>;
struct NoteMove {
    std::int64_t later = 0;   ///< microseconds; may be below 0
    int higher = 0;           ///< semitones
    std::int64_t longer = 0;  ///< microseconds; a note stays 1 ms long at least
    double velocityFactor = 1;
    int louder = 0;  ///< added to the velocity, which stays 1 to 127
};
/// The take with notes moved, lengthened or revoiced. A note that would leave 0..127 or begin before 0 stays
/// inside.
Take withNotes(const Take& take, const TakeLanes& lanes, const NoteChoice& notes, const NoteMove& move);
/// The take without notes.
Take withoutNotes(const Take& take, const TakeLanes& lanes, const NoteChoice& notes);
/// The notes that begin between two times.
NoteChoice notesBetween(const TakeLanes& lanes, std::int64_t from, std::int64_t to);

}  // namespace mellow
