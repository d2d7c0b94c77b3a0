// The response picture: what a chain's trunk makes of its source, as a curve with a live dot.
//
// When a drawn response or a bend is selected, its own curve is laid over it in the selection's colour with
// handles: points that are dragged, added by a double click on the line and removed with Delete; or one
// handle in the middle that bends the curve.
#pragma once

#include <QWidget>
#include <optional>
#include <vector>

#include "app/document.h"
#include "app/widgets/still_picture.h"
#include "core/steps/step.h"

namespace mellow::app {

/// Paints the curve of a trunk into a rectangle. Also used at small size in lists.
void paintResponse(QPainter& painter, const QRectF& rect, const std::vector<Step>& steps, const QColor& color,
                   double width);

class ResponsePicture : public QWidget {
    Q_OBJECT

 public:
    explicit ResponsePicture(QWidget* parent = nullptr);

    void showSteps(const std::vector<Step>& steps, int selected);
    void showDot(double x, double y, bool spoken, bool active);
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
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

 private:
    void paintStill(QPainter& painter) const;
    void repaintAll();
    [[nodiscard]] QRectF plot() const;
    [[nodiscard]] Point fromWidget(const QPointF& point) const;
    [[nodiscard]] const Step* selectedStep() const;
    [[nodiscard]] bool drawsPoints() const;
    [[nodiscard]] bool bends() const;
    [[nodiscard]] std::vector<Point> handles() const;
    void movePoint(std::size_t index, Point to, Gesture gesture);
    void setAmount(double amount, Gesture gesture);

    StillPicture still_;
    std::vector<Step> steps_;
    int selected_ = -1;
    Point dot_;
    bool spoken_ = false;
    bool active_ = false;
    int handle_ = -1;
    Gesture gesture_ = 0;
};

}  // namespace mellow::app
