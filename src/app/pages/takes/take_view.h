// The view of a take: a ruler, what the hands did, the band, and what came of it, on one time axis.
//
// The lanes are painted once into a picture of their own, which scrolling and edits make anew; what moves is
// laid over it, so that playing costs a strip of pixels. Where everything stands is the layout's matter, what
// it looks like the painter's, what presses and drags mean that of the hands.
#pragma once

#include <QPixmap>
#include <QWidget>
#include <memory>

#include "app/acts/workspace.h"
#include "app/pages/takes/take_hands.h"
#include "app/pages/takes/take_layout.h"
#include "app/pages/takes/take_painter.h"
#include "app/widgets/accessible.h"

namespace mellow::app {

class TakeView : public QWidget, public SpokenValue {
    Q_OBJECT

 public:
    explicit TakeView(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] const TimeAxis& axis() const { return layout_.axis; }
    void setAxis(const TimeAxis& axis);
    void zoom(double factor);
    /// The whole take, or what is selected of it.
    void fit();
    void fitSelection();
    [[nodiscard]] const TakeRows& rows() const { return layout_.rows; }
    void setOrder(LaneOrder order);
    void foldAll(bool folded);
    void fold(const std::string& key, bool folded);
    void pin(const std::string& key, bool pinned);
    void setUnit(TimeUnit unit, double frameRate);
    [[nodiscard]] const TimeText& timeText() const { return layout_.times; }
    [[nodiscard]] const TakeLayout& layout() const { return layout_; }
    [[nodiscard]] TakeHands& hands() { return hands_; }

    void showResults(std::shared_ptr<const Results> results);
    /// What came of the take by the chains as they were; nullptr: nothing is compared.
    void showThen(std::shared_ptr<const Results> then);
    /// Moves the band to a height, so that one half has more room.
    void moveBand(int y);

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
    void followTake();
    void follow();
    void layOut();
    void dirty();
    void movePlayhead();
    void paintPicture();
    void scrollBy(double pixels);
    void scrollRows(int pixels);
    void keepPlayheadSeen();

    Workspace& workspace_;
    TakeWork& work_;
    TakeLayout layout_;
    TakeHands hands_;
    TimeUnit unit_ = TimeUnit::seconds;
    double frameRate_ = 25;
    ResultsThen then_;
    QPixmap picture_;
    bool stale_ = true;  ///< the picture
    std::string shownTake_;
    std::int64_t shownPlayhead_ = -1;
};

}  // namespace mellow::app
