// How a lane is drawn: a step function over the time axis, filled to its foot, and notes as bars.
//
// However many points there are, a pixel is drawn once: where several fall on it, from the least to the
// greatest of them. Hands are honey, results mint; what was is a faint dashed line over what is.
#pragma once

#include <QColor>
#include <QPainter>
#include <QRectF>

#include "app/pages/takes/peaks.h"
#include "app/pages/takes/time_axis.h"
#include "core/takes/lanes.h"
#include "core/takes/results.h"
#include "core/takes/tidy.h"

namespace mellow::app {

/// A list of points in order of time, wherever they lie.
class Steps {
 public:
    virtual ~Steps() = default;
    [[nodiscard]] virtual std::size_t size() const = 0;
    [[nodiscard]] virtual std::int64_t timeAt(std::size_t place) const = 0;
    [[nodiscard]] virtual float valueAt(std::size_t place) const = 0;
    [[nodiscard]] virtual Extent extentOf(std::size_t from, std::size_t to) const = 0;
    /// The place of the first at a time or later.
    [[nodiscard]] std::size_t from(std::int64_t time) const;
};

class HandSteps : public Steps {
 public:
    HandSteps(const Take& take, const TakeLane& lane, const Peaks& peaks)
        : take_(take), lane_(lane), peaks_(peaks) {}
    [[nodiscard]] std::size_t size() const override { return lane_.events.size(); }
    [[nodiscard]] std::int64_t timeAt(std::size_t place) const override {
        return take_.events[lane_.events[place]].time;
    }
    [[nodiscard]] float valueAt(std::size_t place) const override { return lane_.values[place]; }
    [[nodiscard]] Extent extentOf(std::size_t from, std::size_t to) const override {
        return peaks_.between(from, to);
    }

 private:
    const Take& take_;
    const TakeLane& lane_;
    const Peaks& peaks_;
};

class ResultSteps : public Steps {
 public:
    ResultSteps(const ResultLane& lane, const Peaks& peaks) : lane_(lane), peaks_(peaks) {}
    [[nodiscard]] std::size_t size() const override { return lane_.times.size(); }
    [[nodiscard]] std::int64_t timeAt(std::size_t place) const override { return lane_.times[place]; }
    [[nodiscard]] float valueAt(std::size_t place) const override { return lane_.values[place]; }
    [[nodiscard]] Extent extentOf(std::size_t from, std::size_t to) const override {
        return peaks_.between(from, to);
    }

 private:
    const ResultLane& lane_;
    const Peaks& peaks_;
};

class PointSteps : public Steps {
 public:
    explicit PointSteps(const std::vector<LanePoint>& points) : points_(points) {}
    [[nodiscard]] std::size_t size() const override { return points_.size(); }
    [[nodiscard]] std::int64_t timeAt(std::size_t place) const override { return points_[place].time; }
    [[nodiscard]] float valueAt(std::size_t place) const override {
        return static_cast<float>(points_[place].value);
    }
    [[nodiscard]] Extent extentOf(std::size_t from, std::size_t to) const override {
        Extent extent;
        for (; from < to; ++from) extent.add(valueAt(from));
        return extent;
    }

 private:
    const std::vector<LanePoint>& points_;
};

struct LaneLook {
    QColor colour;
    bool filled = true;
    bool dashed = false;
    double least = 0;        ///< the value at the foot
    double most = 1;         ///< and at the top
    std::int64_t until = 0;  ///< the last value stands as long as this
};

/// Draws steps into an area.
void drawSteps(QPainter& painter, const QRectF& area, const TimeAxis& axis, const Steps& steps,
               const LaneLook& look);
/// Where a value stands in an area.
double heightOf(const QRectF& area, const LaneLook& look, double value);

/// Where a note is drawn: lowest and highest are those of its row.
QRectF noteRect(const QRectF& area, const TimeAxis& axis, const TakeNote& note, std::pair<int, int> keys);
/// Draws the notes of a port. chosen: places of those that are selected.
void drawNotes(QPainter& painter, const QRectF& area, const TimeAxis& axis, const TakeLanes& lanes,
               std::size_t port, std::pair<int, int> keys, const NoteChoice& chosen);
/// Calls see(place) for the notes of a port that sound between two times; false ends it.
template<class See>
void forEachNote(const TakeLanes& lanes, std::size_t port, std::int64_t from, std::int64_t to, See&& see) {
    const auto first =
        std::partition_point(lanes.notes.begin(), lanes.notes.end(),
                             [&](const TakeNote& note) { return note.begins < from - lanes.longestNote; });
    for (auto note = first; note != lanes.notes.end() && note->begins <= to; ++note) {
        if (note->port != port || note->ends < from) continue;
        if (!see(static_cast<std::size_t>(note - lanes.notes.begin()))) return;
    }
}

}  // namespace mellow::app
