// The picture of loudness over travel: what was measured, the line that it should follow, and how far they
// part.
//
// The line is handled directly: its ends and points are dragged, a double click makes a point or takes one
// away, and arrows move the one that has the focus, Left and Right from point to point.
#pragma once

#include <QWidget>

#include "app/pages/balance/balancing.h"
#include "app/pages/balance/curve_plot.h"
#include "app/widgets/accessible.h"
#include "app/widgets/still_picture.h"

namespace mellow::app {

class LoudnessView : public QWidget, public SpokenValue {
    Q_OBJECT

 public:
    explicit LoudnessView(Balancing& balancing, QWidget* parent = nullptr);

    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override;
    /// Shows the hand at another place, if it is there.
    void showHand();
    /// For tests: where a position and a loudness stand.
    [[nodiscard]] QPoint placeOf(double position, double lufs) const;
    /// The points of the goal as they are drawn.
    [[nodiscard]] std::vector<std::pair<double, double>> goalShown() const;

    [[nodiscard]] double spokenValue() const override;
    [[nodiscard]] double spokenLow() const override { return -80; }
    [[nodiscard]] double spokenHigh() const override { return 0; }
    [[nodiscard]] QString spokenWords() const override;
    [[nodiscard]] bool canBeSet() const override { return true; }
    void setSpokenValue(double lufs) override;

 protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

 private:
    using Line = std::vector<std::pair<double, double>>;
    [[nodiscard]] CurvePlot plot() const;
    [[nodiscard]] int pointAt(const QPointF& at) const;
    void movePoint(double position, double lufs);
    void setLine(Line line);
    void paintStill(QPainter& painter) const;
    void paintAxes(QPainter& painter, const CurvePlot& plot) const;
    void paintParting(QPainter& painter, const CurvePlot& plot) const;
    void paintKeys(QPainter& painter, const CurvePlot& plot) const;
    void paintQuiet(QPainter& painter, const CurvePlot& plot) const;
    void paintGoal(QPainter& painter, const CurvePlot& plot) const;
    void paintHand(QPainter& painter, const CurvePlot& plot) const;
    void paintReading(QPainter& painter, const CurvePlot& plot) const;

    Balancing& balancing_;
    StillPicture still_;
    Line dragged_;                   ///< the line while it is dragged; empty: it is not
    int point_ = 0;                  ///< that is dragged, or has the keys
    std::optional<double> pointed_;  ///< the position under the pointer
    std::optional<double> hand_;
};

}  // namespace mellow::app
