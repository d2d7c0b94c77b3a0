// One value: up a track, or round an arc.
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/desk/surfaces.h"

namespace mellow::app {

namespace {

constexpr double fineShare = 0.15;

void paintCard(QPainter& painter, const QWidget& widget) {
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().panel);
    painter.drawRoundedRect(QRectF(widget.rect()), 10, 10);
}

void paintName(QPainter& painter, const QRectF& area, const QString& name, Qt::Alignment alignment) {
    painter.setPen(theme().ink);
    painter.setFont(bodyFont());
    painter.drawText(area, Qt::AlignTop | alignment,
                     painter.fontMetrics().elidedText(name, Qt::ElideRight, static_cast<int>(area.width())));
}

}  // namespace

// Sliders.

QRectF SliderSurface::track() const {
    const QRectF inside = inner();
    const double wide = std::min(static_cast<double>(scaled(30)), inside.width() * 0.6);
    return {inside.center().x() - wide / 2, inside.top() + scaled(28), wide,
            inside.height() - scaled(28) - scaled(54)};
}

void SliderSurface::press(const QPointF& at, double) {
    move(Axis::x, (track().bottom() - at.y()) / track().height());
}

void SliderSurface::drag(const QPointF& at, const QPointF& by, double pressure, bool fine) {
    if (!fine) return press(at, pressure);
    move(Axis::x, position(Axis::x) - by.y() / track().height() * fineShare);
}

void SliderSurface::paintStill(QPainter& painter) const {
    paintCard(painter, *this);
    paintName(painter, inner().adjusted(-scaled(4), 0, scaled(4), 0), nameToShow(nameOf(element())),
              Qt::AlignHCenter);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().ground);
    painter.drawRoundedRect(track(), 6, 6);
}

void SliderSurface::paintMoving(QPainter& painter) const {
    const Theme& t = theme();
    const QRectF way = track();
    const double y = way.bottom() - position(Axis::x) * way.height();
    painter.setPen(Qt::NoPen);
    painter.setBrush(blend(t.ground, tone(), 0.5));
    painter.drawRoundedRect(QRectF(way.left(), y, way.width(), way.bottom() - y), 6, 6);
    painter.setBrush(tone());
    const double grip = scaled(isTouched() ? 12 : 9);
    painter.drawRoundedRect(QRectF(way.left() - scaled(6), y - grip / 2, way.width() + scaled(12), grip),
                            grip / 2, grip / 2);
    const QRectF below = saying();
    const QRectF line(below.left(), below.top(), below.width(), scaled(18));
    paintReadout(painter, line, readout(Axis::x), Qt::AlignHCenter);
    paintCaption(painter, below.adjusted(0, line.height(), 0, 0), caption());
}

QRectF SliderSurface::saying() const {
    return {inner().left() - scaled(6), track().bottom() + scaled(6), inner().width() + scaled(12),
            scaled(18 + 32) * 1.0};
}

QRegion SliderSurface::movingArea() const {
    const double grip = scaled(9);
    // In one piece, which is sooner painted than two.
    return (track().adjusted(-grip, -grip, grip, grip) | saying()).toAlignedRect();
}

// Dials.

namespace {

constexpr int sixteenths = 16;  // of a degree, as arcs are painted
constexpr int arcStart = 225;
constexpr int arcSpan = 270;

}  // namespace

QRectF DialSurface::arc() const {
    const QRectF inside = inner().adjusted(0, scaled(24), 0, -scaled(38));
    const double size = std::max(scaled(20) * 1.0, std::min(inside.width(), inside.height()));
    return {inside.center().x() - size / 2, inside.top(), size, size};
}

void DialSurface::drag(const QPointF&, const QPointF& by, double, bool fine) {
    const double way = scaled(160);
    move(Axis::x, position(Axis::x) + (by.x() - by.y()) / way * (fine ? fineShare : 1));
}

void DialSurface::paintStill(QPainter& painter) const {
    paintCard(painter, *this);
    paintName(painter, inner(), nameToShow(nameOf(element())), Qt::AlignLeft);
    painter.setPen(QPen(theme().ground, scaled(9), Qt::SolidLine, Qt::RoundCap));
    painter.drawArc(arc().adjusted(scaled(5), scaled(5), -scaled(5), -scaled(5)), arcStart * sixteenths,
                    -arcSpan * sixteenths);
}

void DialSurface::paintMoving(QPainter& painter) const {
    const QRectF round = arc().adjusted(scaled(5), scaled(5), -scaled(5), -scaled(5));
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(blend(theme().ground, tone(), 0.6), scaled(9), Qt::SolidLine, Qt::RoundCap));
    painter.drawArc(round, arcStart * sixteenths,
                    static_cast<int>(-arcSpan * sixteenths * position(Axis::x)));
    constexpr double degree = M_PI / 180;
    const double angle = (arcStart - arcSpan * position(Axis::x)) * degree;
    const QPointF at = round.center() + QPointF(std::cos(angle), -std::sin(angle)) * (round.width() / 2);
    painter.setPen(Qt::NoPen);
    painter.setBrush(tone());
    painter.drawEllipse(at, scaled(7), scaled(7));
    const QRectF below(inner().left(), inner().bottom() - scaled(34), inner().width(), scaled(17));
    paintReadout(painter, below, readout(Axis::x), Qt::AlignHCenter);
    paintCaption(painter, below.translated(0, scaled(17)), caption());
}

// Buttons.

void ButtonSurface::set(bool down) {
    if (element().latching) {
        if (down) move(Axis::x, position(Axis::x) >= 0.5 ? 0 : 1);
    } else {
        move(Axis::x, down ? 1 : 0);
    }
}

void ButtonSurface::press(const QPointF&, double) {
    set(true);
}
void ButtonSurface::lift() {
    set(false);
}
void ButtonSurface::pressReturn(bool down) {
    set(down);
}
void ButtonSurface::step(Axis, double by) {
    move(Axis::x, by > 0 ? 1 : 0);
}
void ButtonSurface::keyMoves(std::size_t, bool down) {
    set(down);
}

QString ButtonSurface::spokenWords() const {
    return position(Axis::x) >= 0.5 ? tr("on") : tr("off");
}

void ButtonSurface::paintStill(QPainter& painter) const {
    paintCard(painter, *this);
    paintName(painter, inner().adjusted(-scaled(4), 0, scaled(4), 0), nameToShow(nameOf(element())),
              Qt::AlignHCenter);
}

void ButtonSurface::paintMoving(QPainter& painter) const {
    const Theme& t = theme();
    const bool on = position(Axis::x) >= 0.5;
    const QRectF face = inner().adjusted(0, scaled(26), 0, -scaled(34));
    painter.setPen(on ? Qt::NoPen : QPen(t.line, 1));
    painter.setBrush(on ? tone() : t.ground);
    painter.drawRoundedRect(face, 8, 8);
    painter.setFont(bodyFont());
    painter.setPen(on ? t.ground : t.dim);
    painter.drawText(face, Qt::AlignCenter, on ? tr("on") : tr("off"));
    const QRectF below(inner().left() - scaled(6), face.bottom() + scaled(3), inner().width() + scaled(12),
                       inner().bottom() - face.bottom() + scaled(4));
    paintCaption(painter, below, caption());
}

}  // namespace mellow::app
