// A press in the ruler is the playhead, in a lane it chooses or draws, on a note it takes hold of that.
#include "app/pages/takes/take_hands.h"

#include <QMouseEvent>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/ground/words.h"

namespace mellow::app {

void TakeHands::setTool(TakeTool tool) {
    tool_ = tool;
    view_.setCursor(tool == TakeTool::choose ? Qt::ArrowCursor : Qt::CrossCursor);
}

void TakeHands::preview(std::vector<LaneEdit> edits) {
    preview_ = std::move(edits);
    repaint_();
}

void TakeHands::letGo() {
    drag_ = Drag::none;
    preview_.clear();
}

void TakeHands::press(const QMouseEvent& event) {
    const QPoint at = event.position().toPoint();
    pressed_ = at;
    pressedTime_ = layout_.axis.time(at.x());
    if (layout_.ruler().contains(at)) {
        const int cue = layout_.cueAt(at);
        drag_ = Drag::playhead;
        return work_.playing.locate(cue >= 0 ? layout_.cues()[static_cast<std::size_t>(cue)].time
                                             : pressedTime_);
    }
    const TakeRow* row = layout_.rowAt(at);
    if (row == nullptr) return;
    if (at.x() < layout_.axis.left) return clickGutter(*row, event.modifiers());
    if (const auto note = layout_.noteAt(at); note && tool_ == TakeTool::choose)
        return pressNote(*note, at, event.modifiers());
    pressInLane(at, event.modifiers());
}

void TakeHands::pressInLane(const QPoint& at, Qt::KeyboardModifiers modifiers) {
    const TakeRow* row = layout_.rowAt(at);
    pressedRow_ = row->key;
    if (tool_ != TakeTool::choose && row->kind == TakeRow::Kind::hand) {
        drag_ = Drag::stroke;
        stroke_ = {{pressedTime_, layout_.valueAtHeight(*row, at.y())}};
        return;
    }
    const TimeSpan& span = work_.choice.span();
    if (!span.empty() && std::abs(layout_.axis.x(span.from) - at.x()) <= TakeLayout::nearEdge) {
        drag_ = Drag::spanFrom;
    } else if (!span.empty() && std::abs(layout_.axis.x(span.to) - at.x()) <= TakeLayout::nearEdge) {
        drag_ = Drag::spanTo;
    } else if ((modifiers & Qt::ShiftModifier) != 0 && !span.empty()) {
        drag_ = pressedTime_ < (span.from + span.to) / 2 ? Drag::spanFrom : Drag::spanTo;
        dragSpan(at);
    } else {
        drag_ = Drag::span;
        work_.choice.chooseNotes({});
    }
}

void TakeHands::clickGutter(const TakeRow& row, Qt::KeyboardModifiers modifiers) {
    if (row.kind == TakeRow::Kind::result) {
        const ResultLane& lane = layout_.rows.results().lanes[row.place];
        return workspace_.touched.touch({lane.instrument, lane.parameter});
    }
    if (row.kind != TakeRow::Kind::hand) return;
    const Subject subject = layout_.rows.lanes().lanes[row.place].subject;
    std::set<Subject> chosen;
    if ((modifiers & (Qt::ControlModifier | Qt::ShiftModifier)) != 0) chosen = work_.choice.chosenLanes();
    if ((modifiers & Qt::ControlModifier) != 0 && chosen.contains(subject)) {
        chosen.erase(subject);
    } else {
        chosen.insert(subject);
    }
    work_.choice.chooseLanes(std::move(chosen));
}

void TakeHands::pressNote(std::size_t note, const QPoint& at, Qt::KeyboardModifiers modifiers) {
    NoteChoice chosen = work_.choice.chosenNotes();
    const auto place = std::lower_bound(chosen.begin(), chosen.end(), note);
    const bool isChosen = place != chosen.end() && *place == note;
    if ((modifiers & Qt::ControlModifier) != 0) {
        isChosen ? (void)chosen.erase(place) : (void)chosen.insert(place, note);
        work_.choice.chooseNotes(std::move(chosen));
        redraw_();
        return;
    }
    if (!isChosen) work_.choice.chooseNotes({note});
    const QRectF rect = layout_.noteRectOf(note);
    move_ = {};
    movedNotes_.notes.clear();
    const bool atEnd =
        rect.width() > 3 * TakeLayout::nearEdge && rect.right() - at.x() <= TakeLayout::nearEdge;
    drag_ = (modifiers & Qt::AltModifier) != 0 ? Drag::loudness : atEnd ? Drag::noteEnds : Drag::notes;
    redraw_();
}

void TakeHands::move(const QMouseEvent& event) {
    const QPoint at = event.position().toPoint();
    switch (drag_) {
        case Drag::none:
            return hover(at);
        case Drag::playhead:
            return work_.playing.locate(layout_.axis.time(at.x()));
        case Drag::span:
        case Drag::spanFrom:
        case Drag::spanTo:
            return dragSpan(at);
        case Drag::notes:
        case Drag::noteEnds:
        case Drag::loudness:
            return dragNotes(at);
        case Drag::stroke:
            return dragStroke(at, event.modifiers());
    }
}

/// The span grows with the pointer; lanes that it passes over are chosen.
void TakeHands::dragSpan(const QPoint& at) {
    const std::int64_t time =
        std::clamp<std::int64_t>(layout_.axis.time(at.x()), 0, work_.choice.take()->length + 1);
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
    const QRectF passed(0, std::min(at.y(), pressed_.y()), layout_.size().width(),
                        std::abs(at.y() - pressed_.y()) + 1);
    std::set<Subject> lanes;
    for (const TakeRow& row : layout_.rows.rows()) {
        if (row.kind == TakeRow::Kind::hand && layout_.areaOf(row).intersects(passed))
            lanes.insert(layout_.rows.lanes().lanes[row.place].subject);
    }
    work_.choice.chooseLanes(std::move(lanes));
    work_.choice.setSpan({std::min(begun, time), std::max(begun, time)});
}

void TakeHands::dragNotes(const QPoint& at) {
    const auto later = static_cast<std::int64_t>((at.x() - pressed_.x()) * layout_.axis.microsPerPixel);
    move_ = {};
    if (drag_ == Drag::noteEnds) {
        move_.longer = later;
    } else if (drag_ == Drag::loudness) {
        move_.louder = (pressed_.y() - at.y()) / 2;
    } else {
        move_.later = later;
        const NoteChoice& chosen = work_.choice.chosenNotes();
        const std::size_t port = chosen.empty() ? 0 : layout_.rows.lanes().notes[chosen.front()].port;
        const auto keys = layout_.rows.keysOf(port);
        for (const TakeRow& row : layout_.rows.rows()) {
            if (row.kind != TakeRow::Kind::notes || row.place != port) continue;
            const double pitch = layout_.areaOf(row).height() / std::max(keys.second - keys.first + 1, 6);
            move_.higher = static_cast<int>(std::lround((pressed_.y() - at.y()) / pitch));
        }
    }
    movedNotes_.notes.clear();
    for (const std::size_t place : work_.choice.chosenNotes()) {
        TakeNote note = layout_.rows.lanes().notes[place];
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
    if (!how.isEmpty()) QToolTip::showText(view_.mapToGlobal(at), how, &view_);
    repaint_();
}

/// A pen leaves what it draws; a line goes from where it was pressed. Both are previewed until they are let
/// go.
void TakeHands::dragStroke(const QPoint& at, Qt::KeyboardModifiers modifiers) {
    const TakeRow* row = layout_.rows.row(pressedRow_);
    if (row == nullptr || stroke_.empty()) return;
    const LanePoint point{std::clamp<std::int64_t>(layout_.axis.time(at.x()), 0, work_.choice.take()->length),
                          layout_.valueAtHeight(*row, at.y())};
    if (tool_ == TakeTool::line) {
        stroke_.resize(1);
        stroke_[0] = {std::max<std::int64_t>(pressedTime_, 0), layout_.valueAtHeight(*row, pressed_.y())};
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
    const TakeLane& lane = layout_.rows.lanes().lanes[row->place];
    const LaneStretch stretch =
        stretchOf(layout_.rows.take(), lane, stroke_.front().time, stroke_.back().time);
    preview({drawn(stretch, stroke_, easing)});
}

void TakeHands::release(const QMouseEvent& event) {
    const Drag drag = std::exchange(drag_, Drag::none);
    const QPoint at = event.position().toPoint();
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
    repaint_();
}

void TakeHands::endNotes() {
    const Drag drag = std::exchange(drag_, Drag::none);
    const QString text = drag == Drag::noteEnds   ? tr("Lengthen notes")
                         : drag == Drag::loudness ? tr("Revoice notes")
                                                  : tr("Move notes");
    const NoteChoice notes = work_.choice.chosenNotes();
    work_.changing.change(text, withNotes(*work_.choice.take(), *work_.choice.lanes(), notes, move_));
}

void TakeHands::hover(const QPoint& at) {
    pointer_ = at;
    const TimeSpan& span = work_.choice.span();
    const bool atEdge = !span.empty() && at.x() >= layout_.axis.left && at.y() > layout_.ruler().bottom() &&
                        (std::abs(layout_.axis.x(span.from) - at.x()) <= TakeLayout::nearEdge ||
                         std::abs(layout_.axis.x(span.to) - at.x()) <= TakeLayout::nearEdge);
    Qt::CursorShape shape = tool_ == TakeTool::choose ? Qt::ArrowCursor : Qt::CrossCursor;
    if (tool_ == TakeTool::choose && atEdge) shape = Qt::SizeHorCursor;
    if (const auto note = layout_.noteAt(at); note && tool_ == TakeTool::choose) {
        const QRect rect = layout_.noteRectOf(*note);
        shape = rect.width() > 3 * TakeLayout::nearEdge && rect.right() - at.x() <= TakeLayout::nearEdge
                    ? Qt::SizeHorCursor
                    : Qt::SizeAllCursor;
    }
    if (view_.cursor().shape() != shape) view_.setCursor(shape);
    repaint_();
}

void TakeHands::leave() {
    pointer_.reset();
    repaint_();
}

}  // namespace mellow::app
