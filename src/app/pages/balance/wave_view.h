// A recorded sweep as one sees whether it is laid right: the sound, and the stretches of it that are
// measured.
#pragma once

#include <QWidget>
#include <vector>

#include "core/balance/recorded.h"

namespace mellow::app {

class WaveView : public QWidget {
    Q_OBJECT

 public:
    explicit WaveView(QWidget* parent = nullptr);

    /// outline: of the sound, as balance::outlineOf() has it; seconds: how long that is.
    void show(std::vector<float> outline, double seconds, const balance::KnownSweep& known);
    /// The second of the sound at which the sweep begins.
    void setBegins(double seconds);
    [[nodiscard]] QSize sizeHint() const override;

 signals:
    /// It is dragged elsewhere.
    void beginsMoved(double seconds);
    /// And let go there.
    void beginsPlaced();

 protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

 private:
    std::vector<float> outline_;
    std::vector<balance::Segment> segments_;
    std::optional<std::int64_t> click_;
    double length_ = 1;  ///< s
    double begins_ = 0;
    double dragFrom_ = 0;
    bool isDragged_ = false;
};

}  // namespace mellow::app
