#include "app/pages/chains/threads.h"

#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"

namespace mellow::app {

std::vector<Thread> threadsBetween(const QWidget& over, const Rail& source, const ResponsePicture& picture,
                                   const std::vector<Rail*>& targets) {
    const Theme& t = theme();
    const bool active = source.content().active;
    const QPointF bead = source.mapTo(&over, source.valuePoint().toPoint());
    const QPointF dot = picture.mapTo(&over, picture.dotPoint().toPoint());
    const double foot = picture.mapTo(&over, QPoint(0, picture.height())).y() + 2.0;
    // From the bead round the picture's corner to below the dot: the source is the picture's x.
    const double edge = picture.mapTo(&over, QPoint(0, 0)).x() + 4.0;
    QPainterPath down(bead);
    down.cubicTo(bead + QPointF(scaled(34), 0), QPointF(edge - scaled(30), foot), QPointF(edge, foot));
    down.lineTo(std::max(edge, dot.x()), foot);
    std::vector<Thread> all{{down, blend(t.panel, t.honey, active ? 0.7 : 0.25)}};
    const QPointF from =
        picture.mapTo(&over, QPoint(picture.width(), static_cast<int>(picture.dotPoint().y())));
    for (const Rail* rail : targets) {
        const QPointF to = rail->mapTo(&over, rail->valuePoint().toPoint());
        QPainterPath path(from);
        const double reach = std::max(24.0, std::abs(to.x() - from.x()) * 0.5);
        path.cubicTo(from + QPointF(reach, 0), to - QPointF(reach, 0), to);
        all.push_back({path, blend(t.panel, t.mint, active && rail->content().active ? 0.65 : 0.25)});
    }
    return all;
}

void Threads::show(std::vector<Thread> now, QWidget& over) {
    const auto paintOver = [&over](const Thread& thread) {
        over.update(thread.path.controlPointRect().toAlignedRect().adjusted(-2, -2, 2, 2));
    };
    for (std::size_t i = 0; i < std::max(now.size(), threads_.size()); ++i) {
        if (i < now.size() && i < threads_.size() && now[i] == threads_[i]) continue;
        if (i < now.size()) paintOver(now[i]);
        if (i < threads_.size()) paintOver(threads_[i]);
    }
    threads_ = std::move(now);
}

void Threads::paint(QPainter& painter) const {
    painter.setBrush(Qt::NoBrush);
    for (const Thread& thread : threads_) {
        painter.setPen(QPen(thread.color, 1.4));
        painter.drawPath(thread.path);
    }
}

}  // namespace mellow::app
