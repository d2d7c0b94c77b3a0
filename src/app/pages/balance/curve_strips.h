// Small pictures beside the loudness: brightness over the same travel, the same after levelling, and the
// curve of the parameter that levels.
#pragma once

#include <QWidget>

#include "app/pages/balance/balancing.h"

namespace mellow::app {

/// The spectral centroid over the travel, on a logarithmic scale.
class BrightnessStrip : public QWidget {
    Q_OBJECT

 public:
    explicit BrightnessStrip(Balancing& balancing, QWidget* parent = nullptr);

 protected:
    void paintEvent(QPaintEvent* event) override;

 private:
    Balancing& balancing_;
};

/// What was measured of a proposal, and the goal that it follows.
class AfterStrip : public QWidget {
    Q_OBJECT

 public:
    explicit AfterStrip(Balancing& balancing, QWidget* parent = nullptr);

 protected:
    void paintEvent(QPaintEvent* event) override;

 private:
    Balancing& balancing_;
};

/// The points that a proposal draws.
class PointsPicture : public QWidget {
    Q_OBJECT

 public:
    explicit PointsPicture(Balancing& balancing, QWidget* parent = nullptr);

 protected:
    void paintEvent(QPaintEvent* event) override;

 private:
    [[nodiscard]] const Step* drawnStep() const;
    Balancing& balancing_;
};

}  // namespace mellow::app
