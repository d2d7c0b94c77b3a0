// The picture of the page: a ruler, what the hands did, the band, and what came of it, on one time axis.
//
// The lanes are painted once into a picture of their own, which scrolling and edits make anew; the playhead,
// the selection and what is previewed are laid over it, so that playing costs a strip of pixels. What is
// pressed and dragged means what the tool says: choosing, drawing with a pen, or a line.
#pragma once

#include <QPixmap>
#include <QWidget>
#include <array>
#include <functional>
#include <optional>

#include "app/acts/workspace.h"
#include "app/pages/takes/lane_picture.h"
#include "app/pages/takes/take_rows.h"
#include "app/takes/take_work.h"
#include "app/takes/time_text.h"
#include "app/widgets/accessible.h"

namespace mellow::app {

enum class TakeTool { choose, pen, line };

class TakeView : public QWidget, public SpokenValue {
    Q_OBJECT

 public:
    explicit TakeView(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] const TimeAxis& axis() const { return axis_; }
    void setAxis(const TimeAxis& axis);
    void zoom(double factor);
    /// The whole take, or what is selected of it.
    void fit();
    void fitSelection();
    [[nodiscard]] const TakeRows& rows() const { return rows_; }
    void setOrder(LaneOrder order);
    void foldAll(bool folded);
    void fold(const std::string& key, bool folded);
    void pin(const std::string& key, bool pinned);
    void setUnit(TimeUnit unit, double frameRate);
    [[nodiscard]] const TimeText& timeText() const { return times_; }
    void setTool(TakeTool tool);
    [[nodiscard]] TakeTool tool() const { return tool_; }
    void setEasing(Easing easing) { easing_ = easing; }

    void showResults(std::shared_ptr<const Results> results);
    /// What came of the take by the chains as they were; nullptr: nothing is compared.
    void showThen(std::shared_ptr<const Results> then);
    /// Where the band between the halves is, in this widget's pixels; empty where there is nothing to part.
    [[nodiscard]] QRect bandRect() const;
    /// Moves the band to a height, so that one half has more room.
    void moveBand(int y);

    /// Shows edits without making them; empty: none.
    void preview(std::vector<LaneEdit> edits);
    [[nodiscard]] const std::vector<LaneEdit>& previewed() const { return preview_; }

    /// Where a row's lane is drawn, in this widget's pixels; empty where it is not seen.
    [[nodiscard]] QRect laneRect(const std::string& key) const;
    [[nodiscard]] QRect rulerRect() const;
    [[nodiscard]] QRect noteRectOf(std::size_t note) const;
    /// What stands at the left of a row: its value at the playhead, or under the pointer.
    [[nodiscard]] QString valueText(const TakeRow& row, std::int64_t time) const;
    void selectAll();
    /// To the next cue, or the one before.
    void goToCue(int by);

    [[nodiscard]] double spokenValue() const override;
    [[nodiscard]] double spokenHigh() const override;
    [[nodiscard]] QString spokenWords() const override;
    [[nodiscard]] bool canBeSet() const override { return true; }
    void setSpokenValue(double seconds) override;

    [[nodiscard]] QSize sizeHint() const override { return {900, 500}; }
    [[nodiscard]] QSize minimumSizeHint() const override { return {500, 200}; }

 signals:
    void axisChanged();
    /// The band moved, came or went.
    void bandMoved();
    void cueDoubleClicked(int cue);

 protected:
    void paintEvent(QPaintEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;
    void changeEvent(QEvent* event) override;

 private:
    enum class Drag { none, playhead, span, spanFrom, spanTo, notes, noteEnds, stroke, loudness };

    void followTake();
    void follow();
    void layOut();
    void placeBand();
    void dirty();
    void movePlayhead();
    void paintPicture();
    void paintRow(QPainter& painter, const TakeRow& row);
    void paintGutter(QPainter& painter, const TakeRow& row, std::int64_t time);
    void paintRuler(QPainter& painter);
    void paintBand(QPainter& painter);
    void paintSelection(QPainter& painter);
    void paintPreview(QPainter& painter);
    void paintPlayhead(QPainter& painter);
    void paintHover(QPainter& painter);
    void paintMore(QPainter& painter);
    void paintNothingBelow(QPainter& painter);
    void paintEmpty(QPainter& painter);
    [[nodiscard]] QRect bodyRect() const;
    [[nodiscard]] QRect halfRect(bool above) const;
    [[nodiscard]] QRectF areaOf(const TakeRow& row) const;
    [[nodiscard]] LaneLook lookOf(const TakeRow& row) const;
    [[nodiscard]] std::optional<double> valueOf(const TakeRow& row, std::int64_t time) const;
    [[nodiscard]] QString textOf(const TakeRow& row, double value) const;
    [[nodiscard]] const TakeRow* rowAt(const QPoint& at) const;
    [[nodiscard]] std::optional<std::size_t> noteAt(const QPoint& at) const;
    [[nodiscard]] int cueAt(const QPoint& at) const;
    [[nodiscard]] std::vector<TakeMark> cues() const;
    void pressInLane(const QPoint& at, Qt::KeyboardModifiers modifiers);
    void pressNote(std::size_t note, const QPoint& at, Qt::KeyboardModifiers modifiers);
    void dragSpan(const QPoint& at);
    void dragNotes(const QPoint& at);
    void dragStroke(const QPoint& at, Qt::KeyboardModifiers modifiers);
    void endNotes();
    [[nodiscard]] double valueAtHeight(const TakeRow& row, int y) const;
    void clickGutter(const TakeRow& row, Qt::KeyboardModifiers modifiers);
    void scrollBy(double pixels);
    void scrollRows(bool above, int pixels);
    void scrollBoth(int pixels);
    void keepPlayheadSeen();
    void hover(const QPoint& at);

    Workspace& workspace_;
    TakeWork& work_;
    TimeAxis axis_;
    TakeRows rows_;
    TimeText times_;
    TimeUnit unit_ = TimeUnit::seconds;
    double frameRate_ = 25;
    TakeTool tool_ = TakeTool::choose;
    Easing easing_ = Easing::easedBoth;
    std::shared_ptr<const Results> then_;
    std::vector<Peaks> thenPeaks_;
    QPixmap picture_;
    bool stale_ = true;                 ///< the picture
    std::array<int, 2> scrolls_{0, 0};  ///< pixels of rows above each half
    double split_ = -1;  ///< the share of the height that the hands have; below 0: as the lanes want
    int bandTop_ = 0;
    std::vector<LaneEdit> preview_;
    std::string shownTake_;

    Drag drag_ = Drag::none;
    QPoint pressed_;
    std::int64_t pressedTime_ = 0;
    std::string pressedRow_;
    std::vector<LanePoint> stroke_;
    NoteMove move_;
    TakeLanes movedNotes_;  ///< as they are while they are dragged
    std::int64_t shownPlayhead_ = -1;
    std::optional<QPoint> pointer_;
};

}  // namespace mellow::app
