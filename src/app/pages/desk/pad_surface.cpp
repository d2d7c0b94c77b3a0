// Across is x, up is y, and how hard it is touched is a third value, 0 when nothing touches it. The mouse
// touches with full pressure.
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/desk/surfaces.h"

namespace mellow::app {

namespace {

constexpr qint64 trailLasts = 1000;  // ms
constexpr int trailPicture = 40;     // ms
constexpr double fineShare = 0.15;

}  // namespace

PadSurface::PadSurface(Workspace& workspace, const DeskElement& element, QWidget* parent)
    : Surface(workspace, element, parent) {
    clock_.start();
    last_ = {position(Axis::x), position(Axis::y)};
    fade_.setInterval(trailPicture);
    connect(&fade_, &QTimer::timeout, this, [this] {
        while (!trail_.empty() && clock_.elapsed() - trail_.front().time > trailLasts) trail_.pop_front();
        if (trail_.empty()) fade_.stop();
        soon();
    });
}

QRectF PadSurface::area() const {
    return inner().adjusted(0, scaled(24), 0, -scaled(26));
}

QPointF PadSurface::spot() const {
    const QRectF inside = area();
    return {inside.left() + position(Axis::x) * inside.width(),
            inside.bottom() - position(Axis::y) * inside.height()};
}

void PadSurface::goTo(const QPointF& at, double pressure) {
    const QRectF inside = area();
    move(Axis::x, (at.x() - inside.left()) / inside.width());
    move(Axis::y, (inside.bottom() - at.y()) / inside.height());
    move(Axis::touch, pressure);
    last_ = {position(Axis::x), position(Axis::y)};
    noteStep();
}

void PadSurface::press(const QPointF& at, double pressure) {
    trail_.clear();
    goTo(at, pressure);
}

void PadSurface::drag(const QPointF& at, const QPointF& by, double pressure, bool fine) {
    goTo(fine ? spot() + by * fineShare : at, pressure);
}

void PadSurface::noteStep() {
    trail_.push_back({clock_.elapsed(), {position(Axis::x), position(Axis::y)}});
    if (!fade_.isActive()) fade_.start();
}

void PadSurface::valuesMoved() {
    const QPointF now(position(Axis::x), position(Axis::y));
    if (std::exchange(last_, now) != now) noteStep();
}

QString PadSurface::spokenWords() const {
    return tr("across %1 %, up %2 %")
        .arg(std::lround(position(Axis::x) * 100))
        .arg(std::lround(position(Axis::y) * 100));
}

void PadSurface::paintStill(QPainter& painter) const {
    const Theme& t = theme();
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.panel);
    painter.drawRoundedRect(QRectF(rect()), 10, 10);
    painter.setPen(t.ink);
    painter.setFont(bodyFont());
    painter.drawText(inner(), Qt::AlignTop | Qt::AlignLeft, nameToShow(nameOf(element())));
    const QRectF inside = area();
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.ground);
    painter.drawRoundedRect(inside, 6, 6);
    QPen dotted(t.line, 1, Qt::DotLine);
    painter.setPen(dotted);
    constexpr int parts = 4;
    for (int i = 1; i < parts; ++i) {
        const double x = inside.left() + inside.width() * i / parts;
        const double y = inside.top() + inside.height() * i / parts;
        painter.drawLine(QPointF(x, inside.top()), QPointF(x, inside.bottom()));
        painter.drawLine(QPointF(inside.left(), y), QPointF(inside.right(), y));
    }
}

void PadSurface::paintTrail(QPainter& painter) const {
    const QRectF inside = area();
    const auto place = [&](const Step& step) {
        return QPointF(inside.left() + step.at.x() * inside.width(),
                       inside.bottom() - step.at.y() * inside.height());
    };
    for (std::size_t i = 1; i < trail_.size(); ++i) {
        const double age = static_cast<double>(clock_.elapsed() - trail_[i].time) / trailLasts;
        QColor fading = tone();
        fading.setAlphaF(static_cast<float>(std::clamp(0.7 * (1 - age), 0.0, 0.7)));
        painter.setPen(QPen(fading, 3, Qt::SolidLine, Qt::RoundCap));
        painter.drawLine(place(trail_[i - 1]), place(trail_[i]));
    }
}

void PadSurface::paintMoving(QPainter& painter) const {
    const Theme& t = theme();
    const QRectF inside = area();
    const QPointF at = spot();
    paintTrail(painter);
    QPen guide(blend(t.ground, tone(), 0.5), 1, Qt::DashLine);
    painter.setPen(guide);
    painter.drawLine(QPointF(inside.left(), at.y()), at);
    painter.drawLine(at, QPointF(at.x(), inside.bottom()));
    painter.setPen(Qt::NoPen);
    painter.setBrush(tone());
    const double radius = scaled(isTouched() ? 15 : 11);
    painter.drawEllipse(at, radius, radius);
    // Along the edge that each follows: across on the left, up on the right.
    const QRectF below(inside.left(), inside.bottom() + scaled(6), inside.width(), scaled(18));
    const auto side = [&](Axis axis, const QString& word, const QRectF& half) {
        const Readout& to = readout(axis);
        const QString caption = to.name.isEmpty() ? word : QStringLiteral("%1: %2").arg(word, to.name);
        painter.setFont(captionFont());
        painter.setPen(t.dim);
        const int wide = painter.fontMetrics().horizontalAdvance(caption);
        const int room = static_cast<int>(half.width()) - scaled(90);
        painter.drawText(
            half, Qt::AlignVCenter | Qt::AlignLeft,
            painter.fontMetrics().elidedText(caption, Qt::ElideRight, std::max(room, scaled(50))));
        paintReadout(painter, half.adjusted(std::min(wide, std::max(room, scaled(50))) + scaled(12), 0, 0, 0),
                     to);
    };
    const double half = below.width() / 2;
    side(Axis::x, tr("across"), QRectF(below.left(), below.top(), half - scaled(8), below.height()));
    side(Axis::y, tr("up"), QRectF(below.left() + half, below.top(), half, below.height()));
}

}  // namespace mellow::app
