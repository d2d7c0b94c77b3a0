// The whole take in a strip: where in it the page looks, and a way to look elsewhere.
#pragma once

#include <QWidget>

#include "app/pages/takes/take_view.h"

namespace mellow::app {

class TakeOverview : public QWidget {
    Q_OBJECT

 public:
    TakeOverview(TakeWork& work, TakeView& view, QWidget* parent = nullptr);
    [[nodiscard]] QSize sizeHint() const override;
    /// Where the window of the page is, in this widget's pixels.
    [[nodiscard]] QRectF windowRect() const;

 protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

 private:
    [[nodiscard]] TimeAxis axis() const;
    void look(double x);

    TakeWork& work_;
    TakeView& view_;
    double grip_ = 0;  ///< from the window's left edge to where it was pressed
};

}  // namespace mellow::app
