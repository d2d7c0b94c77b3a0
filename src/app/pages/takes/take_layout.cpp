// A row's height is its share of its half, and what a person scrolled is taken from it.
#include "app/pages/takes/take_layout.h"

#include <QFontMetrics>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/takes/take_metrics.h"
#include "core/midi/names.h"
#include "core/model/law.h"

namespace mellow::app {

void TakeLayout::layOut(QSize size) {
    size_ = size;
    axis.left = scaled(take_metrics::gutter);
    axis.width = std::max(size.width() - axis.left - scaled(take_metrics::right), 10);
    placeBand();
    rows.layOut(half(true).height(), half(false).height());
    for (const bool above : {true, false}) scroll(above, 0);
}

bool TakeLayout::scroll(bool above, int pixels) {
    int& scroll = scrolls_[above ? 0 : 1];
    const int most = std::max(0, rows.height(above) - half(above).height());
    const int wanted = std::clamp(scroll + pixels, 0, most);
    return std::exchange(scroll, wanted) != wanted;
}

int TakeLayout::topOf(const TakeRow& row) const {
    return half(row.isAbove()).top() + row.y - scrolls_[row.isAbove() ? 0 : 1];
}

QRect TakeLayout::ruler() const {
    return {0, 0, size_.width(), scaled(take_metrics::ruler)};
}

QRect TakeLayout::body() const {
    const int top = scaled(take_metrics::ruler);
    return {0, top, size_.width(), size_.height() - top};
}

/// Each half has the share that its lanes want, unless a person has moved the band; neither is crowded out.
void TakeLayout::placeBand() {
    const int room = std::max(body().height() - scaled(take_metrics::band), 1);
    double share = split_;
    if (share < 0) {
        const double above = rows.leastHeight(true);
        constexpr double forWords = 0.2;
        const double below = std::max(static_cast<double>(rows.leastHeight(false)), room * forWords);
        constexpr double most = 0.4;
        // Of two crowded halves each has two fifths at least; one that wants less has what it wants.
        const double least = std::min(above / room, most);
        const double spare = std::min(below / room, most);
        share = above + below <= 0 ? 0.5 : std::clamp(above / (above + below), least, 1 - spare);
    }
    bandTop_ = body().top() + static_cast<int>(room * share);
}

void TakeLayout::moveBand(int y) {
    const int room = std::max(body().height() - scaled(take_metrics::band), 1);
    split_ = std::clamp(static_cast<double>(y - body().top()) / room, 0.1, 0.9);
}

QRect TakeLayout::half(bool above) const {
    const QRect all = body();
    if (above) return {0, all.top(), size_.width(), bandTop_ - all.top()};
    const int top = bandTop_ + scaled(take_metrics::band);
    return {0, top, size_.width(), all.bottom() + 1 - top};
}

QRect TakeLayout::band() const {
    if (rows.rows().empty()) return {};
    return {0, bandTop_, size_.width(), scaled(take_metrics::band)};
}

QRectF TakeLayout::areaOf(const TakeRow& row) const {
    const int pad = row.folded ? scaled(2) : scaled(5);
    const int top = topOf(row);
    return {static_cast<qreal>(axis.left), static_cast<qreal>(top + pad), static_cast<qreal>(axis.width),
            static_cast<qreal>(row.height - pad)};
}

QRect TakeLayout::laneRect(const std::string& key) const {
    const TakeRow* row = rows.row(key);
    if (row == nullptr) return {};
    const QRect rect = areaOf(*row).toRect();
    return half(row->isAbove()).intersects(rect) ? rect : QRect();
}

QRect TakeLayout::noteRectOf(std::size_t note) const {
    if (note >= rows.lanes().notes.size()) return {};
    const TakeNote& each = rows.lanes().notes[note];
    for (const TakeRow& row : rows.rows()) {
        if (row.kind == TakeRow::Kind::notes && row.place == each.port)
            return noteRect(areaOf(row), axis, each, rows.keysOf(each.port)).toAlignedRect();
    }
    return {};
}

LaneLook TakeLayout::lookOf(const TakeRow& row) const {
    LaneLook look;
    const bool isHand = row.kind == TakeRow::Kind::hand;
    look.colour = isHand ? theme().honey : theme().mint;
    look.most = isHand ? rows.lanes().lanes[row.place].highest : 1;
    look.until = rows.take().length;
    return look;
}

std::optional<double> TakeLayout::valueOf(const TakeRow& row, std::int64_t time) const {
    if (row.kind == TakeRow::Kind::hand) return rows.lanes().lanes[row.place].valueAt(rows.take(), time);
    if (row.kind != TakeRow::Kind::result) return std::nullopt;
    const ResultLane& lane = rows.results().lanes[row.place];
    const std::size_t last = lane.lastAt(time);
    return last < lane.values.size() ? std::optional<double>(lane.values[last]) : std::nullopt;
}

QString TakeLayout::textOf(const TakeRow& row, double value) const {
    if (row.kind == TakeRow::Kind::hand) {
        const TakeLane& lane = rows.lanes().lanes[row.place];
        if (lane.subject.about == Subject::About::osc) return QString::number(value, 'f', 3);
        if (lane.subject.about == Subject::About::bend) {
            const int bend = static_cast<int>(value) - midi::bendCentre;
            return (bend < 0 ? QStringLiteral("−") : QString()) + QString::number(std::abs(bend));
        }
        return QString::number(static_cast<int>(value));
    }
    const ResultLane& lane = rows.results().lanes[row.place];
    const Instrument* instrument = findById(document_.ensemble().instruments, lane.instrument);
    const Parameter* parameter =
        instrument == nullptr ? nullptr : findById(instrument->parameters, lane.parameter);
    return parameter == nullptr ? QString() : toQt(displayText(rangeOf(*parameter), value));
}

QString TakeLayout::valueText(const TakeRow& row, std::int64_t time) const {
    if (row.kind == TakeRow::Kind::notes) {
        std::vector<std::string> names;
        forEachNote(rows.lanes(), row.place, time, time, [&](std::size_t place) {
            names.push_back(midi::keyName(rows.lanes().notes[place].key));
            return names.size() < 4;
        });
        return joined(names);
    }
    const auto value = valueOf(row, time);
    return value ? textOf(row, *value) : QStringLiteral("–");
}

const TakeRow* TakeLayout::rowAt(const QPoint& at) const {
    for (const bool above : {true, false}) {
        const QRect its = half(above);
        if (its.contains(at)) return rows.at(above, at.y() - its.top() + scrolls_[above ? 0 : 1]);
    }
    return nullptr;
}

std::optional<std::size_t> TakeLayout::noteAt(const QPoint& at) const {
    const TakeRow* row = rowAt(at);
    if (row == nullptr || row->kind != TakeRow::Kind::notes || at.x() < axis.left) return std::nullopt;
    std::optional<std::size_t> found;
    const std::int64_t reach = static_cast<std::int64_t>(nearEdge * axis.microsPerPixel);
    const std::int64_t time = axis.time(at.x());
    const QRectF area = areaOf(*row);
    forEachNote(rows.lanes(), row->place, time - reach, time + reach, [&](std::size_t place) {
        const QRectF rect = noteRect(area, axis, rows.lanes().notes[place], rows.keysOf(row->place));
        if (rect.adjusted(-2, -3, 2, 3).contains(at)) found = place;
        return true;
    });
    return found;
}

double TakeLayout::valueAtHeight(const TakeRow& row, int y) const {
    const QRectF area = areaOf(row);
    const LaneLook look = lookOf(row);
    const double share = std::clamp((area.bottom() - y) / area.height(), 0.0, 1.0);
    return look.least + share * (look.most - look.least);
}

int TakeLayout::cueAt(const QPoint& at) const {
    const QFontMetrics small(captionFont());
    const auto all = cues();
    for (std::size_t i = all.size(); i > 0; --i) {
        const double x = axis.x(all[i - 1].time);
        const int width = small.horizontalAdvance(toQt(all[i - 1].body)) + scaled(12);
        if (QRectF(x, scaled(2), width, small.height() + scaled(3)).contains(at))
            return static_cast<int>(i) - 1;
    }
    return -1;
}

std::vector<TakeMark> TakeLayout::cues() const {
    std::vector<TakeMark> found;
    for (const TakeMark& mark : rows.take().marks) {
        if (mark.isCue()) found.push_back(mark);
    }
    return found;
}

}  // namespace mellow::app
