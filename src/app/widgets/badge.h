// The trouble badge: a count in clay, the same wherever trouble is shown.
#pragma once

#include <QPainter>

#include "app/ground/theme.h"

namespace mellow::app {

/// Paints a count with its right top corner at a point; returns where.
inline QRectF paintBadge(QPainter& painter, const QPointF& topRight, int count) {
    const double size = scaled(17);
    const QRectF rect(topRight.x() - size, topRight.y(), size, size);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().clay);
    painter.drawEllipse(rect);
    painter.setFont(captionFont());
    painter.setPen(theme().ground);
    painter.drawText(rect, Qt::AlignCenter, QString::number(count));
    return rect;
}

}  // namespace mellow::app
