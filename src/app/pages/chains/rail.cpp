// Everything is laid out from track(), the upright line between the margins; positions grow upward. What
// stands still is painted once into a picture and the moving value over it, since a rail is repainted sixty
// times a second while a hand moves. Dragging is relative to where the grip was taken hold of, and Shift
// divides it.
#include "app/pages/chains/rail.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"
#include "app/pages/chains/response_picture.h"

namespace mellow::app {

namespace {

constexpr double gripWidth = 26;
constexpr double gripHeight = 6;
constexpr double trackWidth = 8;
constexpr double fineShare = 0.1;
constexpr double selectedShare = 0.55;  // of the colour behind what is selected

/// A field for a number, over the number. Enter types it, Esc leaves it as it was; neither goes further.
class GripEditor : public QLineEdit {
 public:
    using QLineEdit::QLineEdit;

 protected:
    void keyPressEvent(QKeyEvent* event) override {
        const bool enters = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
        if (!enters && event->key() != Qt::Key_Escape) return QLineEdit::keyPressEvent(event);
        event->accept();
        if (!enters) setModified(false);
        emit editingFinished();
    }
    bool event(QEvent* event) override {
        // Esc is a shortcut elsewhere, and means the field here.
        const bool isOverride = event->type() == QEvent::ShortcutOverride;
        if (isOverride && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) event->accept();
        return QLineEdit::event(event);
    }
};

/// A text of up to two lines, as wide as a place; words that are wider end in an ellipsis.
QString fitting(const QFontMetrics& metrics, const QString& text, double width) {
    QStringList words;
    for (const QString& word : text.split(QLatin1Char(' ')))
        words << metrics.elidedText(word, Qt::ElideRight, static_cast<int>(width));
    const int twoLines = static_cast<int>(2 * width) - metrics.averageCharWidth() * 2;
    return metrics.elidedText(words.join(QLatin1Char(' ')), Qt::ElideRight, twoLines);
}

}  // namespace

Rail::Rail(Side side, QWidget* parent) : QWidget(parent), side_(side) {
    setFocusPolicy(Qt::StrongFocus);
    setSizePolicy(side == Side::source ? QSizePolicy::Minimum : QSizePolicy::Expanding,
                  QSizePolicy::Expanding);
    setMouseTracking(true);
}

QSize Rail::sizeHint() const {
    return {side_ == Side::source ? minimumSizeHint().width() : scaled(92), minimumSizeHint().height()};
}

bool Rail::needsRoom() const {
    const QFontMetrics metrics(captionFont());
    const int widest =
        std::max(metrics.horizontalAdvance(content_.lowText), metrics.horizontalAdvance(content_.highText));
    return side_ == Side::target && width() / 2.0 + scaled(14) - gripWidth / 2 - 5 < widest;
}

void Rail::setNarrow(bool narrow) {
    if (std::exchange(narrow_, narrow) != narrow) repaintAll();
}
QSize Rail::minimumSizeHint() const {
    if (side_ == Side::target) return {scaled(52), scaled(170)};
    // The numbers of its grips stand to the right of its middle, and are never cut.
    const QFontMetrics metrics(captionFont());
    const int widest =
        std::max(metrics.horizontalAdvance(content_.lowText), metrics.horizontalAdvance(content_.highText));
    return {std::max(scaled(68), 2 * (widest + scaled(11))), scaled(170)};
}

QColor Rail::color() const {
    const QColor full = side_ == Side::source ? theme().honey : theme().mint;
    return content_.active ? full : blend(theme().line, full, 0.3);
}

QRectF Rail::track() const {
    const double top = scaled(69);
    const double bottom = height() - scaled(52);
    const double x = side_ == Side::source ? width() * 0.5 - scaled(8)
                     : narrow_             ? width() * 0.5
                                           : width() * 0.5 - scaled(14);
    return {x - trackWidth / 2, top, trackWidth, std::max(40.0, bottom - top)};
}

double Rail::yOf(double position) const {
    const QRectF rail = track();
    return rail.bottom() - std::clamp(position, 0.0, 1.0) * rail.height();
}

QPointF Rail::valuePoint() const {
    const double offset = side_ == Side::source ? scaled(9) : -scaled(16);
    return {track().center().x() + offset, yOf(content_.value)};
}

QPointF Rail::gripPoint(Grip grip) const {
    return {track().center().x(), yOf(grip == Grip::low ? content_.low : content_.high)};
}

QRectF Rail::numberRect(Grip grip) const {
    const QPointF point = gripPoint(grip);
    const double height = scaled(16);
    // Numbers of grips that meet are moved apart.
    const double apart = std::abs(yOf(content_.low) - yOf(content_.high));
    const bool upper = (grip == Grip::high) == (content_.high >= content_.low);
    if (narrow_) {
        // Clear of the tab, which may stand at the grip.
        const double clear = scaled(9) + 1.0;
        return {0, upper ? point.y() - clear - height : point.y() + clear, static_cast<double>(width()),
                height};
    }
    const double shift = apart < height ? (upper ? -1 : 1) * (height - apart) / 2 : 0;
    return {point.x() + gripWidth / 2 + 3, point.y() - height / 2 + shift,
            width() - point.x() - gripWidth / 2 - 3, height};
}

void Rail::show(const RailContent& content) {
    if (content == content_) return;
    const bool moved = content.standsAs(content_);
    content_ = content;
    if (content_.traces) {
        constexpr std::size_t traced = 48;
        trace_.push_front(static_cast<float>(content_.value));
        if (trace_.size() > traced) trace_.pop_back();
    } else {
        trace_.clear();
    }
    if (moved) return update();
    still_.forget();
    setAccessibleName(content.name);
    setToolTip(content.tip);
    if (side_ == Side::source) updateGeometry();
    emit roomChanged();
    update();
}

QString Rail::spokenWords() const {
    return tr("%1, reach %2 to %3").arg(content_.valueText, content_.lowText, content_.highText);
}

void Rail::setSelected(bool selected) {
    if (selected == selected_) return;
    selected_ = selected;
    repaintAll();
}

void Rail::repaintAll() {
    still_.forget();
    update();
}

void Rail::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    still_.draw(painter, *this, [this](QPainter& still) { paintStill(still); });
    paintTrace(painter);
    paintValue(painter);
    const QRectF rail = track();
    painter.setFont(narrow_ ? captionFont() : numberFont());
    painter.setPen(content_.hasValue ? color() : theme().dim);
    const double valueWidth = painter.fontMetrics().horizontalAdvance(content_.valueText);
    painter.drawText(QPointF(std::max(rail.center().x() - valueWidth / 2, 2.0), height() - scaled(11)),
                     content_.valueText);
}

void Rail::paintStill(QPainter& painter) const {
    const Theme& t = theme();
    if (selected_ || hasFocus()) {
        painter.setPen(QPen(hasFocus() ? t.sky : t.line, 1));
        // Half clear, so that the thread behind it shows.
        QColor lit = t.raised;
        lit.setAlphaF(selectedShare);
        painter.setBrush(selected_ ? lit : Qt::transparent);
        painter.drawRoundedRect(QRectF(rect()).adjusted(1.5, 1.5, -1.5, -1.5), 8, 8);
    }
    painter.setFont(narrow_ ? captionFont() : bodyFont());
    painter.setPen(t.ink);
    const QRectF rail = track();
    const QString name = fitting(painter.fontMetrics(), content_.name, width() - 6);
    const double nameWidth = painter.fontMetrics().horizontalAdvance(name);
    const bool fitsOverTrack = rail.center().x() - nameWidth / 2 > 2;
    const double middle = fitsOverTrack ? rail.center().x() : width() / 2.0;
    painter.drawText(QRectF(middle - width() / 2.0 + 4, scaled(2), width() - 8, scaled(36)),
                     Qt::AlignHCenter | Qt::AlignBottom | Qt::TextWordWrap, name);

    painter.setFont(captionFont());
    painter.setPen(t.dim);
    // The ends of the range stay clear of the tab, and give way to the number of a grip that stands there.
    const auto drawEnd = [&](bool top, const QString& text) {
        const QRectF place = endRect(top);
        const bool taken =
            narrow_ && (numberRect(Grip::low).intersects(place) || numberRect(Grip::high).intersects(place));
        if (!taken) drawOver(painter, place, text);
    };
    drawEnd(true, content_.top);
    drawEnd(false, content_.bottom);

    painter.setPen(Qt::NoPen);
    painter.setBrush(t.ground);
    painter.drawRoundedRect(rail, trackWidth / 2, trackWidth / 2);
    const double from = yOf(content_.low);
    const double to = yOf(content_.high);
    painter.setBrush(blend(t.ground, color(), 0.5));
    painter.drawRect(QRectF(rail.left(), std::min(from, to), rail.width(), std::abs(from - to)));
    if (content_.before) {
        // Faint, where the grips were.
        painter.setPen(QPen(blend(t.panel, t.ink, 0.4), 1, Qt::DotLine));
        for (const double place : {content_.before->first, content_.before->second})
            painter.drawLine(QPointF(rail.left() - scaled(7), yOf(place)),
                             QPointF(rail.right() + scaled(7), yOf(place)));
    }
    paintOwn(painter);
    paintGrip(painter, Grip::low);
    paintGrip(painter, Grip::high);
    if (content_.low > content_.high) {
        painter.setFont(captionFont());
        painter.setPen(t.dim);
        painter.drawText(
            QRectF(rail.center().x() + gripWidth / 2 + 3, (from + to) / 2 - scaled(8), width(), scaled(16)),
            Qt::AlignLeft | Qt::AlignVCenter, narrow_ ? QStringLiteral("↓") : tr("falls"));
    }
}

QRectF Rail::endRect(bool top) const {
    const QRectF rail = track();
    return {rail.center().x() - width() / 2.0, top ? rail.top() - scaled(29) : rail.bottom() + scaled(13),
            static_cast<double>(width()), static_cast<double>(scaled(14))};
}

/// A text in the middle of a place, behind which threads pass.
void Rail::drawOver(QPainter& painter, const QRectF& place, const QString& text) const {
    const QPen pen = painter.pen();
    const double wide = painter.fontMetrics().horizontalAdvance(text) + scaled(4);
    painter.setPen(Qt::NoPen);
    painter.setBrush(selected_ ? blend(theme().panel, theme().raised, selectedShare) : theme().panel);
    if (!text.isEmpty())
        painter.drawRoundedRect(QRectF(place.center().x() - wide / 2, place.top(), wide, place.height()), 3,
                                3);
    painter.setPen(pen);
    painter.drawText(place, Qt::AlignCenter, text);
}

void Rail::paintGrip(QPainter& painter, Grip grip) const {
    const QPointF point = gripPoint(grip);
    painter.setPen(hasFocus() && chosen_ == grip ? QPen(theme().sky, 2) : QPen(Qt::NoPen));
    painter.setBrush(color());
    painter.drawRoundedRect(
        QRectF(point.x() - gripWidth / 2, point.y() - gripHeight / 2, gripWidth, gripHeight), 3, 3);
    painter.setFont(captionFont());
    painter.setPen(theme().ink);
    const QString text = grip == Grip::low ? content_.lowText : content_.highText;
    const QRectF place = numberRect(grip);
    // A thread may come by, and passes behind it; where rails are narrow it lies over the track.
    const double wide = painter.fontMetrics().horizontalAdvance(text) + scaled(4);
    const double left = narrow_ ? place.center().x() - wide / 2 : place.left() - 1;
    const QRectF behind(left, place.top() + 1, wide, place.height() - 2);
    painter.setPen(Qt::NoPen);
    painter.setBrush(selected_ ? blend(theme().panel, theme().raised, selectedShare) : theme().panel);
    painter.drawRoundedRect(behind, 3, 3);
    painter.setPen(theme().ink);
    painter.drawText(place, narrow_ ? Qt::AlignCenter : Qt::AlignLeft | Qt::AlignVCenter, text);
}

/// What this branch keeps for itself: the part of the chain's travel that it follows as a bracket in the
/// hands' colour, and what its own steps do as a small curve.
void Rail::paintOwn(QPainter& painter) const {
    const Theme& t = theme();
    const QRectF rail = track();
    const double left = rail.left() - scaled(narrow_ ? 9 : 20);
    if (content_.window) {
        const double from = yOf(content_.window->first);
        const double to = yOf(content_.window->second);
        painter.setPen(QPen(blend(t.panel, t.honey, content_.active ? 0.9 : 0.4), 2));
        painter.drawLine(QPointF(left, from), QPointF(left, to));
        for (const double y : {from, to}) painter.drawLine(QPointF(left, y), QPointF(left + scaled(4), y));
    }
    if (content_.steps.empty()) return;
    const double beside = std::min(rail.center().x() + scaled(24), width() - scaled(22) * 1.0);
    const QRectF place(beside, scaled(40), scaled(20), scaled(14));
    painter.setPen(QPen(t.line, 1));
    painter.setBrush(t.ground);
    painter.drawRoundedRect(place, 3, 3);
    paintResponse(painter, place.adjusted(3, 3, -3, -3), content_.steps, t.mint, 1.3);
}

/// Where the value of what moves by itself was, receding to the left.
void Rail::paintTrace(QPainter& painter) const {
    if (trace_.size() < 2) return;
    const double step = std::max(1.0, (track().center().x() - 2) / 48.0);
    QPolygonF line;
    for (std::size_t i = 0; i < trace_.size(); ++i)
        line << QPointF(track().center().x() - static_cast<double>(i) * step, yOf(trace_[i]));
    painter.setPen(QPen(blend(theme().panel, color(), 0.7), 1.4));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(line);
}

void Rail::paintValue(QPainter& painter) const {
    if (content_.goal >= 0) {
        // Where it is going.
        const double y = yOf(content_.goal);
        if (side_ == Side::source) {
            // A ghost: where the control is, which the value does not follow yet.
            painter.setPen(QPen(color(), 1.5, Qt::DotLine));
            painter.setBrush(Qt::NoBrush);
            painter.drawEllipse(QPointF(track().center().x(), y), scaled(7), scaled(7));
            painter.drawLine(QPointF(track().center().x(), y),
                             QPointF(track().center().x(), yOf(content_.value)));
        } else {
            painter.setPen(QPen(color(), 1.5));
            painter.drawLine(QPointF(track().center().x() - scaled(12), y),
                             QPointF(track().center().x() - scaled(5), y));
        }
    }
    const QPointF center(track().center().x(), yOf(content_.value));
    const QColor fill = content_.hasValue ? color() : theme().panel;
    painter.setPen(QPen(content_.hasValue ? theme().panel : color(), 2));
    painter.setBrush(fill);
    if (side_ == Side::source) {
        painter.drawEllipse(center, scaled(9), scaled(9));
        return;
    }
    // A tab that points left, to where its thread comes from.
    const double w = scaled(15);
    const double h = scaled(9);
    QPainterPath tab;
    tab.moveTo(center.x() - w, center.y());
    tab.lineTo(center.x() - w * 0.3, center.y() - h);
    tab.lineTo(center.x() + w * 0.8, center.y() - h);
    tab.lineTo(center.x() + w * 0.8, center.y() + h);
    tab.lineTo(center.x() - w * 0.3, center.y() + h);
    tab.closeSubpath();
    painter.drawPath(tab);
}

void Rail::mousePressEvent(QMouseEvent* event) {
    emit picked();
    if (event->button() != Qt::LeftButton) return;
    const QPointF at = event->position();
    pressed_ = at;
    pressedLow_ = content_.low;
    pressedHigh_ = content_.high;
    gesture_ = Document::newGesture();
    const auto distance = [&](Grip grip) { return std::abs(at.y() - gripPoint(grip).y()); };
    const bool onTrack = std::abs(at.x() - track().center().x()) <= gripWidth / 2 + 3;
    drag_ = Drag::none;
    if (!onTrack) return;
    const double near = scaled(9);
    // Where both are near, the side of the press decides, so that grips lying on each other can be parted.
    const bool lowNear = distance(Grip::low) <= near;
    const bool highNear = distance(Grip::high) <= near;
    if (lowNear && highNear) {
        const bool above = at.y() < (gripPoint(Grip::low).y() + gripPoint(Grip::high).y()) / 2;
        drag_ = above == (content_.high >= content_.low) ? Drag::high : Drag::low;
    } else if (lowNear || highNear) {
        drag_ = lowNear ? Drag::low : Drag::high;
    } else if (at.y() > std::min(yOf(content_.low), yOf(content_.high)) &&
               at.y() < std::max(yOf(content_.low), yOf(content_.high))) {
        drag_ = Drag::span;
    }
    if (drag_ == Drag::low) chosen_ = Grip::low;
    if (drag_ == Drag::high) chosen_ = Grip::high;
    repaintAll();
}

void Rail::mouseMoveEvent(QMouseEvent* event) {
    if (drag_ == Drag::none) {
        const bool onGrip = std::abs(event->position().x() - track().center().x()) <= gripWidth / 2 &&
                            std::min(std::abs(event->position().y() - gripPoint(Grip::low).y()),
                                     std::abs(event->position().y() - gripPoint(Grip::high).y())) < scaled(9);
        setCursor(onGrip                       ? Qt::SizeVerCursor
                  : isOnEnd(event->position()) ? Qt::PointingHandCursor
                                               : Qt::ArrowCursor);
        return;
    }
    const double fine = (event->modifiers() & Qt::ShiftModifier) != 0 ? fineShare : 1.0;
    const double by = (pressed_.y() - event->position().y()) / track().height() * fine;
    double low = pressedLow_;
    double high = pressedHigh_;
    if (drag_ == Drag::low) low = std::clamp(low + by, 0.0, 1.0);
    if (drag_ == Drag::high) high = std::clamp(high + by, 0.0, 1.0);
    if (drag_ == Drag::span) {
        const double shift = std::clamp(by, -std::min(low, high), 1.0 - std::max(low, high));
        low += shift;
        high += shift;
    }
    if (low != content_.low || high != content_.high) emit moved(low, high, gesture_);
}

bool Rail::isOnEnd(const QPointF& at) const {
    return side_ == Side::target && (endRect(true).contains(at) || endRect(false).contains(at));
}

void Rail::mouseReleaseEvent(QMouseEvent* event) {
    const bool asks = drag_ == Drag::none && event->button() == Qt::LeftButton && isOnEnd(pressed_) &&
                      isOnEnd(event->position());
    drag_ = Drag::none;
    if (asks) emit parameterAsked();
}

void Rail::mouseDoubleClickEvent(QMouseEvent* event) {
    for (const Grip grip : {Grip::high, Grip::low}) {
        if (numberRect(grip).adjusted(-2, -2, 2, 2).contains(event->position())) return openEditor(grip);
    }
    const double toLow = std::abs(event->position().y() - gripPoint(Grip::low).y());
    const double toHigh = std::abs(event->position().y() - gripPoint(Grip::high).y());
    openEditor(toLow < toHigh ? Grip::low : Grip::high);
}

void Rail::openEditor(Grip grip) {
    drag_ = Drag::none;
    delete editor_;
    const QString shown = grip == Grip::low ? content_.lowText : content_.highText;
    editor_ = new GripEditor(shown, this);
    editor_->setObjectName(QStringLiteral("gripEditor"));
    editor_->setFont(numberFont());
    editor_->setAlignment(Qt::AlignRight);
    const int height = scaled(26);
    const int y = static_cast<int>(
        std::clamp(numberRect(grip).center().y() - height / 2.0, 0.0, this->height() - height * 1.0));
    const int room = QFontMetrics(numberFont()).horizontalAdvance(shown + QStringLiteral("00")) + scaled(16);
    const int wide = std::min(width() - 4, room);
    const int x = static_cast<int>(numberRect(grip).center().x()) - wide / 2;
    editor_->setGeometry(std::clamp(x, 2, width() - 2 - wide), y, wide, height);
    editor_->selectAll();
    editor_->show();
    editor_->setFocus();
    connect(editor_, &QLineEdit::editingFinished, this, [this, grip] {
        if (editor_ == nullptr) return;
        QLineEdit* done = std::exchange(editor_, nullptr);
        const QString text = done->text();
        const bool isNew = done->isModified();
        done->deleteLater();
        setFocus();
        if (isNew) emit typed(grip, text);
    });
}

void Rail::nudge(double amount) {
    const double low = chosen_ == Grip::low ? std::clamp(content_.low + amount, 0.0, 1.0) : content_.low;
    const double high = chosen_ == Grip::high ? std::clamp(content_.high + amount, 0.0, 1.0) : content_.high;
    emit moved(low, high, 0);
}

void Rail::keyPressEvent(QKeyEvent* event) {
    const double step = (event->modifiers() & Qt::ShiftModifier) != 0 ? 1.0 / 127 : 5.0 / 127;
    switch (event->key()) {
        case Qt::Key_Up:
            nudge(step);
            break;
        case Qt::Key_Down:
            nudge(-step);
            break;
        case Qt::Key_Left:
        case Qt::Key_Right:
            chosen_ = chosen_ == Grip::low ? Grip::high : Grip::low;
            repaintAll();
            break;
        case Qt::Key_Return:
        case Qt::Key_Enter:
            openEditor(chosen_);
            break;
        default:
            QWidget::keyPressEvent(event);
    }
}

void Rail::focusInEvent(QFocusEvent* event) {
    QWidget::focusInEvent(event);
    repaintAll();
}

void Rail::focusOutEvent(QFocusEvent* event) {
    QWidget::focusOutEvent(event);
    repaintAll();
}

}  // namespace mellow::app
