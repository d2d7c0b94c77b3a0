// Each column of pixels asks for the points that fall on it by halving, and for their extent; so a picture
// costs the width of the page, not the length of the take.
#include "app/pages/takes/lane_picture.h"

#include <QPolygonF>
#include <algorithm>

#include "app/theme/theme.h"

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

/// The line of a step function, from left to right.
QPolygonF lineOf(const QRectF& area, const TimeAxis& axis, const Steps& steps, const LaneLook& look) {
    QPolygonF line;
    const auto y = [&](double value) { return heightOf(area, look, value); };
    std::size_t next = steps.from(axis.time(area.left()));
    const std::size_t end = steps.from(axis.time(area.right()) + 1);
    double stands = 0;
    bool stood = next > 0;
    if (stood) {
        stands = y(steps.valueAt(next - 1));
        line << QPointF(area.left(), stands);
    }
    const bool dense = static_cast<double>(end - next) > area.width();
    while (next < end) {
        const double x = axis.x(steps.timeAt(next));
        std::size_t behind = next + 1;
        if (dense) behind = std::max(behind, std::min(end, steps.from(axis.time(std::floor(x) + 1))));
        if (stood) line << QPointF(x, stands);
        if (behind - next > 1) {
            const Extent extent = steps.extentOf(next, behind);
            line << QPointF(x, y(extent.least)) << QPointF(x, y(extent.most));
        }
        stands = y(steps.valueAt(behind - 1));
        line << QPointF(x, stands);
        stood = true;
        next = behind;
    }
    const double last =
        std::min(area.right(), std::max(axis.x(look.until), line.isEmpty() ? 0.0 : line.back().x()));
    if (stood && last > line.back().x()) line << QPointF(last, stands);
    return line;
}

}  // namespace

void drawSteps(QPainter& painter, const QRectF& area, const TimeAxis& axis, const Steps& steps,
               const LaneLook& look) {
    const QPolygonF line = lineOf(area, axis, steps, look);
    if (line.size() < 2) return;
    if (look.filled) {
        QPolygonF shape = line;
        shape << QPointF(line.back().x(), area.bottom()) << QPointF(line.front().x(), area.bottom());
        QColor fill = look.colour;
        constexpr int faint = 46;
        fill.setAlpha(faint);
        painter.setRenderHint(QPainter::Antialiasing, false);
        painter.setPen(Qt::NoPen);
        painter.setBrush(fill);
        painter.drawPolygon(shape);
    }
    QPen pen(look.colour, look.dashed ? 1.2 : 1.6);
    if (look.dashed) pen.setDashPattern({3, 3});
    pen.setJoinStyle(Qt::BevelJoin);
    painter.setPen(pen);
    painter.setBrush(Qt::NoBrush);
    painter.setRenderHint(QPainter::Antialiasing, line.size() < 4 * area.width());
    painter.drawPolyline(line);
    painter.setRenderHint(QPainter::Antialiasing, true);
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
        painter.setRenderHint(QPainter::Antialiasing, rect.width() > 3);
        painter.drawRoundedRect(rect, rect.height() / 2.5, rect.height() / 2.5);
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
