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

    void show(const balance::Sound& sound, const balance::KnownSweep& known);
    /// The second of the sound at which the sweep begins.
    void setBegins(double seconds);
    [[nodiscard]] QSize sizeHint() const override;

 signals:
    /// It was dragged elsewhere.
    void beginsMoved(double seconds);

 protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;

 private:
    std::vector<float> outline_;
    std::vector<balance::Segment> segments_;
    std::optional<std::int64_t> click_;
    double length_ = 1;  ///< s
    double begins_ = 0;
    double dragFrom_ = 0;
};

}  // namespace mellow::app
