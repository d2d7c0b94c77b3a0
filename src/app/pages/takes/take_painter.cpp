// The lanes are painted once into a picture of their own; what moves over them is laid on top.
#include "app/pages/takes/take_painter.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/takes/take_metrics.h"

namespace mellow::app {

void TakePainter::lanes() {
    painter_.setRenderHint(QPainter::Antialiasing);
    for (const TakeRow& each : layout_.rows.rows()) {
        if (layout_.areaOf(each).intersects(layout_.half(each.isAbove()))) row(each);
    }
    if (!layout_.rows.rows().empty()) band();
    ruler();
}

void TakePainter::over() {
    painter_.setRenderHint(QPainter::Antialiasing);
    if (layout_.rows.rows().empty()) return empty();
    selection();
    preview();
    const std::int64_t time = work_.playing.position();
    for (const TakeRow& each : layout_.rows.rows()) gutter(each, time);
    playhead();
    more();
    if (layout_.rows.results().lanes.empty()) nothingBelow();
    hover();
}

void TakePainter::row(const TakeRow& row) {
    const QRectF area = layout_.areaOf(row);
    painter_.save();
    painter_.setClipRect(area.adjusted(-1, -2, 1, 2).intersected(layout_.half(row.isAbove())));
    painter_.fillRect(QRectF(area.left(), area.bottom(), area.width(), 1),
                      blend(theme().ground, theme().line, 0.6));
    switch (row.kind) {
        case TakeRow::Kind::notes:
            drawNotes(painter_, area, layout_.axis, layout_.rows.lanes(), row.place,
                      layout_.rows.keysOf(row.place), work_.choice.chosenNotes());
            break;
        case TakeRow::Kind::hand: {
            const TakeLane& lane = layout_.rows.lanes().lanes[row.place];
            drawSteps(painter_, area, layout_.axis,
                      HandSteps(layout_.rows.take(), lane, layout_.rows.handPeaks(row.place)),
                      layout_.lookOf(row));
            break;
        }
        case TakeRow::Kind::result: {
            const ResultLane& lane = layout_.rows.results().lanes[row.place];
            if (then_.results) {
                for (std::size_t i = 0; i < then_.results->lanes.size(); ++i) {
                    const ResultLane& was = then_.results->lanes[i];
                    if (was.instrument != lane.instrument || was.parameter != lane.parameter) continue;
                    LaneLook look = layout_.lookOf(row);
                    look.colour = theme().dim;
                    look.filled = false;
                    look.dashed = true;
                    drawSteps(painter_, area, layout_.axis, ResultSteps(was, then_.peaks[i]), look);
                }
            }
            drawSteps(painter_, area, layout_.axis, ResultSteps(lane, layout_.rows.resultPeaks(row.place)),
                      layout_.lookOf(row));
            break;
        }
    }
    painter_.restore();
}

/// What stands left of a lane: its name, how it is said, and where it is now.
void TakePainter::gutter(const TakeRow& row, std::int64_t time) {
    const QRect half = layout_.half(row.isAbove());
    const int top = layout_.topOf(row);
    if (top + row.height < half.top() || top > half.bottom()) return;
    painter_.save();
    painter_.setClipRect(QRect(0, half.top(), layout_.axis.left, half.height()), Qt::IntersectClip);
    const bool isChosen = row.kind == TakeRow::Kind::hand &&
                          work_.choice.chosenLanes().contains(layout_.rows.lanes().lanes[row.place].subject);
    if (isChosen) painter_.fillRect(QRect(0, top, scaled(3), row.height), theme().sky);
    const int left = scaled(14);
    const int right = layout_.axis.left - scaled(12);
    const QFontMetrics body(bodyFont());
    const QFontMetrics small(captionFont());
    const QFontMetrics numbers(numberFont());
    const QString value = layout_.valueText(row, time);
    const int valueWidth = numbers.horizontalAdvance(value);
    const bool oneLine = row.folded || row.height < body.height() + small.height() + scaled(4);
    painter_.setFont(bodyFont());
    painter_.setPen(isChosen ? theme().sky : theme().ink);
    QString name = row.name;
    if (row.pinned) name += QStringLiteral(" ·");
    const int nameRoom = right - left - (oneLine ? valueWidth + scaled(8) : 0);
    painter_.drawText(
        QRect(left, top + (oneLine ? 0 : scaled(3)), nameRoom, oneLine ? row.height : body.height()),
        Qt::AlignLeft | Qt::AlignVCenter, body.elidedText(name, Qt::ElideRight, nameRoom));
    if (!oneLine) {
        painter_.setFont(captionFont());
        painter_.setPen(theme().dim);
        const int second = top + scaled(3) + body.height();
        const bool valueBelow = row.height >= body.height() + small.height() + numbers.height();
        const int room = right - left - (valueBelow ? 0 : valueWidth + scaled(8));
        painter_.drawText(QRect(left, second, room, small.height()), Qt::AlignLeft | Qt::AlignVCenter,
                          small.elidedText(row.about, Qt::ElideRight, room));
    }
    painter_.setFont(numberFont());
    painter_.setPen(row.kind == TakeRow::Kind::result ? theme().mint : theme().honey);
    const int valueHeight = numbers.height();
    const QRect valueRect =
        oneLine ? QRect(left, top, right - left, row.height)
                : QRect(left, top + row.height - valueHeight - scaled(1), right - left, valueHeight);
    painter_.drawText(valueRect, Qt::AlignRight | Qt::AlignVCenter, value);
    painter_.restore();
}

void TakePainter::ruler() {
    const QRect rect = layout_.ruler();
    painter_.fillRect(rect, theme().ground);
    const QFontMetrics metrics(numberFont());
    const double apart = metrics.horizontalAdvance(QStringLiteral("00:00:00:00")) + scaled(24);
    painter_.setClipRect(QRect(layout_.axis.left, 0, layout_.axis.width + scaled(take_metrics::right),
                               layout_.size().height()));
    painter_.setFont(numberFont());
    const int foot = rect.bottom();
    const auto ticks =
        layout_.times.ticks(layout_.axis.begin, layout_.axis.end(), apart * layout_.axis.microsPerPixel);
    for (const TimeText::Tick& tick : ticks) {
        const double x = layout_.axis.x(tick.time);
        const bool large = !tick.label.isEmpty();
        painter_.setPen(QPen(blend(theme().ground, theme().dim, large ? 0.9 : 0.45), 1));
        painter_.drawLine(QPointF(x, foot - (large ? scaled(12) : scaled(6))), QPointF(x, foot));
        if (!large) continue;
        painter_.setPen(theme().dim);
        painter_.drawText(QPointF(x + scaled(4), foot - scaled(4)), tick.label);
    }
    const QFontMetrics small(captionFont());
    painter_.setFont(captionFont());
    for (const TakeMark& cue : layout_.cues()) {
        const double x = layout_.axis.x(cue.time);
        const QString name = toQt(cue.body);
        const QRectF label(x, scaled(2), small.horizontalAdvance(name) + scaled(12),
                           small.height() + scaled(3));
        if (label.right() < layout_.axis.left || label.left() > layout_.axis.left + layout_.axis.width)
            continue;
        painter_.setPen(QPen(theme().line, 1, Qt::DotLine));
        painter_.drawLine(QPointF(x, label.bottom()), QPointF(x, layout_.size().height()));
        painter_.setPen(Qt::NoPen);
        painter_.setBrush(theme().raised);
        painter_.drawRoundedRect(label, 3, 3);
        painter_.setPen(theme().sky);
        painter_.drawText(label, Qt::AlignCenter, name);
    }
    painter_.setClipping(false);
}

/// Which chains are in force; buttons of the page stand on its right.
void TakePainter::band() {
    const QRect rect = layout_.band();
    painter_.fillRect(rect, theme().raised);
    const int middle = rect.center().y();
    painter_.setPen(Qt::NoPen);
    painter_.setBrush(theme().honey);
    painter_.drawEllipse(QPointF(scaled(20), middle + 0.5), scaled(5), scaled(5));
    painter_.setBrush(theme().mint);
    const double x = scaled(32);
    const double half = scaled(5);
    painter_.drawPolygon(QPolygonF(
        {{x, middle + 0.5}, {x + 2 * half, middle - half + 0.5}, {x + 2 * half, middle + half + 0.5}}));
}

void TakePainter::selection() {
    const TimeSpan& span = work_.choice.span();
    painter_.save();
    painter_.setClipRect(
        QRect(layout_.axis.left, layout_.ruler().bottom(), layout_.axis.width, layout_.size().height()),
        Qt::IntersectClip);
    if (!span.empty()) {
        const double left = layout_.axis.x(span.from);
        const double right = layout_.axis.x(span.to);
        QColor fill = theme().sky;
        for (const TakeRow& row : layout_.rows.rows()) {
            const bool isChosen =
                row.kind == TakeRow::Kind::hand &&
                work_.choice.chosenLanes().contains(layout_.rows.lanes().lanes[row.place].subject);
            fill.setAlpha(isChosen ? 44 : 20);
            const QRectF area = layout_.areaOf(row);
            const QRectF lane(left, area.top() - scaled(5), right - left, area.height() + scaled(9));
            painter_.fillRect(lane.intersected(layout_.half(row.isAbove())), fill);
        }
        painter_.setClipRegion(painter_.clipRegion().subtracted(layout_.band()));
        painter_.setPen(QPen(theme().sky, 1));
        for (const double x : {left, right})
            painter_.drawLine(QPointF(std::round(x) + 0.5, layout_.ruler().bottom()),
                              QPointF(std::round(x) + 0.5, layout_.size().height()));
    }
    painter_.restore();
}

/// Edits that may be made, as a faint line over what is.
void TakePainter::preview() {
    painter_.save();
    const QRect hands = layout_.half(true);
    painter_.setClipRect(QRect(layout_.axis.left, hands.top(), layout_.axis.width, hands.height()),
                         Qt::IntersectClip);
    for (const LaneEdit& edit : hands_.previewed()) {
        for (const TakeRow& row : layout_.rows.rows()) {
            if (row.kind != TakeRow::Kind::hand ||
                layout_.rows.lanes().lanes[row.place].subject != edit.subject)
                continue;
            LaneLook look = layout_.lookOf(row);
            look.colour = theme().ink;
            look.filled = false;
            look.dashed = true;
            look.until = edit.to;
            drawSteps(painter_, layout_.areaOf(row), layout_.axis, PointSteps(edit.points), look);
        }
    }
    if (hands_.movesNotes()) {
        painter_.setPen(QPen(theme().ink, 1, Qt::DashLine));
        painter_.setBrush(Qt::NoBrush);
        for (const TakeRow& row : layout_.rows.rows()) {
            if (row.kind != TakeRow::Kind::notes) continue;
            for (const TakeNote& note : hands_.movedNotes().notes) {
                if (note.port == row.place)
                    painter_.drawRoundedRect(
                        noteRect(layout_.areaOf(row), layout_.axis, note, layout_.rows.keysOf(note.port)), 3,
                        3);
            }
        }
    }
    painter_.restore();
}

void TakePainter::playhead() {
    const std::int64_t time = work_.playing.position();
    const double x = layout_.axis.x(time);
    if (x < layout_.axis.left - 1 || x > layout_.axis.left + layout_.axis.width + 1) return;
    const bool records = work_.recording.isOn();
    painter_.save();
    painter_.setClipRegion(painter_.clipRegion().subtracted(layout_.band()));
    painter_.setPen(QPen(records ? theme().clay : theme().ink, 1.5));
    painter_.drawLine(QPointF(x, layout_.ruler().bottom() - scaled(8)), QPointF(x, layout_.size().height()));
    painter_.setPen(Qt::NoPen);
    painter_.setBrush(records ? theme().clay : theme().ink);
    painter_.drawEllipse(QPointF(x, layout_.ruler().bottom() - scaled(8)), scaled(4), scaled(4));
    for (const TakeRow& row : layout_.rows.rows()) {
        const auto value = layout_.valueOf(row, time);
        if (!value || row.folded) continue;
        const QRectF area = layout_.areaOf(row);
        const QPointF at(x, heightOf(area, layout_.lookOf(row), *value));
        if (!layout_.half(row.isAbove()).contains(at.toPoint())) continue;
        painter_.setPen(QPen(theme().ground, 1.5));
        if (row.kind == TakeRow::Kind::hand) {
            painter_.setBrush(theme().honey);
            painter_.drawEllipse(at, scaled(5), scaled(5));
        } else {
            painter_.setBrush(theme().mint);
            const double half = scaled(5);
            painter_.drawPolygon(
                QPolygonF({at + QPointF(-half, 0), at + QPointF(half, -half), at + QPointF(half, half)}));
        }
    }
    painter_.restore();
}

/// What stands under the pointer, in units.
void TakePainter::hover() {
    if (!hands_.pointer() || hands_.locates()) return;
    const TakeRow* row = layout_.rowAt(*hands_.pointer());
    if (row == nullptr || hands_.pointer()->x() < layout_.axis.left) return;
    const std::int64_t time = layout_.axis.time(hands_.pointer()->x());
    const QString value = layout_.valueText(*row, time);
    if (value.isEmpty()) return;
    const QString text = value + QStringLiteral("  ") + layout_.times.fine(time);
    const QFontMetrics metrics(numberFont());
    const int width = metrics.horizontalAdvance(text) + scaled(12);
    const int height = metrics.height() + scaled(4);
    int x = hands_.pointer()->x() + scaled(12);
    if (x + width > layout_.size().width()) x = hands_.pointer()->x() - width - scaled(8);
    const int y = std::max(layout_.body().top(), hands_.pointer()->y() - height - scaled(6));
    painter_.setPen(QPen(theme().line, 1));
    painter_.setBrush(theme().raised);
    painter_.drawRoundedRect(QRectF(x + 0.5, y + 0.5, width, height), 4, 4);
    painter_.setFont(numberFont());
    painter_.setPen(row->kind == TakeRow::Kind::result ? theme().mint : theme().honey);
    painter_.drawText(QRect(x, y, width, height), Qt::AlignCenter, text);
}

/// How many lanes a half has below what is seen of it.
void TakePainter::more() {
    painter_.setFont(captionFont());
    const QFontMetrics metrics(captionFont());
    for (const bool above : {true, false}) {
        const QRect half = layout_.half(above);
        int hidden = 0;
        for (const TakeRow& row : layout_.rows.rows()) {
            if (row.isAbove() == above && layout_.areaOf(row).center().y() > half.bottom()) ++hidden;
        }
        if (hidden == 0) continue;
        const QString text = tr("%n more lane(s) below", nullptr, hidden);
        const int wide = metrics.horizontalAdvance(text) + scaled(14);
        const QRect rect(half.right() - wide - scaled(12), half.bottom() - metrics.height() - scaled(6), wide,
                         metrics.height() + scaled(4));
        painter_.setPen(Qt::NoPen);
        painter_.setBrush(theme().raised);
        painter_.drawRoundedRect(rect, 4, 4);
        painter_.setPen(theme().dim);
        painter_.drawText(rect, Qt::AlignCenter, text);
    }
}

/// Why the lower half is empty.
void TakePainter::nothingBelow() {
    painter_.setFont(bodyFont());
    painter_.setPen(theme().dim);
    painter_.drawText(
        layout_.half(false), Qt::AlignCenter | Qt::TextWordWrap,
        tr("No chain that is shown here is moved by these hands. Choose another instrument on the band, "
           "or lead a control of the take to one on the Chains page."));
}

void TakePainter::empty() {
    painter_.setFont(titleFont());
    painter_.setPen(theme().ink);
    const bool lacks = !work_.choice.problem().isEmpty();
    const QString title = lacks                            ? tr("This take cannot be shown")
                          : work_.choice.kept() == nullptr ? tr("Nothing is recorded yet")
                                                           : tr("This take holds nothing");
    const QString text = lacks ? work_.choice.problem() + QLatin1Char('.')
                               : tr("Press Record (F3) and play, or play first and press Keep what was just "
                                    "played: the last ten minutes "
                                    "are always there. F8 brings the practice keys. A MIDI file that is "
                                    "dropped here becomes a take.");
    const int middle = layout_.size().height() / 2 - scaled(30);
    painter_.drawText(QRect(0, middle, layout_.size().width(), scaled(26)), Qt::AlignCenter, title);
    painter_.setFont(bodyFont());
    painter_.setPen(theme().dim);
    const int room = std::min(layout_.size().width() - scaled(40), scaled(560));
    painter_.drawText(QRect((layout_.size().width() - room) / 2, middle + scaled(32), room, scaled(120)),
                      Qt::AlignHCenter | Qt::AlignTop | Qt::TextWordWrap, text);
}

}  // namespace mellow::app
