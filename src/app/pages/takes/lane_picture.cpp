// Each column of pixels asks for the points that fall on it by halving, and for their extent; so a picture
// costs the width of the page, not the length of the take. A step function has upright and level edges only,
// so it is drawn as rectangles of whole pixels, columns that are alike as one.
#include "app/pages/takes/lane_picture.h"

#include <QList>
#include <algorithm>
#include <cmath>
#include <vector>

#include "app/ground/theme.h"

namespace mellow::app {

std::size_t Steps::from(std::int64_t time) const {
    std::size_t low = 0;
    std::size_t high = size();
    while (low < high) {
        const std::size_t middle = (low + high) / 2;
        if (timeAt(middle) < time) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    return low;
}

double heightOf(const QRectF& area, const LaneLook& look, double value) {
    const double share = look.most > look.least ? (value - look.least) / (look.most - look.least) : 0;
    return area.bottom() - std::clamp(share, 0.0, 1.0) * area.height();
}

namespace {

/// What of a column of pixels a line covers, from its highest to its lowest.
struct Column {
    int top = 0;
    int bottom = -1;
    [[nodiscard]] bool empty() const { return bottom < top; }
    void add(int y) {
        if (empty()) {
            top = bottom = y;
        } else {
            top = std::min(top, y);
            bottom = std::max(bottom, y);
        }
    }
    bool operator==(const Column&) const = default;
};

/// The line of a step function, column by column from the area's left edge.
std::vector<Column> columnsOf(const QRectF& area, const TimeAxis& axis, const Steps& steps,
                              const LaneLook& look) {
    const int left = static_cast<int>(area.left());
    const int width = static_cast<int>(area.width());
    std::vector<Column> columns(static_cast<std::size_t>(std::max(width, 0)));
    const auto y = [&](double value) { return static_cast<int>(std::lround(heightOf(area, look, value))); };
    const std::size_t first = steps.from(axis.time(left));
    const std::size_t end = steps.from(axis.time(left + width));
    const bool dense = end - first > columns.size();
    const double until = axis.x(look.until);
    std::size_t next = first;
    bool stood = first > 0;
    int stands = stood ? y(steps.valueAt(first - 1)) : 0;
    for (int i = 0; i < width; ++i) {
        Column& column = columns[static_cast<std::size_t>(i)];
        const bool isPast = left + i > until && next == end;
        if (stood && !isPast) column.add(stands);
        std::size_t behind = next;
        const std::int64_t edge = axis.time(left + i + 1);
        if (dense) {
            behind = std::min(end, steps.from(edge));
        } else {
            while (behind < end && steps.timeAt(behind) < edge) ++behind;
        }
        if (behind == next) continue;
        const Extent extent = steps.extentOf(next, behind);
        column.add(y(extent.least));
        column.add(y(extent.most));
        stands = y(steps.valueAt(behind - 1));
        stood = true;
        next = behind;
    }
    return columns;
}

/// Calls each(rect of columns that are alike), left to right.
template<class RectOf>
void fill(QPainter& painter, const std::vector<Column>& columns, int left, RectOf&& rectOf) {
    QList<QRect> rects;
    for (std::size_t i = 0; i < columns.size();) {
        std::size_t end = i + 1;
        while (end < columns.size() && columns[end] == columns[i]) ++end;
        if (!columns[i].empty())
            rects << rectOf(left + static_cast<int>(i), static_cast<int>(end - i), columns[i]);
        i = end;
    }
    painter.drawRects(rects);
}

}  // namespace

void drawSteps(QPainter& painter, const QRectF& area, const TimeAxis& axis, const Steps& steps,
               const LaneLook& look) {
    const std::vector<Column> columns = columnsOf(area, axis, steps, look);
    const int left = static_cast<int>(area.left());
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing, false);
    painter.setPen(Qt::NoPen);
    if (look.filled) {
        const int foot = static_cast<int>(std::lround(area.bottom()));
        painter.setBrush(blend(theme().ground, look.colour, 0.19));
        fill(painter, columns, left, [foot](int x, int width, const Column& column) {
            return QRect(x, column.top, width, std::max(foot - column.top, 0));
        });
    }
    if (look.dashed) {
        // Every other few pixels, so that what lies below is seen.
        std::vector<Column> parts = columns;
        constexpr int period = 6;
        constexpr int gap = 3;
        for (std::size_t i = 0; i < parts.size(); ++i) {
            const bool flat = parts[i].bottom - parts[i].top < gap;
            if (flat && (left + static_cast<int>(i)) % period >= gap) parts[i] = {};
        }
        painter.setBrush(look.colour);
        fill(painter, parts, left, [](int x, int width, const Column& column) {
            return QRect(x, column.top, width, column.bottom - column.top + 1);
        });
    } else {
        painter.setBrush(look.colour);
        fill(painter, columns, left, [](int x, int width, const Column& column) {
            return QRect(x, column.top - 1, width, column.bottom - column.top + 2);
        });
    }
    painter.restore();
}

QRectF noteRect(const QRectF& area, const TimeAxis& axis, const TakeNote& note, std::pair<int, int> keys) {
    const double rows = std::max(keys.second - keys.first + 1, 6);
    const double pitch = area.height() / rows;
    const double height = std::clamp(pitch * 0.8, 2.0, 9.0);
    const double middle = area.bottom() - (note.key - keys.first + 0.5) * pitch;
    const double left = axis.x(note.begins);
    return {left, middle - height / 2, std::max(axis.x(note.ends) - left, 1.5), height};
}

void drawNotes(QPainter& painter, const QRectF& area, const TimeAxis& axis, const TakeLanes& lanes,
               std::size_t port, std::pair<int, int> keys, const NoteChoice& chosen) {
    painter.setPen(Qt::NoPen);
    forEachNote(lanes, port, axis.time(area.left()), axis.time(area.right()), [&](std::size_t place) {
        const TakeNote& note = lanes.notes[place];
        QRectF rect = noteRect(area, axis, note, keys);
        rect = rect.intersected(area.adjusted(-4, 0, 4, 0));
        const bool isChosen = std::binary_search(chosen.begin(), chosen.end(), place);
        // How hard it was struck is how much of the ground shows.
        const double strength = 0.35 + 0.65 * note.velocity / 127.0;
        painter.setBrush(blend(theme().ground, theme().honey, strength));
        // Corners of what is small are not seen.
        constexpr double seen = 8;
        const bool isRound = rect.width() > seen;
        painter.setRenderHint(QPainter::Antialiasing, isRound);
        if (isRound) {
            painter.drawRoundedRect(rect, rect.height() / 2.5, rect.height() / 2.5);
        } else {
            painter.drawRect(rect);
        }
        if (!isChosen) return true;
        painter.setPen(QPen(theme().sky, 1.5));
        painter.setBrush(Qt::NoBrush);
        painter.drawRoundedRect(rect.adjusted(-1.5, -1.5, 1.5, 1.5), rect.height() / 2, rect.height() / 2);
        painter.setPen(Qt::NoPen);
        return true;
    });
    painter.setRenderHint(QPainter::Antialiasing, true);
}

}  // namespace mellow::app
