// The response picture: what a chain's trunk makes of its source, as a curve with a live dot.
//
// What of the selected step can be taken hold of (step_handles.h) lies over it, with the bands that the step
// divides the travel into; points of a drawn response are added by a double click on the line and removed
// with Delete. Where smoothing is under way the dot trails a ring, which is where it is going. How the curve
// was before the newest edit stays as a faint line. Ctrl and the wheel, or + and − zoom in on the dot; 0
// shows all.
#pragma once

#include <QWidget>
#include <optional>
#include <vector>

#include "app/document/document.h"
#include "app/pages/chains/step_handles.h"
#include "app/widgets/accessible.h"
#include "app/widgets/still_picture.h"
#include "core/steps/step.h"

namespace mellow::app {

/// Paints the curve of a trunk into a rectangle. Also used at small size in lists. other: where the first
/// second source stands; −1: nothing is known of it.
void paintResponse(QPainter& painter, const QRectF& rect, const std::vector<Step>& steps, const QColor& color,
                   double width, double other = -1);

class ResponsePicture : public QWidget, public SpokenValue {
    Q_OBJECT

 public:
    [[nodiscard]] double spokenValue() const override { return dot_.y; }
    [[nodiscard]] QString spokenWords() const override;

    explicit ResponsePicture(QWidget* parent = nullptr);

    void showSteps(const std::vector<Step>& steps, int selected);
    /// Where the first second source stands: the curve is the one that it makes. −1: there is none.
    void showOther(double other);
    /// How the steps were before the newest edit; empty: as now.
    void showBefore(const std::vector<Step>& steps);
    /// goal: where the result is going. stepsUp: a bit for each step that is on and stands above the middle.
    void showDot(double x, double y, double goal, std::uint32_t stepsUp, bool spoken, bool active);
    /// How many times larger than whole it is shown, 1 to 16.
    [[nodiscard]] double zoom() const { return zoom_; }
    void setZoom(double zoom);
    /// Where the dot is, in this widget.
    [[nodiscard]] QPointF dotPoint() const;
    [[nodiscard]] QPointF toWidget(double x, double y) const;
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override;

 signals:
    /// A person changed the selected step.
    void stepChanged(const mellow::Step& step, mellow::app::Gesture gesture);
    void picked();

 protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

 private:
    void paintStill(QPainter& painter) const;
    void repaintAll();
    [[nodiscard]] QRectF plot() const;
    [[nodiscard]] Point fromWidget(const QPointF& point) const;
    [[nodiscard]] const Step* selectedStep() const;
    [[nodiscard]] bool drawsPoints() const;
    [[nodiscard]] std::vector<Handle> handles() const;
    /// Where, across, what comes into the selected step is as its handle says; and what comes into it at a
    /// place. Of steps that have their own curve laid over the picture both are the same.
    [[nodiscard]] double outer(const Step& step, double inner) const;
    [[nodiscard]] double inner(const Step& step, double outer) const;
    /// The step whose bands are shown: the selected one, or the first where it alone divides the travel.
    [[nodiscard]] const Step* bandedStep() const;
    void paintBands(QPainter& painter) const;
    void paintDot(QPainter& painter) const;
    void paintBothHands(QPainter& painter, const QRectF& whole) const;
    [[nodiscard]] int handleAt(const QPointF& place) const;
    void moveHandle(std::size_t handle, Point to, Gesture gesture);
    void keepDotInView();

    StillPicture still_;
    std::vector<Step> steps_;
    std::vector<Step> before_;
    int selected_ = -1;
    double other_ = -1;
    Point dot_;
    double goal_ = 0;
    std::uint32_t stepsUp_ = 0;
    double zoom_ = 1;
    Point corner_;  ///< of what is seen: its low left
    bool spoken_ = false;
    bool active_ = false;
    int handle_ = -1;
    Gesture gesture_ = 0;
};

}  // namespace mellow::app
