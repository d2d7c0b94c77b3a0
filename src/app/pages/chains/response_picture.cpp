// The curve is the trunk's settled position at a point for every pixel of its width, steps with memory taken
// at where they come to rest. Handles lie over it in the coordinates of the step that is selected, which are
// not those of the whole trunk: a step sees what comes out of the ones before it.
#include "app/pages/chains/response_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"

namespace mellow::app {

namespace {

constexpr double margin = 7;
constexpr double narrowest = 0.005;  // between two points, so that x strictly rises
constexpr double mostZoom = 16;
constexpr double trails = 0.012;  // a distance from the goal that can be seen

}  // namespace

void paintResponse(QPainter& painter, const QRectF& rect, const std::vector<Step>& steps, const QColor& color,
                   double width, double other) {
    QPainterPath path;
    const int count = std::max(24, static_cast<int>(rect.width()));
    for (int i = 0; i <= count; ++i) {
        const double x = static_cast<double>(i) / count;
        const QPointF point(rect.left() + x * rect.width(),
                            rect.bottom() - settledPosition(steps, x, other) * rect.height());
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
    // Its corners are of the lever's colour, so that nothing behind is painted for it.
    setAttribute(Qt::WA_OpaquePaintEvent);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
    setAccessibleName(tr("Response"));
}

QSize ResponsePicture::sizeHint() const {
    return minimumSizeHint();
}
QSize ResponsePicture::minimumSizeHint() const {
    return {scaled(56), scaled(60)};
}

void ResponsePicture::showOther(double other) {
    constexpr double seen = 0.002;
    if (std::abs(other - other_) < seen) return;
    other_ = other;
    repaintAll();
}

QRectF ResponsePicture::plot() const {
    return QRectF(rect()).adjusted(margin, margin, -margin, -margin);
}

QPointF ResponsePicture::toWidget(double x, double y) const {
    const QRectF area = plot();
    return {area.left() + (x - corner_.x) * zoom_ * area.width(),
            area.bottom() - (y - corner_.y) * zoom_ * area.height()};
}

Point ResponsePicture::fromWidget(const QPointF& point) const {
    const QRectF area = plot();
    return {std::clamp(corner_.x + (point.x() - area.left()) / area.width() / zoom_, 0.0, 1.0),
            std::clamp(corner_.y + (area.bottom() - point.y()) / area.height() / zoom_, 0.0, 1.0)};
}

QPointF ResponsePicture::dotPoint() const {
    const QRectF area = plot();
    const QPointF at = toWidget(dot_.x, dot_.y);
    return {std::clamp(at.x(), area.left(), area.right()), std::clamp(at.y(), area.top(), area.bottom())};
}

void ResponsePicture::setZoom(double zoom) {
    zoom = std::clamp(zoom, 1.0, mostZoom);
    if (zoom == zoom_) return;
    // What is in the middle of attention stays there: the handle that is held, or the dot.
    const std::vector<Handle> grips = handles();
    const Point about = handle_ >= 0 && handle_ < static_cast<int>(grips.size())
                            ? grips[static_cast<std::size_t>(handle_)].at
                            : dot_;
    zoom_ = zoom;
    const double seen = 1 / zoom_;
    corner_ = {std::clamp(about.x - seen / 2, 0.0, 1 - seen), std::clamp(about.y - seen / 2, 0.0, 1 - seen)};
    repaintAll();
}

/// Zoomed in, the picture follows the dot where that leaves it.
void ResponsePicture::keepDotInView() {
    if (zoom_ == 1) return;
    const double seen = 1 / zoom_;
    const bool inView = dot_.x >= corner_.x && dot_.x <= corner_.x + seen && dot_.y >= corner_.y &&
                        dot_.y <= corner_.y + seen;
    if (inView || handle_ >= 0) return;
    corner_ = {std::clamp(dot_.x - seen / 2, 0.0, 1 - seen), std::clamp(dot_.y - seen / 2, 0.0, 1 - seen)};
    repaintAll();
}

void ResponsePicture::showSteps(const std::vector<Step>& steps, int selected) {
    if (steps == steps_ && selected == selected_) return;
    if (selected != selected_) handle_ = -1;
    steps_ = steps;
    selected_ = selected;
    const Step* step = selectedStep();
    const QString help = step == nullptr ? QString() : handleHelp(*step);
    setToolTip((help.isEmpty() ? tr("How the source’s travel becomes the result.") : help) +
               tr(" Ctrl and the wheel zoom, 0 shows all."));
    repaintAll();
}

void ResponsePicture::showBefore(const std::vector<Step>& steps) {
    if (steps == before_) return;
    before_ = steps;
    repaintAll();
}

void ResponsePicture::showDot(double x, double y, double goal, std::uint32_t stepsUp, bool spoken,
                              bool active) {
    const bool same =
        dot_ == Point{x, y} && goal == goal_ && spoken == spoken_ && active == active_ && stepsUp == stepsUp_;
    if (same) return;
    if (active != active_ || stepsUp != stepsUp_) still_.forget();
    dot_ = {x, y};
    goal_ = goal;
    stepsUp_ = stepsUp;
    spoken_ = spoken;
    active_ = active;
    keepDotInView();
    update();
}

QString ResponsePicture::spokenWords() const {
    return tr("%1 becomes %2").arg(dot_.x, 0, 'f', 2).arg(dot_.y, 0, 'f', 2);
}

const Step* ResponsePicture::selectedStep() const {
    const bool there = selected_ >= 0 && selected_ < static_cast<int>(steps_.size());
    return there ? &steps_[static_cast<std::size_t>(selected_)] : nullptr;
}

bool ResponsePicture::drawsPoints() const {
    const Step* step = selectedStep();
    return step != nullptr && step->kind->name == "points";
}

std::vector<Handle> ResponsePicture::handles() const {
    const Step* step = selectedStep();
    if (step == nullptr) return {};
    std::vector<Handle> grips = handlesOf(*step);
    for (Handle& grip : grips) {
        if (grip.moves == Handle::Moves::across) grip.at.x = outer(*step, grip.at.x);
    }
    return grips;
}

double ResponsePicture::inner(const Step& step, double outer) const {
    const auto place = static_cast<std::size_t>(&step - steps_.data());
    return place == 0 ? outer : settledPosition({steps_.data(), place}, outer);
}

/// The travel before a step rises as a rule, and then the place is found by halves; where it falls, likewise.
double ResponsePicture::outer(const Step& step, double inner) const {
    if (&step == steps_.data()) return inner;
    const bool rises = this->inner(step, 1) >= this->inner(step, 0);
    double low = 0;
    double high = 1;
    constexpr int halvings = 14;
    for (int i = 0; i < halvings; ++i) {
        const double middle = (low + high) / 2;
        const bool above = this->inner(step, middle) >= inner;
        (above == rises ? high : low) = middle;
    }
    return (low + high) / 2;
}

const Step* ResponsePicture::bandedStep() const {
    if (const Step* step = selectedStep()) return bandsOf(*step).empty() ? nullptr : step;
    const auto first = std::find_if(steps_.begin(), steps_.end(), [](const Step& step) { return step.on; });
    const bool divides =
        first != steps_.end() && (first->kind->name == "levels" || first->kind->name == "gate");
    return divides ? &*first : nullptr;
}

/// Each with its name at its foot; the one that is in force lit.
void ResponsePicture::paintBands(QPainter& painter) const {
    const Step* step = bandedStep();
    if (step == nullptr) return;
    const Theme& t = theme();
    const QRectF area = plot();
    const auto place = static_cast<std::size_t>(step - steps_.data());
    std::size_t bit = 0;
    for (std::size_t i = 0; i < place; ++i) bit += steps_[i].on ? 1 : 0;
    const bool switches = step->kind->name == "gate" || step->kind->name == "latch";
    const bool up = bit < 32 && (stepsUp_ >> bit & 1) != 0;
    const double in = inner(*step, dot_.x);
    painter.setFont(captionFont());
    const std::vector<Band> bands = bandsOf(*step);
    for (std::size_t b = 0; b < bands.size(); ++b) {
        const Band& band = bands[b];
        const double from = band.from <= 0 ? 0 : outer(*step, band.from);
        const double to = band.to >= 1 ? 1 : outer(*step, band.to);
        const double left = std::max(toWidget(from, 0).x(), area.left());
        const double right = std::min(toWidget(to, 0).x(), area.right());
        if (right <= left) continue;
        const QRectF part(left, area.top(), right - left, area.height());
        const bool inForce = spoken_ && !band.dead &&
                             (switches ? up == (b + 1 == bands.size()) : in >= band.from && in < band.to);
        if (band.dead) painter.fillRect(part, QBrush(blend(t.ground, t.line, 0.6), Qt::BDiagPattern));
        if (inForce) painter.fillRect(part, blend(t.ground, t.mint, 0.16));
        painter.setPen(QPen(blend(t.ground, t.line, 0.9), 1));
        if (b > 0) painter.drawLine(part.topLeft(), part.bottomLeft());
        const double wide = part.width() - 4;
        const QString name =
            painter.fontMetrics().elidedText(band.name, Qt::ElideRight, static_cast<int>(wide));
        if (name.size() < 2 && band.name.size() > 2) continue;
        painter.setPen(inForce ? t.ink : t.dim);
        painter.drawText(part.adjusted(2, 2, -2, 0), Qt::AlignHCenter | Qt::AlignTop, name);
    }
}

void ResponsePicture::paintStill(QPainter& painter) const {
    const Theme& t = theme();
    painter.setPen(hasFocus() ? QPen(t.sky, 1) : Qt::NoPen);
    painter.setBrush(t.ground);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    const QRectF area = plot();
    const QRectF whole(toWidget(0, 1), toWidget(1, 0));
    painter.save();
    if (zoom_ > 1) painter.setClipRect(area.adjusted(-1, -1, 1, 1));
    paintBands(painter);
    painter.setPen(QPen(blend(t.ground, t.line, 0.7), 1, Qt::DotLine));
    const int lines = zoom_ > 2 ? 20 : 4;
    for (int i = 1; i < lines; ++i) {
        painter.drawLine(toWidget(static_cast<double>(i) / lines, 0),
                         toWidget(static_cast<double>(i) / lines, 1));
        painter.drawLine(toWidget(0, static_cast<double>(i) / lines),
                         toWidget(1, static_cast<double>(i) / lines));
    }
    if (before_ != steps_) paintResponse(painter, whole, before_, blend(t.ground, t.ink, 0.35), 1.2, other_);
    const Step* own = selectedStep();
    if (own != nullptr && own->kind->namesSource && other_ >= 0) paintBothHands(painter, whole);
    const bool overlay =
        own != nullptr && own->kind->shape != nullptr && steps_.size() > 1 && !handles().empty();
    if (overlay) paintResponse(painter, whole, {*own}, blend(t.ground, t.sky, 0.8), 1.5);
    paintResponse(painter, whole, steps_, active_ ? t.mint : blend(t.ground, t.mint, 0.45), 2.4, other_);
    painter.restore();
    if (zoom_ > 1) {
        painter.setFont(captionFont());
        painter.setPen(t.dim);
        painter.drawText(area.adjusted(0, 2, -4, 0), Qt::AlignRight | Qt::AlignBottom,
                         tr("%1× · 0 shows all").arg(zoom_, 0, 'g', 2));
    }
}

/// What comes of the first hand while the other is at either end of its travel.
void ResponsePicture::paintBothHands(QPainter& painter, const QRectF& whole) const {
    const Theme& t = theme();
    painter.setFont(captionFont());
    for (const int end : {0, 1}) {
        paintResponse(painter, whole, steps_, blend(t.ground, t.honey, 0.6), 1.2, end);
        const double at = end == 0 ? 0.12 : 0.88;
        const QPointF place = toWidget(at, settledPosition(steps_, at, end));
        const QString words = end == 0 ? tr("other at rest") : tr("other full");
        const double width = painter.fontMetrics().horizontalAdvance(words) + scaled(6);
        QRectF label(end == 0 ? place.x() : place.x() - width, place.y() - scaled(16), width, scaled(14));
        label.moveTop(std::clamp(label.top(), whole.top(), whole.bottom() - label.height()));
        painter.setPen(t.dim);
        painter.drawText(label, Qt::AlignCenter, words);
    }
}

void ResponsePicture::paintDot(QPainter& painter) const {
    const Theme& t = theme();
    // Straight lines need no smoothing, and are drawn at every picture.
    const QPointF dot = dotPoint();
    painter.setPen(QPen(t.honey, 1, Qt::DashLine));
    painter.drawLine(QPointF(dot.x(), height() - 1.0).toPoint(), dot.toPoint());
    painter.setPen(QPen(t.mint, 1, Qt::DashLine));
    painter.drawLine(dot.toPoint(), QPointF(width() - 1.0, dot.y()).toPoint());
    painter.setRenderHint(QPainter::Antialiasing);
    if (spoken_ && std::abs(goal_ - dot_.y) > trails) {
        // It is on its way.
        const QPointF goal = toWidget(dot_.x, goal_);
        painter.setPen(QPen(t.ink, 1));
        painter.drawLine(dot, goal);
        painter.setPen(QPen(t.ink, 1.5));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(goal, scaled(6), scaled(6));
    }
    painter.setPen(spoken_ ? QPen(t.ground, 2) : QPen(t.dim, 2));
    painter.setBrush(spoken_ ? t.ink : t.ground);
    painter.drawEllipse(dot, scaled(6), scaled(6));
}

void ResponsePicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    still_.draw(
        painter, *this, [this](QPainter& still) { paintStill(still); }, theme().panel);
    const Theme& t = theme();
    if (active_) paintDot(painter);
    const std::vector<Handle> grips = handles();
    if (zoom_ > 1) painter.setClipRect(plot().adjusted(-5, -5, 5, 5));
    for (std::size_t i = 0; i < grips.size(); ++i) {
        painter.setPen(QPen(t.ground, 1.5));
        painter.setBrush(static_cast<int>(i) == handle_ ? t.ink : t.sky);
        const QPointF at = toWidget(grips[i].at.x, grips[i].at.y);
        // What moves along one line is as long as that line is.
        const bool across = grips[i].moves == Handle::Moves::across;
        painter.drawRect(QRectF(at - QPointF(across ? 2.5 : 4.5, across ? 9 : 4.5),
                                QSizeF(across ? 5 : 9, across ? 18 : 9)));
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
    handle_ = handleAt(event->position());
    gesture_ = Document::newGesture();
    update();
}

/// The handle that a press at a place takes hold of, or −1.
int ResponsePicture::handleAt(const QPointF& place) const {
    int found = -1;
    const std::vector<Handle> grips = handles();
    for (std::size_t i = 0; i < grips.size(); ++i) {
        const QPointF to = toWidget(grips[i].at.x, grips[i].at.y) - place;
        const bool across = grips[i].moves == Handle::Moves::across;
        if (std::hypot(to.x(), across ? to.y() / 2 : to.y()) < scaled(11)) found = static_cast<int>(i);
    }
    return found;
}

void ResponsePicture::mouseMoveEvent(QMouseEvent* event) {
    if (handle_ < 0 || (event->buttons() & Qt::LeftButton) == 0) return;
    moveHandle(static_cast<std::size_t>(handle_), fromWidget(event->position()), gesture_);
}

void ResponsePicture::moveHandle(std::size_t handle, Point to, Gesture gesture) {
    const std::vector<Handle> grips = handlesOf(*selectedStep());
    if (handle < grips.size() && grips[handle].moves == Handle::Moves::across)
        to.x = inner(*selectedStep(), to.x);
    const Step changed = withHandleAt(*selectedStep(), handle, to);
    if (changed != *selectedStep()) emit stepChanged(changed, gesture);
}

void ResponsePicture::wheelEvent(QWheelEvent* event) {
    if ((event->modifiers() & Qt::ControlModifier) == 0) return QWidget::wheelEvent(event);
    constexpr double notch = 120;
    setZoom(zoom_ * std::pow(1.25, event->angleDelta().y() / notch));
    event->accept();
}

void ResponsePicture::mouseDoubleClickEvent(QMouseEvent* event) {
    if (!drawsPoints() || handleAt(event->position()) >= 0) return;
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

/// A point that is chosen is removed by the key that removes what is selected elsewhere.
bool ResponsePicture::event(QEvent* event) {
    const bool removes =
        event->type() == QEvent::ShortcutOverride && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Delete;
    if (removes && drawsPoints() && handle_ > 0) event->accept();
    return QWidget::event(event);
}

void ResponsePicture::keyPressEvent(QKeyEvent* event) {
    const double by = ((event->modifiers() & Qt::ShiftModifier) != 0 ? 0.01 : 0.05) / zoom_;
    const std::vector<Handle> grips = handles();
    const bool holds = handle_ >= 0 && handle_ < static_cast<int>(grips.size());
    switch (event->key()) {
        case Qt::Key_Plus:
            return setZoom(zoom_ * 1.5);
        case Qt::Key_Minus:
            return setZoom(zoom_ / 1.5);
        case Qt::Key_0:
            return setZoom(1);
        case Qt::Key_Return:
            if (grips.empty()) break;
            handle_ = (handle_ + 1) % static_cast<int>(grips.size());
            return update();
        case Qt::Key_Delete: {
            if (!drawsPoints() || handle_ <= 0 || handle_ + 1 >= static_cast<int>(grips.size())) break;
            Step changed = *selectedStep();
            auto& left = std::get<std::vector<Point>>(changed.values[0]);
            left.erase(left.begin() + handle_);
            handle_ = -1;
            emit stepChanged(changed, 0);
            return;
        }
        case Qt::Key_Up:
        case Qt::Key_Down:
        case Qt::Key_Left:
        case Qt::Key_Right: {
            // One handle needs no choosing.
            if (!holds && grips.size() != 1) break;
            const bool up = event->key() == Qt::Key_Up || event->key() == Qt::Key_Right;
            const bool vertical = event->key() == Qt::Key_Up || event->key() == Qt::Key_Down;
            const auto place = static_cast<std::size_t>(holds ? handle_ : 0);
            Point to = grips[place].at;
            (vertical ? to.y : to.x) += up ? by : -by;
            return moveHandle(place, to, 0);
        }
        default:
            break;
    }
    QWidget::keyPressEvent(event);
}

}  // namespace mellow::app
