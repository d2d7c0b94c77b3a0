// Touch, pen and mouse come as different events and leave as one finger. A second finger on the same surface
// takes over from the first.
#include "app/pages/desk/surface.h"

#include "app/acts/desk_addresses.h"
#include "app/live/desk_stands.h"

#include <QPainter>
#include <QPainterPath>
#include <QTabletEvent>
#include <QTouchEvent>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"
#include "app/ground/words.h"

namespace mellow::app {

namespace {

constexpr double coarseStep = 0.05;
constexpr double fineStep = 1.0 / 127;

}  // namespace

const QStringList& toneNames() {
    static const QStringList names{QStringLiteral("honey"), QStringLiteral("mint"), QStringLiteral("clay"),
                                   QStringLiteral("sky"), QStringLiteral("ink")};
    return names;
}

QColor toneNamed(const std::string& name) {
    const Theme& t = theme();
    const std::array colours{t.honey, t.mint, t.clay, t.sky, t.ink};
    const qsizetype at = toneNames().indexOf(toQt(name));
    return at < 0 ? t.honey : colours.at(static_cast<std::size_t>(at));
}

Surface::Surface(Workspace& workspace, const DeskElement& element, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      element_(element),
      pace_(parent->findChild<FramePace*>(QString(), Qt::FindDirectChildrenOnly)) {
    setAttribute(Qt::WA_AcceptTouchEvents);
    // Its corners are of the page's own colour, so that the page behind need not be painted.
    setAttribute(Qt::WA_OpaquePaintEvent);
    setFocusPolicy(Qt::StrongFocus);
    setObjectName(toQt("element-" + element.id));
    for (std::size_t axis = 0; axis < axisCount; ++axis)
        at_.at(axis) = restOf(element, static_cast<Axis>(axis));
}

Surface::~Surface() {
    if (pace_ != nullptr) pace_->forget(this);
}

/// With all else that moves, as one picture.
void Surface::soon() {
    pace_ != nullptr ? pace_->soon(this, movingArea()) : update();
}

void Surface::show(const DeskElement& element, std::vector<desk::ElementTarget> targets) {
    element_ = element;
    targets_ = std::move(targets);
    setAccessibleName(nameToShow(nameOf(element_)));
    QStringList tips{nameToShow(nameOf(element_))};
    for (const desk::ElementTarget& target : targets_) tips << placeOf(target);
    if (targets_.empty() && isSource(element_)) tips << tr("It leads nowhere yet.");
    setToolTip(tips.join(QLatin1Char('\n')));
    elementChanged();
    still_.forget();
    update();
    refresh();
}

void Surface::refresh() {
    bool moved = false;
    for (std::size_t i = 0; i < axesOf(element_); ++i) {
        const auto axis = static_cast<Axis>(i);
        const double now = workspace_.live.readings()
                               .deskPosition(addressOf(element_, axis))
                               .value_or(restOf(element_, axis));
        // What a finger has just done may not have been played yet.
        if (!isTouched() && now != at_.at(i)) {
            at_.at(i) = now;
            moved = true;
        }
        const desk::Readout reads = desk::readoutOf(targets_, axis, DeskStands(workspace_.live));
        Readout readout{toQt(reads.value), nameToShow(reads.name)};
        moved = moved || readout != readouts_.at(i);
        readouts_.at(i) = std::move(readout);
    }
    if (moved) soon();
    valuesMoved();
}

QString Surface::spokenWords() const {
    const QString own = tr("%1 %").arg(std::lround(position(Axis::x) * 100));
    const Readout& to = readout(Axis::x);
    return to.value.isEmpty() ? own : tr("%1, %2 %3").arg(own, to.name, to.value);
}

QRectF Surface::inner() const {
    return QRectF(rect()).adjusted(scaled(10), scaled(8), -scaled(10), -scaled(8));
}

QColor Surface::tone() const {
    return toneNamed(element_.tone);
}

void Surface::move(Axis axis, double position) {
    const double to = std::clamp(position, 0.0, 1.0);
    at_.at(static_cast<std::size_t>(axis)) = to;
    workspace_.live.hands().moveDesk(addressOf(element_, axis), to);
    soon();
}

void Surface::spring() {
    if (element_.kind == ElementKind::pad) move(Axis::touch, 0);
    if (!element_.springs) return;
    move(Axis::x, restOf(element_, Axis::x));
    if (element_.kind == ElementKind::pad) move(Axis::y, restOf(element_, Axis::y));
}

void Surface::step(Axis axis, double by) {
    move(axis, position(axis) + by);
}

void Surface::keyMoves(std::size_t, bool down) {
    move(Axis::x, down ? 1 : restOf(element_, Axis::x));
}

// Fingers.

void Surface::fingerDown(int finger, const QPointF& at, double pressure) {
    finger_ = finger;
    fingerAt_ = at;
    press(at, pressure);
    soon();
}

void Surface::fingerMoves(int finger, const QPointF& at, double pressure, bool fine) {
    if (finger != finger_) return;
    drag(at, at - fingerAt_, pressure, fine);
    fingerAt_ = at;
    soon();
}

void Surface::fingerUp(int finger) {
    if (finger != finger_) return;
    finger_ = nobody;
    lift();
    soon();
}

bool Surface::touch(QTouchEvent& event) {
    if (event.type() == QEvent::TouchCancel) {
        fingerUp(finger_);
        return true;
    }
    for (const QEventPoint& point : event.points()) {
        const double pressure = point.pressure() > 0 ? point.pressure() : 1;
        switch (point.state()) {
            case QEventPoint::Pressed:
                fingerDown(point.id(), point.position(), pressure);
                break;
            case QEventPoint::Updated:
                fingerMoves(point.id(), point.position(), pressure, false);
                break;
            case QEventPoint::Released:
                fingerUp(point.id());
                break;
            default:
                break;
        }
    }
    event.accept();
    return true;
}

bool Surface::event(QEvent* event) {
    switch (event->type()) {
        case QEvent::TouchBegin:
        case QEvent::TouchUpdate:
        case QEvent::TouchEnd:
        case QEvent::TouchCancel:
            return touch(*static_cast<QTouchEvent*>(event));
        case QEvent::TabletPress:
        case QEvent::TabletMove:
        case QEvent::TabletRelease: {
            auto& pen = *static_cast<QTabletEvent*>(event);
            if (pen.type() == QEvent::TabletPress) fingerDown(penFinger, pen.position(), pen.pressure());
            if (pen.type() == QEvent::TabletMove)
                fingerMoves(penFinger, pen.position(), pen.pressure(), false);
            if (pen.type() == QEvent::TabletRelease) fingerUp(penFinger);
            pen.accept();
            return true;
        }
        default:
            return QWidget::event(event);
    }
}

void Surface::mousePressEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton) fingerDown(mouseFinger, event->position(), 1);
}
void Surface::mouseMoveEvent(QMouseEvent* event) {
    fingerMoves(mouseFinger, event->position(), 1, (event->modifiers() & Qt::ShiftModifier) != 0);
}
void Surface::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton) fingerUp(mouseFinger);
}

void Surface::keyPressEvent(QKeyEvent* event) {
    const double by = (event->modifiers() & Qt::ShiftModifier) != 0 ? fineStep : coarseStep;
    switch (event->key()) {
        case Qt::Key_Up:
            return step(element_.kind == ElementKind::pad ? Axis::y : Axis::x, by);
        case Qt::Key_Down:
            return step(element_.kind == ElementKind::pad ? Axis::y : Axis::x, -by);
        case Qt::Key_Right:
            return step(Axis::x, by);
        case Qt::Key_Left:
            return step(Axis::x, -by);
        case Qt::Key_Home:
            return step(Axis::x, -1);
        case Qt::Key_End:
            return step(Axis::x, 1);
        case Qt::Key_Return:
            if (!event->isAutoRepeat()) pressReturn(true);
            return;
        default:
            QWidget::keyPressEvent(event);
    }
}

void Surface::keyReleaseEvent(QKeyEvent* event) {
    if (event->key() != Qt::Key_Return) return QWidget::keyReleaseEvent(event);
    if (!event->isAutoRepeat()) pressReturn(false);
}

void Surface::wheelEvent(QWheelEvent* event) {
    constexpr double notch = 120;
    const double by = (event->modifiers() & Qt::ShiftModifier) != 0 ? fineStep : coarseStep / 2;
    const QPoint turned = event->angleDelta();
    if (turned.y() != 0) step(element_.kind == ElementKind::pad ? Axis::y : Axis::x, by * turned.y() / notch);
    if (turned.x() != 0) step(Axis::x, by * turned.x() / notch);
    event->accept();
}

void Surface::focusInEvent(QFocusEvent* event) {
    QWidget::focusInEvent(event);
    update();
}
void Surface::focusOutEvent(QFocusEvent* event) {
    QWidget::focusOutEvent(event);
    update();
}

// Painting.

void Surface::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    still_.draw(
        painter, *this, [this](QPainter& still) { paintStill(still); }, theme().ground);
    paintMoving(painter);
    if (!hasFocus()) return;
    painter.setPen(QPen(theme().sky, 1.5));
    painter.setBrush(Qt::NoBrush);
    painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 10, 10);
}

/// Mint and pointed, as all that is sent.
void Surface::paintReadout(QPainter& painter, const QRectF& area, const Readout& readout,
                           Qt::Alignment alignment) const {
    if (readout.value.isEmpty()) return;
    const Theme& t = theme();
    const double mark = scaled(7);
    const double gap = scaled(5);
    // Where there is little room the unit gives way first, and then the figures get smaller.
    QString value = readout.value;
    QFont font = numberFont();
    const auto fits = [&] {
        return mark + gap + QFontMetricsF(font).horizontalAdvance(value) <= area.width();
    };
    if (!fits()) value = value.section(QLatin1Char(' '), 0, 0);
    const int least = scaled(8);
    while (!fits() && font.pixelSize() > least) font.setPixelSize(font.pixelSize() - 1);
    painter.setFont(font);
    const double wide = mark + gap + painter.fontMetrics().horizontalAdvance(value);
    const double left = (alignment & Qt::AlignHCenter) != 0 ? area.center().x() - wide / 2
                        : (alignment & Qt::AlignRight) != 0 ? area.right() - wide
                                                            : area.left();
    const QRectF line(std::max(area.left(), left), area.top(), std::min(wide, area.width()), area.height());
    QPainterPath pointed;
    pointed.moveTo(line.left(), line.center().y());
    pointed.lineTo(line.left() + mark, line.center().y() - mark * 0.6);
    pointed.lineTo(line.left() + mark, line.center().y() + mark * 0.6);
    pointed.closeSubpath();
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.mint);
    painter.drawPath(pointed);
    painter.setPen(t.mint);
    const QRectF words = line.adjusted(mark + gap, 0, 0, 0);
    painter.drawText(words, Qt::AlignVCenter | Qt::AlignLeft | Qt::TextDontClip, value);
}

QString Surface::caption() const {
    const QString& to = readout(Axis::x).name;
    if (to.isEmpty()) return tr("leads nowhere");
    return to == toQt(nameOf(element_)) ? QString() : to;
}

void Surface::paintCaption(QPainter& painter, const QRectF& area, const QString& caption) const {
    painter.setFont(captionFont());
    painter.setPen(theme().dim);
    const QFontMetrics metrics = painter.fontMetrics();
    const auto fitsInALine = [&](const QString& text) {
        return metrics.horizontalAdvance(text) <= area.width();
    };
    const QStringList words = caption.split(QLatin1Char(' '));
    const bool fits = fitsInALine(caption) || (area.height() >= 2 * metrics.height() &&
                                               std::all_of(words.begin(), words.end(), fitsInALine));
    painter.drawText(
        area, Qt::AlignTop | Qt::AlignHCenter | Qt::TextWordWrap,
        fits ? caption : metrics.elidedText(caption, Qt::ElideRight, static_cast<int>(area.width())));
}

}  // namespace mellow::app
