// All 128 keys have columns of one width, so that a column is a key over the whole height. A layer is found
// by the one that is selected first, then by the smallest, since that lies inside others.
#include "app/pages/gear/layer_board.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <vector>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/midi/names.h"

namespace mellow::app {

namespace {

using layering::Along;
using layering::Area;
using layering::Grip;

constexpr int octave = 12;
constexpr double reachOfAGrip = 6;  // px

bool isBlack(int key) {
    const int place = key % octave;
    return place == 1 || place == 3 || place == 6 || place == 8 || place == 10;
}

/// What a layer is, in words.
QString wordsOf(const Instrument& instrument) {
    const Area area = layering::areaOf(instrument);
    return LayerBoard::tr("%1: keys %2–%3, velocities %4–%5")
        .arg(nameToShow(nameOf(instrument)), toQt(midi::keyName(area.lowKey)),
             toQt(midi::keyName(area.highKey)))
        .arg(area.lowVelocity)
        .arg(area.highVelocity);
}

}  // namespace

LayerBoard::LayerBoard(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setObjectName(QStringLiteral("layerBoard"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName(tr("Layers"));
    setToolTip(
        tr("Drag a layer, or an edge of it. With the keyboard: Tab chooses, arrows move, with Shift they "
           "move the upper or right edge, with Ctrl the lower or left one; Page Up and Page Down by an "
           "octave."));
    connect(&workspace_.live, &Live::cameIn, this, &LayerBoard::hear);
    connect(&workspace_.document, &Document::changed, this, [this] {
        say();
        update();
    });
}

QSize LayerBoard::sizeHint() const {
    return {scaled(680), scaled(240)};
}
QSize LayerBoard::minimumSizeHint() const {
    return {scaled(320), scaled(130)};
}

void LayerBoard::show(std::vector<std::string> instruments) {
    if (instruments == shown_) return;
    shown_ = std::move(instruments);
    if (std::find(shown_.begin(), shown_.end(), selected_) == shown_.end())
        select(shown_.empty() ? std::string() : shown_.front());
    update();
}

void LayerBoard::select(const std::string& instrument) {
    if (instrument == selected_) return;
    selected_ = instrument;
    say();
    update();
    emit selectionChanged();
}

/// What is selected, for who hears the screen.
void LayerBoard::say() {
    const Instrument* chosen = instrument(selected_);
    setAccessibleDescription(chosen == nullptr ? QString() : wordsOf(*chosen));
}

const Instrument* LayerBoard::instrument(const std::string& id) const {
    return findById(workspace_.document.ensemble().instruments, id);
}

// Where things are.

QRectF LayerBoard::field() const {
    return QRectF(rect()).adjusted(scaled(30), scaled(4), -2, -scaled(34));
}

QRectF LayerBoard::rectOf(const Area& area) const {
    const QRectF all = field();
    const double left = all.left() + area.lowKey * keyWidth();
    const double right = all.left() + (area.highKey + 1) * keyWidth();
    const double bottom = all.bottom() - (area.lowVelocity - 1) * velocityHeight();
    const double top = all.bottom() - area.highVelocity * velocityHeight();
    return {QPointF(left, top), QPointF(right, bottom)};
}

std::string LayerBoard::layerAt(const QPointF& at) const {
    if (instrument(selected_) != nullptr && gripAt(selected_, at)) return selected_;
    std::string found;
    double smallest = 0;
    for (const std::string& id : shown_) {
        if (instrument(id) == nullptr || !gripAt(id, at)) continue;
        const QRectF rect = rectOf(layering::areaOf(*instrument(id)));
        const double size = rect.width() * rect.height();
        if (found.empty() || size < smallest) {
            found = id;
            smallest = size;
        }
    }
    return found;
}

std::optional<Grip> LayerBoard::gripAt(const std::string& layer, const QPointF& at) const {
    const QRectF rect = rectOf(layering::areaOf(*instrument(layer)));
    if (!rect.adjusted(-reachOfAGrip, -reachOfAGrip, reachOfAGrip, reachOfAGrip).contains(at))
        return std::nullopt;
    // Of a narrow layer a third is left to take hold of as a whole.
    const double across = std::min(reachOfAGrip, rect.width() / 3);
    const double up = std::min(reachOfAGrip, rect.height() / 3);
    Grip grip;
    grip.left = at.x() < rect.left() + across;
    grip.right = !grip.left && at.x() > rect.right() - across;
    grip.top = at.y() < rect.top() + up;
    grip.bottom = !grip.top && at.y() > rect.bottom() - up;
    return grip;
}

// Hands.

void LayerBoard::hear(const io::Happening& happening) {
    const midi::Bytes bytes = happening.message.bytes();
    if (midi::isNoteOn(bytes)) {
        struck_[bytes[1]] = bytes[2];
    } else if (!bytes.empty() && midi::isNoteOff(bytes)) {
        struck_.erase(bytes[1]);
    } else {
        return;
    }
    if (isVisible()) update();
}

/// Of a drag all is one step, and fades follow as they were when it began.
void LayerBoard::place(const Area& area) {
    workspace_.document.edit(
        tr("Move the layer"),
        [&](Ensemble& e) {
            drag_ ? layering::place(e, selected_, area, drag_->fades) : layering::place(e, selected_, area);
        },
        drag_ ? drag_->gesture : 0);
}

void LayerBoard::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    const std::string layer = layerAt(event->position());
    if (layer.empty()) return;
    select(layer);
    drag_ =
        Drag{layering::areaOf(*instrument(layer)), *gripAt(layer, event->position()),
             layering::fadesOf(workspace_.document.ensemble()), event->position(), Document::newGesture()};
}

void LayerBoard::mouseMoveEvent(QMouseEvent* event) {
    if (!drag_) {
        const std::string layer = layerAt(event->position());
        const auto grip = layer.empty() ? std::nullopt : gripAt(layer, event->position());
        const bool across = grip && (grip->left || grip->right);
        const bool up = grip && (grip->top || grip->bottom);
        setCursor(!grip          ? Qt::ArrowCursor
                  : across && up ? (grip->left == grip->top ? Qt::SizeFDiagCursor : Qt::SizeBDiagCursor)
                  : across       ? Qt::SizeHorCursor
                  : up           ? Qt::SizeVerCursor
                                 : Qt::SizeAllCursor);
        return;
    }
    const QPointF by = event->position() - drag_->from;
    const int keys = static_cast<int>(std::lround(by.x() / keyWidth()));
    const int velocities = static_cast<int>(std::lround(-by.y() / velocityHeight()));
    place(layering::dragged(drag_->area, drag_->grip, keys, velocities));
}

void LayerBoard::mouseReleaseEvent(QMouseEvent*) {
    drag_.reset();
}

/// A double click on a crossfade opens its chain.
void LayerBoard::mouseDoubleClickEvent(QMouseEvent* event) {
    for (const layering::Fade& fade : layering::fadesOf(workspace_.document.ensemble())) {
        const bool isShown = std::find(shown_.begin(), shown_.end(), fade.instrument) != shown_.end();
        const Instrument* own = instrument(fade.instrument);
        const Instrument* other = instrument(fade.other);
        if (!isShown || !fade.isOpen() || own == nullptr || other == nullptr) continue;
        const QRectF both = rectOf(layering::areaOf(*own)) & rectOf(layering::areaOf(*other));
        if (both.contains(event->position())) return emit fadeOpened(fade.instrument, fade.chain);
    }
}

void LayerBoard::selectNext(int by) {
    const auto count = static_cast<int>(shown_.size());
    const auto at = static_cast<int>(std::find(shown_.begin(), shown_.end(), selected_) - shown_.begin());
    if (count > 0) select(shown_[static_cast<std::size_t>(((at % count) + by + count) % count)]);
}

/// Tab goes from layer to layer, and on from the last.
bool LayerBoard::event(QEvent* event) {
    if (event->type() != QEvent::KeyPress) return QWidget::event(event);
    auto* key = static_cast<QKeyEvent*>(event);
    const bool on = key->key() == Qt::Key_Tab;
    const bool back = key->key() == Qt::Key_Backtab;
    if (shown_.empty() || (!on && !back)) return QWidget::event(event);
    if (selected_ == (on ? shown_.back() : shown_.front())) return QWidget::event(event);
    selectNext(on ? 1 : -1);
    return true;
}

void LayerBoard::keyPressEvent(QKeyEvent* event) {
    const Instrument* chosen = instrument(selected_);
    int keys = 0;
    int velocities = 0;
    switch (event->key()) {
        case Qt::Key_Left:
            keys = -1;
            break;
        case Qt::Key_Right:
            keys = 1;
            break;
        case Qt::Key_Up:
            velocities = 1;
            break;
        case Qt::Key_Down:
            velocities = -1;
            break;
        case Qt::Key_PageUp:
            keys = octave;
            break;
        case Qt::Key_PageDown:
            keys = -octave;
            break;
        default:
            return QWidget::keyPressEvent(event);
    }
    if (chosen == nullptr) return;
    const bool far = (event->modifiers() & Qt::ShiftModifier) != 0;
    const bool near = (event->modifiers() & Qt::ControlModifier) != 0;
    const Grip grip{near && keys != 0, far && keys != 0, near && velocities != 0, far && velocities != 0};
    place(layering::dragged(layering::areaOf(*chosen), grip, keys, velocities));
}

// Painting.

void LayerBoard::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    painter.fillRect(field(), t.ground);
    paintKeys(painter);
    paintLayers(painter);
    paintFades(painter);
    paintNames(painter);
    paintStruck(painter);
    painter.setFont(captionFont());
    painter.setPen(t.dim);
    const QRectF all = field();
    painter.drawText(QRectF(0, all.top(), all.left() - scaled(5), scaled(16)), Qt::AlignRight | Qt::AlignTop,
                     QStringLiteral("127"));
    painter.drawText(QRectF(0, all.bottom() - scaled(16), all.left() - scaled(5), scaled(16)),
                     Qt::AlignRight | Qt::AlignBottom, QStringLiteral("1"));
    painter.save();
    painter.translate(scaled(12), all.center().y());
    painter.rotate(-90);
    painter.drawText(QRectF(-all.height() / 2, -scaled(10), all.height(), scaled(20)), Qt::AlignCenter,
                     tr("velocity"));
    painter.restore();
    if (hasFocus()) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(t.sky, 2));
        painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 3, 3);
    }
}

/// The keyboard below, and a line at each C.
void LayerBoard::paintKeys(QPainter& painter) const {
    const Theme& t = theme();
    const QRectF all = field();
    const bool dusk = &t == &duskTheme();
    const QRectF strip(all.left(), all.bottom() + 2, all.width(), scaled(30));
    painter.fillRect(strip, dusk ? QColor(0xE6DECD) : QColor(0xFFFFFF));
    painter.setFont(captionFont());
    for (int key = 0; key < 128; ++key) {
        const double x = all.left() + key * keyWidth();
        const bool down = struck_.contains(key);
        if (isBlack(key) || down) {
            const QColor black = dusk ? t.ground : QColor(0x3C4643);
            painter.fillRect(QRectF(x, strip.top(), keyWidth(), strip.height() * (isBlack(key) ? 0.55 : 1)),
                             down ? t.honey : black);
        }
        if (key % octave != 0) continue;
        painter.setPen(QPen(t.line, 1));
        painter.drawLine(QPointF(x, all.top()), QPointF(x, strip.bottom()));
        painter.setPen(QColor(0x55605B));
        painter.drawText(QRectF(x + 2, strip.top(), octave * keyWidth(), strip.height() - 1),
                         Qt::AlignLeft | Qt::AlignBottom, tr("C%1").arg(key / octave - 1));
    }
    painter.setPen(QPen(t.line, 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(strip);
    painter.drawRect(all);
}

namespace {

/// What tells the layers apart besides where they are: how they are hatched and outlined.
struct LayerLook {
    Qt::BrushStyle hatch;
    Qt::PenStyle outline;
};

LayerLook lookOf(int line) {
    static constexpr std::array hatches{Qt::BDiagPattern, Qt::FDiagPattern,     Qt::HorPattern,
                                        Qt::VerPattern,   Qt::DiagCrossPattern, Qt::CrossPattern};
    static constexpr std::array outlines{Qt::SolidLine, Qt::DashLine, Qt::DotLine, Qt::DashDotLine};
    const auto at = static_cast<std::size_t>(line);
    return {hatches.at(at % hatches.size()), outlines.at(at % outlines.size())};
}

QBrush hatched(const LayerLook& look, bool chosen) {
    QColor color = theme().mint;
    color.setAlphaF(chosen ? 0.75F : 0.4F);
    return {color, look.hatch};
}

/// Whether an edge of a layer runs through a label.
bool crosses(const QRectF& layer, const QRectF& label) {
    return layer.intersects(label) && !layer.contains(label);
}

}  // namespace

void LayerBoard::paintLayers(QPainter& painter) const {
    const Theme& t = theme();
    for (const bool chosen : {false, true}) {
        int place = 0;
        std::vector<Area> before;
        for (const std::string& id : shown_) {
            const int line = place++;
            const Instrument* layer = instrument(id);
            if (layer == nullptr) continue;
            const Area area = layering::areaOf(*layer);
            // Layers in one and the same place are seen one inside the other.
            const double inset = 0.5 + scaled(3) * std::count(before.begin(), before.end(), area);
            before.push_back(area);
            if ((id == selected_) != chosen) continue;
            const QRectF rect = rectOf(area).adjusted(inset, inset, -inset, -inset);
            const LayerLook look = lookOf(line);
            QColor fill = blend(t.raised, t.mint, 0.15);
            fill.setAlphaF(chosen ? 0.7F : 0.4F);
            painter.setPen(Qt::NoPen);
            painter.setBrush(fill);
            painter.drawRoundedRect(rect, 4, 4);
            painter.setBrush(hatched(look, chosen));
            painter.setPen(QPen(chosen ? t.sky : t.mint, chosen ? 2 : 1.5, look.outline));
            painter.drawRoundedRect(rect, 4, 4);
        }
    }
}

void LayerBoard::paintFades(QPainter& painter) const {
    const Theme& t = theme();
    for (const layering::Fade& fade : layering::fadesOf(workspace_.document.ensemble())) {
        const Instrument* own = instrument(fade.instrument);
        const Instrument* other = instrument(fade.other);
        const bool isShown = std::find(shown_.begin(), shown_.end(), fade.instrument) != shown_.end();
        if (!isShown || !fade.isOpen() || own == nullptr || other == nullptr) continue;
        const QRectF both = rectOf(layering::areaOf(*own)) & rectOf(layering::areaOf(*other));
        QPainterPath curve;
        constexpr int points = 24;
        for (int i = 0; i <= points; ++i) {
            const double along = static_cast<double>(i) / points;
            // The fourth root, as the chain has it, of the way that is left or done.
            const double loud = std::sqrt(std::sqrt(fade.isLower ? 1 - along : along));
            const QPointF at =
                fade.along == Along::keys
                    ? QPointF(both.left() + along * both.width(), both.bottom() - loud * both.height())
                    : QPointF(both.left() + loud * both.width(), both.bottom() - along * both.height());
            i == 0 ? curve.moveTo(at) : curve.lineTo(at);
        }
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(fade.instrument == selected_ ? t.sky : t.ink, 2));
        painter.drawPath(curve);
    }
}

/// Each at a place of its own, where no edge of another runs through it if there is such a place, on a ground
/// of its own, and with a sample of how its layer is hatched.
void LayerBoard::paintNames(QPainter& painter) const {
    const Theme& t = theme();
    std::vector<QRectF> taken;
    int place = 0;
    for (const std::string& id : shown_) {
        const int line = place++;
        const Instrument* layer = instrument(id);
        if (layer == nullptr) continue;
        const bool chosen = id == selected_;
        const QRectF rect =
            rectOf(layering::areaOf(*layer)).adjusted(scaled(6), scaled(6), -scaled(6), -scaled(6));
        const QFont font = chosen ? bodyFont() : captionFont();
        const QFontMetricsF metrics(font);
        const double sample = metrics.height() - scaled(6);
        const double around = sample + scaled(14);
        const QString name =
            metrics.elidedText(nameToShow(nameOf(*layer)), Qt::ElideRight, rect.width() - around);
        const QRectF label = labelPlace(
            rect, {std::min(metrics.horizontalAdvance(name) + around, rect.width()), metrics.height()},
            taken);
        taken.push_back(label);
        QColor under = t.panel;
        under.setAlphaF(0.9F);
        painter.setPen(Qt::NoPen);
        painter.setBrush(under);
        painter.drawRoundedRect(label, 3, 3);
        painter.setPen(QPen(chosen ? t.sky : t.mint, 1));
        painter.setBrush(hatched(lookOf(line), true));
        painter.drawRect(QRectF(label.left() + scaled(4), label.center().y() - sample / 2, sample, sample));
        painter.setFont(font);
        painter.setPen(t.ink);
        painter.drawText(label.adjusted(sample + scaled(8), 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, name);
    }
}

/// Where in a layer a label of a size covers no other and is crossed by the fewest edges; the middle above is
/// the best.
QRectF LayerBoard::labelPlace(const QRectF& within, const QSizeF& size,
                              const std::vector<QRectF>& taken) const {
    constexpr std::array across{0.5, 0.0, 1.0, 0.25, 0.75};
    constexpr int covered = 100;
    QRectF best(within.topLeft(), size);
    int least = std::numeric_limits<int>::max();
    const int lines = std::max(1, static_cast<int>(within.height() / size.height()));
    for (int line = 0; line < lines; ++line) {
        for (const double share : across) {
            const QRectF label(QPointF(within.left() + share * (within.width() - size.width()),
                                       within.top() + line * size.height()),
                               size);
            const auto covers = std::count_if(
                taken.begin(), taken.end(), [&label](const QRectF& each) { return each.intersects(label); });
            const auto crossed = std::count_if(shown_.begin(), shown_.end(), [&](const std::string& id) {
                const Instrument* other = instrument(id);
                return other != nullptr && crosses(rectOf(layering::areaOf(*other)), label);
            });
            const int cost = covered * static_cast<int>(covers) + static_cast<int>(crossed);
            if (cost >= least) continue;
            least = cost;
            best = label;
        }
    }
    return best;
}

void LayerBoard::paintStruck(QPainter& painter) const {
    const Theme& t = theme();
    const QRectF all = field();
    painter.setPen(QPen(t.ground, 1.5));
    painter.setBrush(t.honey);
    for (const auto& [key, velocity] : struck_) {
        const QPointF at(all.left() + (key + 0.5) * keyWidth(),
                         all.bottom() - (velocity - 0.5) * velocityHeight());
        painter.drawEllipse(at, scaled(5), scaled(5));
    }
}

}  // namespace mellow::app
