// Geometry and painting. What pressing and dragging do is in take_hands.cpp.
#include "app/pages/takes/take_view.h"

#include <QPaintEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/takes/take_metrics.h"
#include "core/midi/names.h"
#include "core/model/law.h"

namespace mellow::app {

TakeView::TakeView(Workspace& workspace, QWidget* parent)
    : QWidget(parent), workspace_(workspace), work_(workspace.takes) {
    setObjectName(QStringLiteral("takeView"));
    setAccessibleName(tr("Take"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAttribute(Qt::WA_AcceptTouchEvents);
    grabGesture(Qt::PinchGesture);
    connect(&work_.choice, &TakeChoice::takeChanged, this, &TakeView::followTake);
    connect(&work_.choice, &TakeChoice::choiceChanged, this, &TakeView::dirty);
    connect(&work_.playing, &TakePlaying::moved, this, &TakeView::movePlayhead);
    connect(&workspace_.document, &Document::changed, this, &TakeView::follow);
    followTake();
}

QRect TakeView::rulerRect() const {
    return {0, 0, width(), scaled(take_metrics::ruler)};
}

QRect TakeView::bodyRect() const {
    const int top = scaled(take_metrics::ruler);
    return {0, top, width(), height() - top};
}

/// Names and ranges may be others after an edit of the document.
void TakeView::follow() {
    // What nobody sees is not read.
    if (!isVisible()) return;
    const Ensemble& ensemble = workspace_.document.ensemble();
    rows_.setHands(ensemble, work_.choice.take(), work_.choice.lanes());
    layOut();
}

void TakeView::followTake() {
    if (!isVisible()) return;
    const KeptTake* kept = work_.choice.kept();
    const std::string id = work_.choice.isLive() && !work_.playing.isPlaying() ? std::string("\n")
                           : kept == nullptr                                   ? std::string()
                                                                               : kept->id;
    const bool another = std::exchange(shownTake_, id) != id;
    times_.set(*work_.choice.take(), unit_, frameRate_);
    preview_.clear();
    drag_ = Drag::none;
    if (another) rows_.setResults(workspace_.document.ensemble(), std::make_shared<const Results>());
    follow();
    // A recording grows, and all of it is seen.
    if (another || id == "\n") fit();
}

void TakeView::showResults(std::shared_ptr<const Results> results) {
    rows_.setResults(workspace_.document.ensemble(), std::move(results));
    layOut();
}

void TakeView::showThen(std::shared_ptr<const Results> then) {
    then_ = std::move(then);
    thenPeaks_.clear();
    if (then_) {
        for (const ResultLane& lane : then_->lanes) thenPeaks_.emplace_back(lane.values);
    }
    dirty();
}

/// Each half has the share that its lanes want, unless a person has moved the band; neither is crowded out.
void TakeView::placeBand() {
    const int room = std::max(bodyRect().height() - scaled(take_metrics::band), 1);
    double share = split_;
    if (share < 0) {
        const double above = rows_.leastHeight(true);
        constexpr double forWords = 0.2;
        const double below = std::max(static_cast<double>(rows_.leastHeight(false)), room * forWords);
        constexpr double most = 0.4;
        // Of two crowded halves each has two fifths at least; one that wants less has what it wants.
        const double least = std::min(above / room, most);
        const double spare = std::min(below / room, most);
        share = above + below <= 0 ? 0.5 : std::clamp(above / (above + below), least, 1 - spare);
    }
    bandTop_ = bodyRect().top() + static_cast<int>(room * share);
}

void TakeView::moveBand(int y) {
    const int room = std::max(bodyRect().height() - scaled(take_metrics::band), 1);
    split_ = std::clamp(static_cast<double>(y - bodyRect().top()) / room, 0.1, 0.9);
    layOut();
}

QRect TakeView::halfRect(bool above) const {
    const QRect body = bodyRect();
    if (above) return {0, body.top(), width(), bandTop_ - body.top()};
    const int top = bandTop_ + scaled(take_metrics::band);
    return {0, top, width(), body.bottom() + 1 - top};
}

void TakeView::layOut() {
    axis_.left = scaled(take_metrics::gutter);
    axis_.width = std::max(width() - axis_.left - scaled(take_metrics::right), 10);
    placeBand();
    rows_.layOut(halfRect(true).height(), halfRect(false).height());
    for (const bool above : {true, false}) {
        int& scroll = scrolls_[above ? 0 : 1];
        scroll = std::clamp(scroll, 0, std::max(0, rows_.height(above) - halfRect(above).height()));
    }
    dirty();
    emit bandMoved();
}

void TakeView::dirty() {
    stale_ = true;
    update();
}

void TakeView::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    followTake();
}

void TakeView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    const double end = axis_.end();
    const int before = axis_.width;
    layOut();
    if (before > 10) axis_.show(axis_.begin, end);
    emit axisChanged();
}

void TakeView::changeEvent(QEvent* event) {
    QWidget::changeEvent(event);
    if (event->type() == QEvent::StyleChange || event->type() == QEvent::FontChange ||
        event->type() == QEvent::PaletteChange)
        layOut();
}

void TakeView::setAxis(const TimeAxis& axis) {
    TimeAxis wanted = axis;
    wanted.left = axis_.left;
    wanted.width = axis_.width;
    wanted.keepWithin(work_.choice.take()->length);
    if (wanted == axis_) return;
    axis_ = wanted;
    dirty();
    emit axisChanged();
}

void TakeView::zoom(double factor) {
    TimeAxis axis = axis_;
    const double playhead = axis.x(work_.playing.position());
    const bool seen = playhead >= axis.left && playhead <= axis.left + axis.width;
    axis.zoom(factor, seen ? playhead : axis.left + axis.width / 2.0);
    setAxis(axis);
}

void TakeView::fit() {
    TimeAxis axis = axis_;
    const auto length = static_cast<double>(std::max<std::int64_t>(work_.choice.take()->length, 1'000'000));
    axis.show(-length * 0.01, length * 1.02);
    setAxis(axis);
}

void TakeView::fitSelection() {
    const TimeSpan span = work_.choice.span();
    if (span.empty()) return fit();
    TimeAxis axis = axis_;
    const auto spare = static_cast<double>(span.to - span.from) * 0.08;
    axis.show(static_cast<double>(span.from) - spare, static_cast<double>(span.to) + spare);
    setAxis(axis);
}

void TakeView::setOrder(LaneOrder order) {
    rows_.setOrder(order);
    layOut();
}
void TakeView::foldAll(bool folded) {
    rows_.foldAll(folded);
    layOut();
}
void TakeView::fold(const std::string& key, bool folded) {
    rows_.fold(key, folded);
    layOut();
}
void TakeView::pin(const std::string& key, bool pinned) {
    rows_.pin(key, pinned);
    layOut();
}

void TakeView::setUnit(TimeUnit unit, double frameRate) {
    unit_ = unit;
    frameRate_ = frameRate;
    times_.set(*work_.choice.take(), unit, frameRate);
    update();
}

void TakeView::setTool(TakeTool tool) {
    tool_ = tool;
    setCursor(tool == TakeTool::choose ? Qt::ArrowCursor : Qt::CrossCursor);
}

void TakeView::preview(std::vector<LaneEdit> edits) {
    preview_ = std::move(edits);
    update();
}

QRectF TakeView::areaOf(const TakeRow& row) const {
    const int pad = row.folded ? scaled(2) : scaled(5);
    const int top = halfRect(row.isAbove()).top() + row.y - scrolls_[row.isAbove() ? 0 : 1];
    return {static_cast<qreal>(axis_.left), static_cast<qreal>(top + pad), static_cast<qreal>(axis_.width),
            static_cast<qreal>(row.height - pad)};
}

QRect TakeView::laneRect(const std::string& key) const {
    const TakeRow* row = rows_.row(key);
    if (row == nullptr) return {};
    const QRect rect = areaOf(*row).toRect();
    return halfRect(row->isAbove()).intersects(rect) ? rect : QRect();
}

QRect TakeView::bandRect() const {
    if (rows_.rows().empty()) return {};
    return {0, bandTop_, width(), scaled(take_metrics::band)};
}

QRect TakeView::noteRectOf(std::size_t note) const {
    if (note >= rows_.lanes().notes.size()) return {};
    const TakeNote& each = rows_.lanes().notes[note];
    for (const TakeRow& row : rows_.rows()) {
        if (row.kind == TakeRow::Kind::notes && row.place == each.port)
            return noteRect(areaOf(row), axis_, each, rows_.keysOf(each.port)).toAlignedRect();
    }
    return {};
}

LaneLook TakeView::lookOf(const TakeRow& row) const {
    LaneLook look;
    const bool isHand = row.kind == TakeRow::Kind::hand;
    look.colour = isHand ? theme().honey : theme().mint;
    look.most = isHand ? rows_.lanes().lanes[row.place].highest : 1;
    look.until = rows_.take().length;
    return look;
}

std::optional<double> TakeView::valueOf(const TakeRow& row, std::int64_t time) const {
    if (row.kind == TakeRow::Kind::hand) return rows_.lanes().lanes[row.place].valueAt(rows_.take(), time);
    if (row.kind != TakeRow::Kind::result) return std::nullopt;
    const ResultLane& lane = rows_.results().lanes[row.place];
    const std::size_t last = lane.lastAt(time);
    return last < lane.values.size() ? std::optional<double>(lane.values[last]) : std::nullopt;
}

QString TakeView::textOf(const TakeRow& row, double value) const {
    if (row.kind == TakeRow::Kind::hand) {
        const TakeLane& lane = rows_.lanes().lanes[row.place];
        if (lane.subject.about == Subject::About::osc) return QString::number(value, 'f', 3);
        if (lane.subject.about == Subject::About::bend) {
            const int bend = static_cast<int>(value) - midi::bendCentre;
            return (bend < 0 ? QStringLiteral("−") : QString()) + QString::number(std::abs(bend));
        }
        return QString::number(static_cast<int>(value));
    }
    const ResultLane& lane = rows_.results().lanes[row.place];
    const Instrument* instrument = findById(workspace_.document.ensemble().instruments, lane.instrument);
    const Parameter* parameter =
        instrument == nullptr ? nullptr : findById(instrument->parameters, lane.parameter);
    return parameter == nullptr ? QString() : toQt(displayText(rangeOf(*parameter), value));
}

QString TakeView::valueText(const TakeRow& row, std::int64_t time) const {
    if (row.kind == TakeRow::Kind::notes) {
        std::vector<std::string> names;
        forEachNote(rows_.lanes(), row.place, time, time, [&](std::size_t place) {
            names.push_back(midi::keyName(rows_.lanes().notes[place].key));
            return names.size() < 4;
        });
        return joined(names);
    }
    const auto value = valueOf(row, time);
    return value ? textOf(row, *value) : QStringLiteral("–");
}

// Painting.

void TakeView::paintEvent(QPaintEvent* event) {
    if (stale_) paintPicture();
    QPainter painter(this);
    painter.setClipRegion(event->region());
    painter.drawPixmap(0, 0, picture_);
    painter.setRenderHint(QPainter::Antialiasing);
    if (rows_.rows().empty()) {
        paintEmpty(painter);
        return;
    }
    paintSelection(painter);
    paintPreview(painter);
    const std::int64_t time = work_.playing.position();
    for (const TakeRow& row : rows_.rows()) paintGutter(painter, row, time);
    paintPlayhead(painter);
    paintMore(painter);
    if (rows_.results().lanes.empty()) paintNothingBelow(painter);
    paintHover(painter);
}

/// Why the lower half is empty.
void TakeView::paintNothingBelow(QPainter& painter) {
    painter.setFont(bodyFont());
    painter.setPen(theme().dim);
    painter.drawText(
        halfRect(false), Qt::AlignCenter | Qt::TextWordWrap,
        tr("No chain that is shown here is moved by these hands. Choose another instrument on the band, "
           "or lead a control of the take to one on the Chains page."));
}

/// How many lanes a half has below what is seen of it.
void TakeView::paintMore(QPainter& painter) {
    painter.setFont(captionFont());
    const QFontMetrics metrics(captionFont());
    for (const bool above : {true, false}) {
        const QRect half = halfRect(above);
        int hidden = 0;
        for (const TakeRow& row : rows_.rows()) {
            if (row.isAbove() == above && areaOf(row).center().y() > half.bottom()) ++hidden;
        }
        if (hidden == 0) continue;
        const QString text = tr("%n more lane(s) below", nullptr, hidden);
        const int wide = metrics.horizontalAdvance(text) + scaled(14);
        const QRect rect(half.right() - wide - scaled(12), half.bottom() - metrics.height() - scaled(6), wide,
                         metrics.height() + scaled(4));
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme().raised);
        painter.drawRoundedRect(rect, 4, 4);
        painter.setPen(theme().dim);
        painter.drawText(rect, Qt::AlignCenter, text);
    }
}

void TakeView::paintPicture() {
    stale_ = false;
    const qreal ratio = devicePixelRatioF();
    const QSize wanted = (QSizeF(size()) * ratio).toSize();
    if (picture_.size() != wanted) picture_ = QPixmap(wanted);
    picture_.setDevicePixelRatio(ratio);
    picture_.fill(theme().ground);
    QPainter painter(&picture_);
    painter.setRenderHint(QPainter::Antialiasing);
    for (const TakeRow& row : rows_.rows()) {
        if (areaOf(row).intersects(halfRect(row.isAbove()))) paintRow(painter, row);
    }
    if (!rows_.rows().empty()) paintBand(painter);
    paintRuler(painter);
}

void TakeView::paintRow(QPainter& painter, const TakeRow& row) {
    const QRectF area = areaOf(row);
    painter.save();
    painter.setClipRect(area.adjusted(-1, -2, 1, 2).intersected(halfRect(row.isAbove())));
    painter.fillRect(QRectF(area.left(), area.bottom(), area.width(), 1),
                     blend(theme().ground, theme().line, 0.6));
    switch (row.kind) {
        case TakeRow::Kind::notes:
            drawNotes(painter, area, axis_, rows_.lanes(), row.place, rows_.keysOf(row.place),
                      work_.choice.chosenNotes());
            break;
        case TakeRow::Kind::hand: {
            const TakeLane& lane = rows_.lanes().lanes[row.place];
            drawSteps(painter, area, axis_, HandSteps(rows_.take(), lane, rows_.handPeaks(row.place)),
                      lookOf(row));
            break;
        }
        case TakeRow::Kind::result: {
            const ResultLane& lane = rows_.results().lanes[row.place];
            if (then_) {
                for (std::size_t i = 0; i < then_->lanes.size(); ++i) {
                    const ResultLane& was = then_->lanes[i];
                    if (was.instrument != lane.instrument || was.parameter != lane.parameter) continue;
                    LaneLook look = lookOf(row);
                    look.colour = theme().dim;
                    look.filled = false;
                    look.dashed = true;
                    drawSteps(painter, area, axis_, ResultSteps(was, thenPeaks_[i]), look);
                }
            }
            drawSteps(painter, area, axis_, ResultSteps(lane, rows_.resultPeaks(row.place)), lookOf(row));
            break;
        }
    }
    painter.restore();
}

/// What stands left of a lane: its name, how it is said, and where it is now.
void TakeView::paintGutter(QPainter& painter, const TakeRow& row, std::int64_t time) {
    const QRect half = halfRect(row.isAbove());
    const int top = half.top() + row.y - scrolls_[row.isAbove() ? 0 : 1];
    if (top + row.height < half.top() || top > half.bottom()) return;
    painter.save();
    painter.setClipRect(QRect(0, half.top(), axis_.left, half.height()), Qt::IntersectClip);
    const bool isChosen = row.kind == TakeRow::Kind::hand &&
                          work_.choice.chosenLanes().contains(rows_.lanes().lanes[row.place].subject);
    if (isChosen) painter.fillRect(QRect(0, top, scaled(3), row.height), theme().sky);
    const int left = scaled(14);
    const int right = axis_.left - scaled(12);
    const QFontMetrics body(bodyFont());
    const QFontMetrics small(captionFont());
    const QFontMetrics numbers(numberFont());
    const QString value = valueText(row, time);
    const int valueWidth = numbers.horizontalAdvance(value);
    const bool oneLine = row.folded || row.height < body.height() + small.height() + scaled(4);
    painter.setFont(bodyFont());
    painter.setPen(isChosen ? theme().sky : theme().ink);
    QString name = row.name;
    if (row.pinned) name += QStringLiteral(" ·");
    const int nameRoom = right - left - (oneLine ? valueWidth + scaled(8) : 0);
    painter.drawText(
        QRect(left, top + (oneLine ? 0 : scaled(3)), nameRoom, oneLine ? row.height : body.height()),
        Qt::AlignLeft | Qt::AlignVCenter, body.elidedText(name, Qt::ElideRight, nameRoom));
    if (!oneLine) {
        painter.setFont(captionFont());
        painter.setPen(theme().dim);
        const int second = top + scaled(3) + body.height();
        const bool valueBelow = row.height >= body.height() + small.height() + numbers.height();
        const int room = right - left - (valueBelow ? 0 : valueWidth + scaled(8));
        painter.drawText(QRect(left, second, room, small.height()), Qt::AlignLeft | Qt::AlignVCenter,
                         small.elidedText(row.about, Qt::ElideRight, room));
    }
    painter.setFont(numberFont());
    painter.setPen(row.kind == TakeRow::Kind::result ? theme().mint : theme().honey);
    const int valueHeight = numbers.height();
    const QRect valueRect =
        oneLine ? QRect(left, top, right - left, row.height)
                : QRect(left, top + row.height - valueHeight - scaled(1), right - left, valueHeight);
    painter.drawText(valueRect, Qt::AlignRight | Qt::AlignVCenter, value);
    painter.restore();
}

void TakeView::paintRuler(QPainter& painter) {
    const QRect rect = rulerRect();
    painter.fillRect(rect, theme().ground);
    const QFontMetrics metrics(numberFont());
    const double apart = metrics.horizontalAdvance(QStringLiteral("00:00:00:00")) + scaled(24);
    painter.setClipRect(QRect(axis_.left, 0, axis_.width + scaled(take_metrics::right), height()));
    painter.setFont(numberFont());
    const int foot = rect.bottom();
    const auto ticks = times_.ticks(axis_.begin, axis_.end(), apart * axis_.microsPerPixel);
    for (const TimeText::Tick& tick : ticks) {
        const double x = axis_.x(tick.time);
        const bool large = !tick.label.isEmpty();
        painter.setPen(QPen(blend(theme().ground, theme().dim, large ? 0.9 : 0.45), 1));
        painter.drawLine(QPointF(x, foot - (large ? scaled(12) : scaled(6))), QPointF(x, foot));
        if (!large) continue;
        painter.setPen(theme().dim);
        painter.drawText(QPointF(x + scaled(4), foot - scaled(4)), tick.label);
    }
    const QFontMetrics small(captionFont());
    painter.setFont(captionFont());
    for (const TakeMark& cue : cues()) {
        const double x = axis_.x(cue.time);
        const QString name = toQt(cue.body);
        const QRectF label(x, scaled(2), small.horizontalAdvance(name) + scaled(12),
                           small.height() + scaled(3));
        if (label.right() < axis_.left || label.left() > axis_.left + axis_.width) continue;
        painter.setPen(QPen(theme().line, 1, Qt::DotLine));
        painter.drawLine(QPointF(x, label.bottom()), QPointF(x, height()));
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme().raised);
        painter.drawRoundedRect(label, 3, 3);
        painter.setPen(theme().sky);
        painter.drawText(label, Qt::AlignCenter, name);
    }
    painter.setClipping(false);
}

/// Which chains are in force; buttons of the page stand on its right.
void TakeView::paintBand(QPainter& painter) {
    const QRect rect = bandRect();
    painter.fillRect(rect, theme().raised);
    const int middle = rect.center().y();
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().honey);
    painter.drawEllipse(QPointF(scaled(20), middle + 0.5), scaled(5), scaled(5));
    painter.setBrush(theme().mint);
    const double x = scaled(32);
    const double half = scaled(5);
    painter.drawPolygon(QPolygonF(
        {{x, middle + 0.5}, {x + 2 * half, middle - half + 0.5}, {x + 2 * half, middle + half + 0.5}}));
}

void TakeView::paintSelection(QPainter& painter) {
    const TimeSpan& span = work_.choice.span();
    painter.save();
    painter.setClipRect(QRect(axis_.left, rulerRect().bottom(), axis_.width, height()), Qt::IntersectClip);
    if (!span.empty()) {
        const double left = axis_.x(span.from);
        const double right = axis_.x(span.to);
        QColor fill = theme().sky;
        for (const TakeRow& row : rows_.rows()) {
            const bool isChosen = row.kind == TakeRow::Kind::hand &&
                                  work_.choice.chosenLanes().contains(rows_.lanes().lanes[row.place].subject);
            fill.setAlpha(isChosen ? 44 : 20);
            const QRectF area = areaOf(row);
            const QRectF lane(left, area.top() - scaled(5), right - left, area.height() + scaled(9));
            painter.fillRect(lane.intersected(halfRect(row.isAbove())), fill);
        }
        painter.setClipRegion(painter.clipRegion().subtracted(bandRect()));
        painter.setPen(QPen(theme().sky, 1));
        for (const double x : {left, right})
            painter.drawLine(QPointF(std::round(x) + 0.5, rulerRect().bottom()),
                             QPointF(std::round(x) + 0.5, height()));
    }
    painter.restore();
}

/// Edits that may be made, as a faint line over what is.
void TakeView::paintPreview(QPainter& painter) {
    painter.save();
    const QRect hands = halfRect(true);
    painter.setClipRect(QRect(axis_.left, hands.top(), axis_.width, hands.height()), Qt::IntersectClip);
    for (const LaneEdit& edit : preview_) {
        for (const TakeRow& row : rows_.rows()) {
            if (row.kind != TakeRow::Kind::hand || rows_.lanes().lanes[row.place].subject != edit.subject)
                continue;
            LaneLook look = lookOf(row);
            look.colour = theme().ink;
            look.filled = false;
            look.dashed = true;
            look.until = edit.to;
            drawSteps(painter, areaOf(row), axis_, PointSteps(edit.points), look);
        }
    }
    if (drag_ == Drag::notes || drag_ == Drag::noteEnds || drag_ == Drag::loudness) {
        painter.setPen(QPen(theme().ink, 1, Qt::DashLine));
        painter.setBrush(Qt::NoBrush);
        for (const TakeRow& row : rows_.rows()) {
            if (row.kind != TakeRow::Kind::notes) continue;
            for (const TakeNote& note : movedNotes_.notes) {
                if (note.port == row.place)
                    painter.drawRoundedRect(noteRect(areaOf(row), axis_, note, rows_.keysOf(note.port)), 3,
                                            3);
            }
        }
    }
    painter.restore();
}

void TakeView::paintPlayhead(QPainter& painter) {
    const std::int64_t time = work_.playing.position();
    shownPlayhead_ = time;
    const double x = axis_.x(time);
    if (x < axis_.left - 1 || x > axis_.left + axis_.width + 1) return;
    const bool records = work_.recording.isOn();
    painter.save();
    painter.setClipRegion(painter.clipRegion().subtracted(bandRect()));
    painter.setPen(QPen(records ? theme().clay : theme().ink, 1.5));
    painter.drawLine(QPointF(x, rulerRect().bottom() - scaled(8)), QPointF(x, height()));
    painter.setPen(Qt::NoPen);
    painter.setBrush(records ? theme().clay : theme().ink);
    painter.drawEllipse(QPointF(x, rulerRect().bottom() - scaled(8)), scaled(4), scaled(4));
    for (const TakeRow& row : rows_.rows()) {
        const auto value = valueOf(row, time);
        if (!value || row.folded) continue;
        const QRectF area = areaOf(row);
        const QPointF at(x, heightOf(area, lookOf(row), *value));
        if (!halfRect(row.isAbove()).contains(at.toPoint())) continue;
        painter.setPen(QPen(theme().ground, 1.5));
        if (row.kind == TakeRow::Kind::hand) {
            painter.setBrush(theme().honey);
            painter.drawEllipse(at, scaled(5), scaled(5));
        } else {
            painter.setBrush(theme().mint);
            const double half = scaled(5);
            painter.drawPolygon(
                QPolygonF({at + QPointF(-half, 0), at + QPointF(half, -half), at + QPointF(half, half)}));
        }
    }
    painter.restore();
}

/// What stands under the pointer, in units.
void TakeView::paintHover(QPainter& painter) {
    if (!pointer_ || drag_ == Drag::playhead) return;
    const TakeRow* row = rowAt(*pointer_);
    if (row == nullptr || pointer_->x() < axis_.left) return;
    const std::int64_t time = axis_.time(pointer_->x());
    const QString value = valueText(*row, time);
    if (value.isEmpty()) return;
    const QString text = value + QStringLiteral("  ") + times_.fine(time);
    const QFontMetrics metrics(numberFont());
    const int width = metrics.horizontalAdvance(text) + scaled(12);
    const int height = metrics.height() + scaled(4);
    int x = pointer_->x() + scaled(12);
    if (x + width > this->width()) x = pointer_->x() - width - scaled(8);
    const int y = std::max(bodyRect().top(), pointer_->y() - height - scaled(6));
    painter.setPen(QPen(theme().line, 1));
    painter.setBrush(theme().raised);
    painter.drawRoundedRect(QRectF(x + 0.5, y + 0.5, width, height), 4, 4);
    painter.setFont(numberFont());
    painter.setPen(row->kind == TakeRow::Kind::result ? theme().mint : theme().honey);
    painter.drawText(QRect(x, y, width, height), Qt::AlignCenter, text);
}

void TakeView::paintEmpty(QPainter& painter) {
    painter.setFont(titleFont());
    painter.setPen(theme().ink);
    const bool lacks = !work_.choice.problem().isEmpty();
    const QString title = lacks                            ? tr("This take cannot be shown")
                          : work_.choice.kept() == nullptr ? tr("Nothing is recorded yet")
                                                           : tr("This take holds nothing");
    const QString text = lacks ? work_.choice.problem() + QLatin1Char('.')
                               : tr("Press Record (F3) and play, or play first and press Keep what was just "
                                    "played: the last ten minutes "
                                    "are always there. F8 brings the practice keys. A MIDI file that is "
                                    "dropped here becomes a take.");
    const int middle = height() / 2 - scaled(30);
    painter.drawText(QRect(0, middle, width(), scaled(26)), Qt::AlignCenter, title);
    painter.setFont(bodyFont());
    painter.setPen(theme().dim);
    const int room = std::min(width() - scaled(40), scaled(560));
    painter.drawText(QRect((width() - room) / 2, middle + scaled(32), room, scaled(120)),
                     Qt::AlignHCenter | Qt::AlignTop | Qt::TextWordWrap, text);
}

void TakeView::movePlayhead() {
    keepPlayheadSeen();
    const std::int64_t time = work_.playing.position();
    if (time == shownPlayhead_ && !work_.recording.isOn()) return;
    const int reach = scaled(10);
    for (const std::int64_t each : {shownPlayhead_, time}) {
        const auto x = static_cast<int>(axis_.x(each));
        update(QRect(x - reach, 0, 2 * reach, height()));
    }
    update(QRect(0, 0, axis_.left, height()));
}

/// A page on, when playing leaves what is seen.
void TakeView::keepPlayheadSeen() {
    if (!work_.playing.isPlaying() || drag_ != Drag::none) return;
    const double x = axis_.x(work_.playing.position());
    if (x >= axis_.left && x <= axis_.left + axis_.width * 0.96) return;
    TimeAxis axis = axis_;
    axis.begin = static_cast<double>(work_.playing.position()) - axis.width * 0.08 * axis.microsPerPixel;
    setAxis(axis);
}

double TakeView::spokenValue() const {
    return static_cast<double>(work_.playing.position()) / 1e6;
}
double TakeView::spokenHigh() const {
    return static_cast<double>(work_.choice.take()->length) / 1e6;
}
QString TakeView::spokenWords() const {
    return times_.fine(work_.playing.position());
}
void TakeView::setSpokenValue(double seconds) {
    work_.playing.locate(std::llround(seconds * 1e6));
}

}  // namespace mellow::app
