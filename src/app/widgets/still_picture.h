// The part of a widget that does not move, painted once and kept.
//
// A page on which everything shows its value is painted many times a second, and nearly all of the cost would
// be text and curves that are the same each time. A widget draws those into a StillPicture, says when they
// change, and paints only what moves on top.
#pragma once

#include <QPainter>
#include <QPixmap>
#include <QWidget>

#include "app/ground/theme.h"

namespace mellow::app {

class StillPicture {
 public:
    /// Draws the picture onto a painter of the widget; paint(QPainter&) makes it when there is none, or it is
    /// of another size, theme or font size. ground: what lies behind all of it; a picture that hides what is
    /// behind its widget is copied and not blended.
    template<class Paint>
    void draw(QPainter& painter, const QWidget& widget, Paint&& paint,
              const QColor& ground = Qt::transparent) {
        const qreal ratio = widget.devicePixelRatioF();
        const QSize size = widget.size() * ratio;
        const bool fresh = picture_.size() == size && theme_ == &theme() && scale_ == scaled(100);
        if (!fresh) {
            picture_ = QPixmap(size);
            picture_.setDevicePixelRatio(ratio);
            picture_.fill(ground);
            theme_ = &theme();
            scale_ = scaled(100);
            QPainter still(&picture_);
            still.setRenderHint(QPainter::Antialiasing);
            paint(still);
        }
        painter.drawPixmap(0, 0, picture_);
    }
    void forget() { picture_ = QPixmap(); }

 private:
    QPixmap picture_;
    const Theme* theme_ = nullptr;
    int scale_ = 0;
};

}  // namespace mellow::app
