// Where everything of a take stands in its picture: rows in two halves with a band between them, one axis of
// time, and what is under a point. All in pixels of the view, which has none of it itself.
#pragma once

#include <QRect>
#include <QString>
#include <array>
#include <optional>
#include <string>
#include <vector>

#include "app/document/document.h"
#include "app/pages/takes/lane_picture.h"
#include "app/pages/takes/take_rows.h"
#include "app/pages/takes/time_axis.h"
#include "app/takes/time_text.h"

namespace mellow::app {

class TakeLayout {
 public:
    explicit TakeLayout(const Document& document) : document_(document) {}

    static constexpr int nearEdge = 5;  ///< pixels that still mean an edge

    TimeAxis axis;
    TakeRows rows;
    TimeText times;

    /// Lays rows and band out in a view of a size.
    void layOut(QSize size);
    /// Moves the band to a height, so that one half has more room; layOut() follows it.
    void moveBand(int y);
    /// Scrolls the rows of a half; false where that moves nothing.
    bool scroll(bool above, int pixels);

    [[nodiscard]] QSize size() const { return size_; }
    [[nodiscard]] QRect ruler() const;
    [[nodiscard]] QRect body() const;
    [[nodiscard]] QRect half(bool above) const;
    /// Empty where there is nothing to part.
    [[nodiscard]] QRect band() const;
    /// The top of a row, which may be scrolled out of its half.
    [[nodiscard]] int topOf(const TakeRow& row) const;
    /// Where its lane is drawn.
    [[nodiscard]] QRectF areaOf(const TakeRow& row) const;
    /// The same, empty where it is not seen.
    [[nodiscard]] QRect laneRect(const std::string& key) const;
    [[nodiscard]] QRect noteRectOf(std::size_t note) const;

    [[nodiscard]] const TakeRow* rowAt(const QPoint& at) const;
    [[nodiscard]] std::optional<std::size_t> noteAt(const QPoint& at) const;
    /// The cues of the take, in order, and which of them a point of the ruler is on; −1: none.
    [[nodiscard]] std::vector<TakeMark> cues() const;
    [[nodiscard]] int cueAt(const QPoint& at) const;

    [[nodiscard]] LaneLook lookOf(const TakeRow& row) const;
    /// Where a lane stands at a time, in its own numbers.
    [[nodiscard]] std::optional<double> valueOf(const TakeRow& row, std::int64_t time) const;
    /// The same for people; of notes, the keys that are down.
    [[nodiscard]] QString valueText(const TakeRow& row, std::int64_t time) const;
    /// What a height in a lane stands for.
    [[nodiscard]] double valueAtHeight(const TakeRow& row, int y) const;

 private:
    void placeBand();
    [[nodiscard]] QString textOf(const TakeRow& row, double value) const;

    const Document& document_;
    QSize size_;
    std::array<int, 2> scrolls_{0, 0};  ///< pixels of rows above each half
    double split_ = -1;  ///< the share of the height that the hands have; below 0: as the lanes want
    int bandTop_ = 0;
};

}  // namespace mellow::app
