// What a hand does in the picture of a take: choosing, taking hold of notes, drawing with a pen or a line.
//
// What is pressed and dragged means what the tool says. Until it is let go it is a preview; then it is one
// edit of the take.
#pragma once

#include <QCoreApplication>
#include <QPoint>
#include <QWidget>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "app/acts/workspace.h"
#include "app/pages/takes/take_layout.h"
#include "app/takes/take_work.h"

class QMouseEvent;

namespace mellow::app {

enum class TakeTool { choose, pen, line };

class TakeHands {
    Q_DECLARE_TR_FUNCTIONS(TakeView)

 public:
    /// view: where the pointer is. repaint: what lies over the lanes is another; redraw: the lanes are, too.
    TakeHands(Workspace& workspace, TakeLayout& layout, QWidget& view, std::function<void()> repaint,
              std::function<void()> redraw)
        : workspace_(workspace),
          work_(workspace.takes),
          layout_(layout),
          view_(view),
          repaint_(std::move(repaint)),
          redraw_(std::move(redraw)) {}

    void setTool(TakeTool tool);
    [[nodiscard]] TakeTool tool() const { return tool_; }
    void setEasing(Easing easing) { easing_ = easing; }

    /// Shows edits without making them; empty: none.
    void preview(std::vector<LaneEdit> edits);
    [[nodiscard]] const std::vector<LaneEdit>& previewed() const { return preview_; }
    [[nodiscard]] bool drags() const { return drag_ != Drag::none; }
    /// The playhead is dragged.
    [[nodiscard]] bool locates() const { return drag_ == Drag::playhead; }
    [[nodiscard]] bool movesNotes() const {
        return drag_ == Drag::notes || drag_ == Drag::noteEnds || drag_ == Drag::loudness;
    }
    /// The chosen notes as they are while they are dragged.
    [[nodiscard]] const TakeLanes& movedNotes() const { return movedNotes_; }
    [[nodiscard]] const std::optional<QPoint>& pointer() const { return pointer_; }

    void press(const QMouseEvent& event);
    void move(const QMouseEvent& event);
    void release(const QMouseEvent& event);
    void leave();
    /// Another take is shown: what was begun is nothing any more.
    void letGo();

 private:
    enum class Drag { none, playhead, span, spanFrom, spanTo, notes, noteEnds, stroke, loudness };

    void pressInLane(const QPoint& at, Qt::KeyboardModifiers modifiers);
    void pressNote(std::size_t note, const QPoint& at, Qt::KeyboardModifiers modifiers);
    void clickGutter(const TakeRow& row, Qt::KeyboardModifiers modifiers);
    void dragSpan(const QPoint& at);
    void dragNotes(const QPoint& at);
    void dragStroke(const QPoint& at, Qt::KeyboardModifiers modifiers);
    void endNotes();
    void hover(const QPoint& at);

    Workspace& workspace_;
    TakeWork& work_;
    TakeLayout& layout_;
    QWidget& view_;
    std::function<void()> repaint_;
    std::function<void()> redraw_;
    TakeTool tool_ = TakeTool::choose;
    Easing easing_ = Easing::easedBoth;
    std::vector<LaneEdit> preview_;
    Drag drag_ = Drag::none;
    QPoint pressed_;
    std::int64_t pressedTime_ = 0;
    std::string pressedRow_;
    std::vector<LanePoint> stroke_;
    NoteMove move_;
    TakeLanes movedNotes_;
    std::optional<QPoint> pointer_;
};

}  // namespace mellow::app
