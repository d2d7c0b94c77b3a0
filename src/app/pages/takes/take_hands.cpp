// What hands do to the picture: the wheel and two fingers move it, a press in the ruler is the playhead, in a
// lane it chooses or draws, on a note it takes hold of that.
#include <QContextMenuEvent>
#include <QGestureEvent>
#include <QHelpEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QNativeGestureEvent>
#include <QPinchGesture>
#include <QToolTip>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/takes/take_metrics.h"
#include "app/pages/takes/take_view.h"

namespace mellow::app {

namespace {

constexpr double wheelZoom = 1.25;  // a notch
constexpr int notch = 120;
constexpr int nearEdge = 5;  // pixels

}  // namespace

// Moving over it.

void TakeView::scrollBy(double pixels) {
    TimeAxis axis = axis_;
    axis.begin += pixels * axis.microsPerPixel;
    setAxis(axis);
}

void TakeView::scrollRows(bool above, int pixels) {
    int& scroll = scrolls_[above ? 0 : 1];
    const int most = std::max(0, rows_.height(above) - halfRect(above).height());
    const int wanted = std::clamp(scroll + pixels, 0, most);
    if (std::exchange(scroll, wanted) != wanted) dirty();
}

void TakeView::scrollBoth(int pixels) {
    scrollRows(true, pixels);
    scrollRows(false, pixels);
}

void TakeView::wheelEvent(QWheelEvent* event) {
    const QPoint fine = event->pixelDelta();
    const QPoint coarse = event->angleDelta();
    const double across = !fine.isNull() ? fine.x() : coarse.x() * 0.5;
    const double along = !fine.isNull() ? fine.y() : coarse.y() * 0.5;
    event->accept();
    if ((event->modifiers() & Qt::ControlModifier) != 0) {
        TimeAxis axis = axis_;
        axis.zoom(std::pow(wheelZoom, -coarse.y() / static_cast<double>(notch)), event->position().x());
        return setAxis(axis);
    }
    if ((event->modifiers() & Qt::ShiftModifier) != 0) return scrollBy(-(along + across));
    const bool above = event->position().y() < bandTop_;
    const bool overflows = rows_.height(above) > halfRect(above).height();
    if (std::abs(across) > std::abs(along)) return scrollBy(-across);
    // Where all lanes are seen there is nothing to scroll but time.
    if (overflows && event->position().y() > rulerRect().bottom()) {
        scrollRows(above, static_cast<int>(-along));
    } else {
        scrollBy(-along);
    }
}

bool TakeView::event(QEvent* event) {
    if (event->type() == QEvent::NativeGesture) {
        auto* gesture = static_cast<QNativeGestureEvent*>(event);
        if (gesture->gestureType() != Qt::ZoomNativeGesture) return QWidget::event(event);
        TimeAxis axis = axis_;
        axis.zoom(1 / (1 + gesture->value()), gesture->position().x());
        setAxis(axis);
        return true;
    }
    if (event->type() == QEvent::Gesture) {
        auto* gestures = static_cast<QGestureEvent*>(event);
        if (auto* pinch = static_cast<QPinchGesture*>(gestures->gesture(Qt::PinchGesture))) {
            TimeAxis axis = axis_;
            if (pinch->scaleFactor() > 0)
                axis.zoom(1 / pinch->scaleFactor(), mapFromGlobal(pinch->centerPoint().toPoint()).x());
            axis.begin -= (pinch->centerPoint().x() - pinch->lastCenterPoint().x()) * axis.microsPerPixel;
            setAxis(axis);
            return true;
        }
    }
    if (event->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(event);
        const TakeRow* row = rowAt(help->pos());
        if (row != nullptr && help->pos().x() < axis_.left) {
            QToolTip::showText(
                help->globalPos(),
                tr("%1, %2. Click to choose it, double-click to fold it.").arg(row->name, row->about), this);
        } else {
            QToolTip::hideText();
        }
        return true;
    }
    return QWidget::event(event);
}

void TakeView::keyPressEvent(QKeyEvent* event) {
    const bool fine = (event->modifiers() & Qt::ShiftModifier) != 0;
    const bool far = (event->modifiers() & Qt::ControlModifier) != 0;
    constexpr double usual = 20;  // pixels
    const double pixels = fine ? 1 : usual;
    const auto step = static_cast<std::int64_t>(pixels * axis_.microsPerPixel);
    switch (event->key()) {
        case Qt::Key_Left:
            return far ? goToCue(-1) : work_.playing.locate(work_.playing.position() - step);
        case Qt::Key_Right:
            return far ? goToCue(1) : work_.playing.locate(work_.playing.position() + step);
        case Qt::Key_Up:
            return scrollBoth(-scaled(40));
        case Qt::Key_Down:
            return scrollBoth(scaled(40));
        case Qt::Key_Home:
            return work_.playing.locate(0);
        case Qt::Key_End:
            return work_.playing.locate(work_.choice.take()->length);
        case Qt::Key_Plus:
        case Qt::Key_Equal:
            return zoom(1 / wheelZoom);
        case Qt::Key_Minus:
            return zoom(wheelZoom);
        default:
            QWidget::keyPressEvent(event);
    }
}

std::vector<TakeMark> TakeView::cues() const {
    std::vector<TakeMark> found;
    for (const TakeMark& mark : work_.choice.take()->marks) {
        if (mark.isCue()) found.push_back(mark);
    }
    return found;
}

void TakeView::goToCue(int by) {
    const auto all = cues();
    const std::int64_t now = work_.playing.position();
    std::int64_t to = by < 0 ? 0 : work_.choice.take()->length;
    if (by < 0) {
        for (const TakeMark& cue : all) {
            if (cue.time < now) to = cue.time;
        }
    } else {
        for (auto cue = all.rbegin(); cue != all.rend(); ++cue) {
            if (cue->time > now) to = cue->time;
        }
    }
    work_.playing.locate(to);
    const double x = axis_.x(to);
    if (x < axis_.left || x > axis_.left + axis_.width) scrollBy(x - axis_.left - axis_.width / 3.0);
}

void TakeView::selectAll() {
    std::set<Subject> all;
    for (const TakeLane& lane : rows_.lanes().lanes) all.insert(lane.subject);
    work_.choice.chooseLanes(std::move(all));
    work_.choice.setSpan({0, work_.choice.take()->length + 1});
}

// Finding what is under a point.

const TakeRow* TakeView::rowAt(const QPoint& at) const {
    for (const bool above : {true, false}) {
        const QRect half = halfRect(above);
        if (half.contains(at)) return rows_.at(above, at.y() - half.top() + scrolls_[above ? 0 : 1]);
    }
    return nullptr;
}

std::optional<std::size_t> TakeView::noteAt(const QPoint& at) const {
    const TakeRow* row = rowAt(at);
    if (row == nullptr || row->kind != TakeRow::Kind::notes || at.x() < axis_.left) return std::nullopt;
    std::optional<std::size_t> found;
    const std::int64_t reach = static_cast<std::int64_t>(nearEdge * axis_.microsPerPixel);
    const std::int64_t time = axis_.time(at.x());
    const QRectF area = areaOf(*row);
    forEachNote(rows_.lanes(), row->place, time - reach, time + reach, [&](std::size_t place) {
        const QRectF rect = noteRect(area, axis_, rows_.lanes().notes[place], rows_.keysOf(row->place));
        if (rect.adjusted(-2, -3, 2, 3).contains(at)) found = place;
        return true;
    });
    return found;
}

int TakeView::cueAt(const QPoint& at) const {
    const QFontMetrics small(captionFont());
    const auto all = cues();
    for (std::size_t i = all.size(); i > 0; --i) {
        const double x = axis_.x(all[i - 1].time);
        const int width = small.horizontalAdvance(toQt(all[i - 1].body)) + scaled(12);
        if (QRectF(x, scaled(2), width, small.height() + scaled(3)).contains(at))
            return static_cast<int>(i) - 1;
    }
    return -1;
}

double TakeView::valueAtHeight(const TakeRow& row, int y) const {
    const QRectF area = areaOf(row);
    const LaneLook look = lookOf(row);
    const double share = std::clamp((area.bottom() - y) / area.height(), 0.0, 1.0);
    return look.least + share * (look.most - look.least);
}

// Pressing and dragging.

void TakeView::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    setFocus(Qt::MouseFocusReason);
    const QPoint at = event->position().toPoint();
    pressed_ = at;
    pressedTime_ = axis_.time(at.x());
    if (rulerRect().contains(at)) {
        const int cue = cueAt(at);
        drag_ = Drag::playhead;
        return work_.playing.locate(cue >= 0 ? cues()[static_cast<std::size_t>(cue)].time : pressedTime_);
    }
    const TakeRow* row = rowAt(at);
    if (row == nullptr) return;
    if (at.x() < axis_.left) return clickGutter(*row, event->modifiers());
    if (const auto note = noteAt(at); note && tool_ == TakeTool::choose)
        return pressNote(*note, at, event->modifiers());
    pressInLane(at, event->modifiers());
}

void TakeView::pressInLane(const QPoint& at, Qt::KeyboardModifiers modifiers) {
    const TakeRow* row = rowAt(at);
    pressedRow_ = row->key;
    if (tool_ != TakeTool::choose && row->kind == TakeRow::Kind::hand) {
        drag_ = Drag::stroke;
        stroke_ = {{pressedTime_, valueAtHeight(*row, at.y())}};
        return;
    }
    const TimeSpan& span = work_.choice.span();
    if (!span.empty() && std::abs(axis_.x(span.from) - at.x()) <= nearEdge) {
        drag_ = Drag::spanFrom;
    } else if (!span.empty() && std::abs(axis_.x(span.to) - at.x()) <= nearEdge) {
        drag_ = Drag::spanTo;
    } else if ((modifiers & Qt::ShiftModifier) != 0 && !span.empty()) {
        drag_ = pressedTime_ < (span.from + span.to) / 2 ? Drag::spanFrom : Drag::spanTo;
        dragSpan(at);
    } else {
        drag_ = Drag::span;
        work_.choice.chooseNotes({});
    }
}

void TakeView::clickGutter(const TakeRow& row, Qt::KeyboardModifiers modifiers) {
    if (row.kind == TakeRow::Kind::result) {
        const ResultLane& lane = rows_.results().lanes[row.place];
        return workspace_.touched.touch({lane.instrument, lane.parameter});
    }
    if (row.kind != TakeRow::Kind::hand) return;
    const Subject subject = rows_.lanes().lanes[row.place].subject;
    std::set<Subject> chosen;
    if ((modifiers & (Qt::ControlModifier | Qt::ShiftModifier)) != 0) chosen = work_.choice.chosenLanes();
    if ((modifiers & Qt::ControlModifier) != 0 && chosen.contains(subject)) {
        chosen.erase(subject);
    } else {
        chosen.insert(subject);
    }
    work_.choice.chooseLanes(std::move(chosen));
}

void TakeView::pressNote(std::size_t note, const QPoint& at, Qt::KeyboardModifiers modifiers) {
    NoteChoice chosen = work_.choice.chosenNotes();
    const auto place = std::lower_bound(chosen.begin(), chosen.end(), note);
    const bool isChosen = place != chosen.end() && *place == note;
    if ((modifiers & Qt::ControlModifier) != 0) {
        isChosen ? (void)chosen.erase(place) : (void)chosen.insert(place, note);
        work_.choice.chooseNotes(std::move(chosen));
        dirty();
        return;
    }
    if (!isChosen) work_.choice.chooseNotes({note});
    const QRectF rect = noteRectOf(note);
    move_ = {};
    movedNotes_.notes.clear();
    const bool atEnd = rect.width() > 3 * nearEdge && rect.right() - at.x() <= nearEdge;
    drag_ = (modifiers & Qt::AltModifier) != 0 ? Drag::loudness : atEnd ? Drag::noteEnds : Drag::notes;
    dirty();
}

void TakeView::mouseMoveEvent(QMouseEvent* event) {
    const QPoint at = event->position().toPoint();
    switch (drag_) {
        case Drag::none:
            return hover(at);
        case Drag::playhead:
            return work_.playing.locate(axis_.time(at.x()));
        case Drag::span:
        case Drag::spanFrom:
        case Drag::spanTo:
            return dragSpan(at);
        case Drag::notes:
        case Drag::noteEnds:
        case Drag::loudness:
            return dragNotes(at);
        case Drag::stroke:
            return dragStroke(at, event->modifiers());
    }
}

/// The span grows with the pointer; lanes that it passes over are chosen.
void TakeView::dragSpan(const QPoint& at) {
    const std::int64_t time =
        std::clamp<std::int64_t>(axis_.time(at.x()), 0, work_.choice.take()->length + 1);
    TimeSpan span = work_.choice.span();
    if (drag_ == Drag::spanFrom) {
        span.from = std::min(time, span.to);
        return work_.choice.setSpan(span);
    }
    if (drag_ == Drag::spanTo) {
        span.to = std::max(time, span.from);
        return work_.choice.setSpan(span);
    }
    if ((at - pressed_).manhattanLength() < 4) return;
    const std::int64_t begun = std::max<std::int64_t>(pressedTime_, 0);
    const QRectF passed(0, std::min(at.y(), pressed_.y()), width(), std::abs(at.y() - pressed_.y()) + 1);
    std::set<Subject> lanes;
    for (const TakeRow& row : rows_.rows()) {
        if (row.kind == TakeRow::Kind::hand && areaOf(row).intersects(passed))
            lanes.insert(rows_.lanes().lanes[row.place].subject);
    }
    work_.choice.chooseLanes(std::move(lanes));
    work_.choice.setSpan({std::min(begun, time), std::max(begun, time)});
}

void TakeView::dragNotes(const QPoint& at) {
    const auto later = static_cast<std::int64_t>((at.x() - pressed_.x()) * axis_.microsPerPixel);
    move_ = {};
    if (drag_ == Drag::noteEnds) {
        move_.longer = later;
    } else if (drag_ == Drag::loudness) {
        move_.louder = (pressed_.y() - at.y()) / 2;
    } else {
        move_.later = later;
        const NoteChoice& chosen = work_.choice.chosenNotes();
        const std::size_t port = chosen.empty() ? 0 : rows_.lanes().notes[chosen.front()].port;
        const auto keys = rows_.keysOf(port);
        for (const TakeRow& row : rows_.rows()) {
            if (row.kind != TakeRow::Kind::notes || row.place != port) continue;
            const double pitch = areaOf(row).height() / std::max(keys.second - keys.first + 1, 6);
            move_.higher = static_cast<int>(std::lround((pressed_.y() - at.y()) / pitch));
        }
    }
    movedNotes_.notes.clear();
    for (const std::size_t place : work_.choice.chosenNotes()) {
        TakeNote note = rows_.lanes().notes[place];
        const std::int64_t length = std::max<std::int64_t>(note.ends - note.begins + move_.longer, 1000);
        note.begins += move_.later;
        note.ends = note.begins + length;
        note.key = static_cast<std::uint8_t>(std::clamp(note.key + move_.higher, 0, midi::max7));
        movedNotes_.notes.push_back(note);
    }
    QString how;
    if (drag_ == Drag::loudness)
        how = tr("velocity %1%2")
                  .arg(move_.louder < 0 ? QStringLiteral("−") : QStringLiteral("+"))
                  .arg(std::abs(move_.louder));
    if (!how.isEmpty()) QToolTip::showText(mapToGlobal(at), how, this);
    update();
}

/// A pen leaves what it draws; a line goes from where it was pressed. Both are previewed until they are let
/// go.
void TakeView::dragStroke(const QPoint& at, Qt::KeyboardModifiers modifiers) {
    const TakeRow* row = rows_.row(pressedRow_);
    if (row == nullptr || stroke_.empty()) return;
    const LanePoint point{std::clamp<std::int64_t>(axis_.time(at.x()), 0, work_.choice.take()->length),
                          valueAtHeight(*row, at.y())};
    if (tool_ == TakeTool::line) {
        stroke_.resize(1);
        stroke_[0] = {std::max<std::int64_t>(pressedTime_, 0), valueAtHeight(*row, pressed_.y())};
        stroke_.push_back(point);
    } else {
        // Going back over what was drawn draws it anew.
        const bool forward = point.time >= pressedTime_;
        std::erase_if(stroke_, [&](const LanePoint& each) {
            return forward ? each.time >= point.time && each.time > pressedTime_
                           : each.time <= point.time && each.time < pressedTime_;
        });
        stroke_.push_back(point);
    }
    std::stable_sort(stroke_.begin(), stroke_.end(),
                     [](const LanePoint& one, const LanePoint& other) { return one.time < other.time; });
    const Easing easing =
        tool_ == TakeTool::pen || (modifiers & Qt::ShiftModifier) != 0 ? Easing::straight : easing_;
    const TakeLane& lane = rows_.lanes().lanes[row->place];
    const LaneStretch stretch = stretchOf(rows_.take(), lane, stroke_.front().time, stroke_.back().time);
    preview({drawn(stretch, stroke_, easing)});
}

void TakeView::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    const Drag drag = std::exchange(drag_, Drag::none);
    const QPoint at = event->position().toPoint();
    const bool moved = (at - pressed_).manhattanLength() >= 4;
    switch (drag) {
        case Drag::span:
            if (moved) break;
            // A click in a lane is the playhead, and chooses nothing.
            work_.choice.setSpan({});
            work_.choice.chooseLanes({});
            work_.playing.locate(pressedTime_);
            break;
        case Drag::notes:
        case Drag::noteEnds:
        case Drag::loudness:
            if (moved) {
                drag_ = drag;
                endNotes();
            }
            break;
        case Drag::stroke: {
            const auto edits = std::exchange(preview_, {});
            if (!edits.empty())
                work_.changing.edit(tool_ == TakeTool::pen ? tr("Redraw a lane") : tr("Draw a line"), edits);
            break;
        }
        default:
            break;
    }
    movedNotes_.notes.clear();
    update();
}

void TakeView::endNotes() {
    const Drag drag = std::exchange(drag_, Drag::none);
    const QString text = drag == Drag::noteEnds   ? tr("Lengthen notes")
                         : drag == Drag::loudness ? tr("Revoice notes")
                                                  : tr("Move notes");
    const NoteChoice notes = work_.choice.chosenNotes();
    work_.changing.change(text, withNotes(*work_.choice.take(), *work_.choice.lanes(), notes, move_));
}

void TakeView::mouseDoubleClickEvent(QMouseEvent* event) {
    const QPoint at = event->position().toPoint();
    if (rulerRect().contains(at)) {
        const int cue = cueAt(at);
        drag_ = Drag::none;
        emit cueDoubleClicked(cue);
        return;
    }
    const TakeRow* row = rowAt(at);
    if (row == nullptr) return;
    if (at.x() < axis_.left) fold(row->key, !row->folded);
}

void TakeView::contextMenuEvent(QContextMenuEvent* event) {
    const TakeRow* row = rowAt(event->pos());
    QMenu menu(this);
    if (row != nullptr) {
        const std::string key = row->key;
        const bool folded = row->folded;
        const bool pinned = row->pinned;
        menu.addAction(folded ? tr("Unfold this lane") : tr("Fold this lane"), this,
                       [this, key, folded] { fold(key, !folded); });
        menu.addAction(pinned ? tr("Unpin this lane") : tr("Pin this lane to the front"), this,
                       [this, key, pinned] { pin(key, !pinned); });
        menu.addSeparator();
    }
    for (QAction* action : actions()) menu.addAction(action);
    if (!menu.isEmpty()) menu.exec(event->globalPos());
}

void TakeView::hover(const QPoint& at) {
    pointer_ = at;
    const TimeSpan& span = work_.choice.span();
    const bool atEdge = !span.empty() && at.x() >= axis_.left && at.y() > rulerRect().bottom() &&
                        (std::abs(axis_.x(span.from) - at.x()) <= nearEdge ||
                         std::abs(axis_.x(span.to) - at.x()) <= nearEdge);
    Qt::CursorShape shape = tool_ == TakeTool::choose ? Qt::ArrowCursor : Qt::CrossCursor;
    if (tool_ == TakeTool::choose && atEdge) shape = Qt::SizeHorCursor;
    if (const auto note = noteAt(at); note && tool_ == TakeTool::choose) {
        const QRect rect = noteRectOf(*note);
        shape = rect.width() > 3 * nearEdge && rect.right() - at.x() <= nearEdge ? Qt::SizeHorCursor
                                                                                 : Qt::SizeAllCursor;
    }
    if (cursor().shape() != shape) setCursor(shape);
    update();
}

void TakeView::leaveEvent(QEvent* event) {
    QWidget::leaveEvent(event);
    pointer_.reset();
    update();
}

}  // namespace mellow::app
