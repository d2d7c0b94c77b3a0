// The curve is the trunk's settled position at a point for every two pixels, steps with memory taken at where
// they come to rest. Handles lie over it in the coordinates of the step that is selected, which are not those
// of the whole trunk: a step sees what comes out of the ones before it.
#include "app/pages/chains/response_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace mellow::app {

namespace {

constexpr double margin = 7;
constexpr double narrowest = 0.005;  // between two points, so that x strictly rises

}  // namespace

void paintResponse(QPainter& painter, const QRectF& rect, const std::vector<Step>& steps, const QColor& color,
                   double width) {
    QPainterPath path;
    const int count = std::max(24, static_cast<int>(rect.width()));
    for (int i = 0; i <= count; ++i) {
        const double x = static_cast<double>(i) / count;
        const QPointF point(rect.left() + x * rect.width(),
                            rect.bottom() - settledPosition(steps, x) * rect.height());
        if (i == 0) {
            path.moveTo(point);
        } else {
            path.lineTo(point);
        }
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(color, width, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.drawPath(path);
}

ResponsePicture::ResponsePicture(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
    setAccessibleName(tr("Response"));
}

QSize ResponsePicture::sizeHint() const {
    return minimumSizeHint();
}
QSize ResponsePicture::minimumSizeHint() const {
    return {scaled(56), scaled(60)};
}

QRectF ResponsePicture::plot() const {
    return QRectF(rect()).adjusted(margin, margin, -margin, -margin);
}

QPointF ResponsePicture::toWidget(double x, double y) const {
    const QRectF area = plot();
    return {area.left() + x * area.width(), area.bottom() - y * area.height()};
}

Point ResponsePicture::fromWidget(const QPointF& point) const {
    const QRectF area = plot();
    return {std::clamp((point.x() - area.left()) / area.width(), 0.0, 1.0),
            std::clamp((area.bottom() - point.y()) / area.height(), 0.0, 1.0)};
}

QPointF ResponsePicture::dotPoint() const {
    return toWidget(dot_.x, dot_.y);
}

void ResponsePicture::showSteps(const std::vector<Step>& steps, int selected) {
    if (steps == steps_ && selected == selected_) return;
    if (selected != selected_) handle_ = -1;
    steps_ = steps;
    selected_ = selected;
    setToolTip(drawsPoints() ? tr("Drag a point; double-click the line to add one; Delete removes it.")
               : bends()     ? tr("Drag the handle to bend the curve.")
                             : tr("How the source's travel becomes the result."));
    repaintAll();
}

void ResponsePicture::showDot(double x, double y, bool spoken, bool active) {
    if (dot_ == Point{x, y} && spoken == spoken_ && active == active_) return;
    if (active != active_) still_.forget();
    dot_ = {x, y};
    spoken_ = spoken;
    active_ = active;
    update();
}

const Step* ResponsePicture::selectedStep() const {
    const bool there = selected_ >= 0 && selected_ < static_cast<int>(steps_.size());
    return there ? &steps_[static_cast<std::size_t>(selected_)] : nullptr;
}

bool ResponsePicture::drawsPoints() const {
    const Step* step = selectedStep();
    return step != nullptr && step->kind->name == "points";
}

bool ResponsePicture::bends() const {
    const Step* step = selectedStep();
    return step != nullptr && step->kind->name == "bend";
}

std::vector<Point> ResponsePicture::handles() const {
    if (drawsPoints()) return pointsOf(*selectedStep(), 0);
    if (bends()) return {{0.5, shapePosition(*selectedStep(), 0.5)}};
    return {};
}

void ResponsePicture::paintStill(QPainter& painter) const {
    const Theme& t = theme();
    painter.setPen(hasFocus() ? QPen(t.sky, 1) : Qt::NoPen);
    painter.setBrush(t.ground);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    const QRectF area = plot();
    painter.setPen(QPen(blend(t.ground, t.line, 0.7), 1, Qt::DotLine));
    for (int i = 1; i < 4; ++i) {
        painter.drawLine(toWidget(i / 4.0, 0), toWidget(i / 4.0, 1));
        painter.drawLine(toWidget(0, i / 4.0), toWidget(1, i / 4.0));
    }
    const Step* own = selectedStep();
    const bool overlay =
        own != nullptr && own->kind->shape != nullptr && steps_.size() > 1 && (drawsPoints() || bends());
    if (overlay) paintResponse(painter, area, {*own}, blend(t.ground, t.sky, 0.8), 1.5);
    paintResponse(painter, area, steps_, active_ ? t.mint : blend(t.ground, t.mint, 0.45), 2.4);
}

void ResponsePicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    still_.draw(painter, *this, [this](QPainter& still) { paintStill(still); });
    const Theme& t = theme();
    if (active_) {
        // Straight lines need no smoothing, and are drawn at every picture.
        const QPointF dot = dotPoint();
        painter.setPen(QPen(t.honey, 1, Qt::DashLine));
        painter.drawLine(QPointF(dot.x(), height() - 1.0).toPoint(), dot.toPoint());
        painter.setPen(QPen(t.mint, 1, Qt::DashLine));
        painter.drawLine(dot.toPoint(), QPointF(width() - 1.0, dot.y()).toPoint());
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(spoken_ ? QPen(t.ground, 2) : QPen(t.dim, 2));
        painter.setBrush(spoken_ ? t.ink : t.ground);
        painter.drawEllipse(dot, scaled(6), scaled(6));
    }
    const std::vector<Point> grips = handles();
    for (std::size_t i = 0; i < grips.size(); ++i) {
        painter.setPen(QPen(t.ground, 1.5));
        painter.setBrush(static_cast<int>(i) == handle_ ? t.ink : t.sky);
        painter.drawRect(QRectF(toWidget(grips[i].x, grips[i].y) - QPointF(4.5, 4.5), QSizeF(9, 9)));
    }
}

void ResponsePicture::repaintAll() {
    still_.forget();
    update();
}

void ResponsePicture::focusInEvent(QFocusEvent* event) {
    QWidget::focusInEvent(event);
    repaintAll();
}

void ResponsePicture::focusOutEvent(QFocusEvent* event) {
    QWidget::focusOutEvent(event);
    repaintAll();
}

void ResponsePicture::mousePressEvent(QMouseEvent* event) {
    emit picked();
    handle_ = -1;
    gesture_ = Document::newGesture();
    const std::vector<Point> grips = handles();
    for (std::size_t i = 0; i < grips.size(); ++i) {
        const QPointF to = toWidget(grips[i].x, grips[i].y) - event->position();
        if (std::hypot(to.x(), to.y()) < scaled(11)) handle_ = static_cast<int>(i);
    }
    update();
}

void ResponsePicture::mouseMoveEvent(QMouseEvent* event) {
    if (handle_ < 0 || (event->buttons() & Qt::LeftButton) == 0) return;
    const Point to = fromWidget(event->position());
    if (bends()) {
        // y = ½^γ and γ = 8^b, so b = log8(log½ y).
        const double y = std::clamp(to.y, 0.004, 0.917);
        setAmount(std::log(std::log(y) / std::log(0.5)) / std::log(8.0), gesture_);
    } else {
        movePoint(static_cast<std::size_t>(handle_), to, gesture_);
    }
}

void ResponsePicture::setAmount(double amount, Gesture gesture) {
    Step changed = *selectedStep();
    changed.values[0] = std::clamp(std::round(amount * 100) / 100, -1.0, 1.0);
    emit stepChanged(changed, gesture);
}

void ResponsePicture::movePoint(std::size_t index, Point to, Gesture gesture) {
    Step changed = *selectedStep();
    auto& points = std::get<std::vector<Point>>(changed.values[0]);
    if (index >= points.size()) return;
    const double round = 1000;
    Point& point = points[index];
    point.y = std::round(to.y * round) / round;
    if (index > 0 && index + 1 < points.size()) {
        const double x = std::clamp(to.x, points[index - 1].x + narrowest, points[index + 1].x - narrowest);
        point.x = std::round(x * round) / round;
    }
    emit stepChanged(changed, gesture);
}

void ResponsePicture::mouseDoubleClickEvent(QMouseEvent* event) {
    if (!drawsPoints() || handle_ >= 0) return;
    const Point at = fromWidget(event->position());
    Step changed = *selectedStep();
    auto& points = std::get<std::vector<Point>>(changed.values[0]);
    const auto next = std::find_if(points.begin(), points.end(), [&](const Point& p) { return p.x > at.x; });
    if (next == points.begin() || next == points.end()) return;
    if (at.x - (next - 1)->x < narrowest || next->x - at.x < narrowest) return;
    handle_ = static_cast<int>(next - points.begin());
    points.insert(next, {std::round(at.x * 1000) / 1000, std::round(at.y * 1000) / 1000});
    emit stepChanged(changed, 0);
}

void ResponsePicture::keyPressEvent(QKeyEvent* event) {
    const double step = (event->modifiers() & Qt::ShiftModifier) != 0 ? 0.01 : 0.05;
    const bool vertical = event->key() == Qt::Key_Up || event->key() == Qt::Key_Down;
    const double way = event->key() == Qt::Key_Up || event->key() == Qt::Key_Right ? step : -step;
    const bool arrow = vertical || event->key() == Qt::Key_Left || event->key() == Qt::Key_Right;
    if (bends() && vertical) return setAmount(numberOf(*selectedStep(), 0) - way, 0);
    if (!drawsPoints()) return QWidget::keyPressEvent(event);
    const std::vector<Point> points = pointsOf(*selectedStep(), 0);
    const bool inner = handle_ > 0 && handle_ + 1 < static_cast<int>(points.size());
    if (event->key() == Qt::Key_Delete && inner) {
        Step changed = *selectedStep();
        auto& left = std::get<std::vector<Point>>(changed.values[0]);
        left.erase(left.begin() + handle_);
        handle_ = -1;
        emit stepChanged(changed, 0);
    } else if (event->key() == Qt::Key_Space) {
        handle_ = (handle_ + 1) % static_cast<int>(points.size());
        update();
    } else if (arrow && handle_ >= 0) {
        Point to = points[static_cast<std::size_t>(handle_)];
        (vertical ? to.y : to.x) += way;
        movePoint(static_cast<std::size_t>(handle_), {to.x, std::clamp(to.y, 0.0, 1.0)}, 0);
    } else {
        QWidget::keyPressEvent(event);
    }
}

}  // namespace mellow::app
