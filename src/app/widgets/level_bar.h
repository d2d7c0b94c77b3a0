// A bar that shows one value from 0 to 1, live.
#pragma once

#include <QPainter>
#include <QWidget>
#include <algorithm>

#include "app/ground/theme.h"
#include "app/widgets/accessible.h"

namespace mellow::app {

class LevelBar : public QWidget, public SpokenValue {
 public:
    using QWidget::QWidget;

    void show(double level) {
        if (level == level_) return;
        level_ = level;
        update();
    }
    [[nodiscard]] double spokenValue() const override { return level_; }
    [[nodiscard]] QString spokenWords() const override { return QString::number(level_, 'f', 2); }
    [[nodiscard]] double level() const { return level_; }
    [[nodiscard]] QSize sizeHint() const override { return {scaled(120), scaled(10)}; }

 protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme().line);
        painter.drawRoundedRect(rect(), 3, 3);
        painter.setBrush(theme().mint);
        painter.drawRoundedRect(QRectF(0, 0, width() * std::clamp(level_, 0.0, 1.0), height()), 3, 3);
    }

 private:
    double level_ = 0;
};

}  // namespace mellow::app
