// Each tile says how many of those in hand know its name; a dashed one is known to nobody.
#include <QPainter>
#include <algorithm>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/live/desk_stands.h"
#include "app/pages/desk/keys_surface.h"
#include "app/pages/desk/surfaces.h"
#include "core/model/desk.h"

namespace mellow::app {

namespace {

constexpr double narrowestTile = 72;

}  // namespace

/// As many side by side as are wide enough.
std::size_t TileSurface::columns() const {
    const std::size_t count = std::max<std::size_t>(element().names.size(), 1);
    const double room = width() / (narrowestTile / 100.0 * scaled(100));
    const auto fit = static_cast<std::size_t>(std::max(1.0, room));
    const std::size_t rows = (count + fit - 1) / fit;
    return (count + rows - 1) / rows;
}

QRectF TileSurface::tile(std::size_t name) const {
    const std::size_t count = std::max<std::size_t>(element().names.size(), 1);
    const std::size_t across = columns();
    const std::size_t rows = (count + across - 1) / across;
    const double gap = scaled(6);
    const double wide = (width() - gap * (static_cast<double>(across) - 1)) / static_cast<double>(across);
    const double high = (height() - gap * (static_cast<double>(rows) - 1)) / static_cast<double>(rows);
    return {static_cast<double>(name % across) * (wide + gap),
            static_cast<double>(name / across) * (high + gap), wide, high};
}

std::vector<desk::Answer> TileSurface::answersNow() const {
    return desk::answersTo(workspace().document.ensemble(), element(), DeskStands(live()));
}

QString TileSurface::answerOn(std::size_t name) const {
    if (name >= answers_.size() || answers_[name].anywhere == 0) return tr("nobody");
    return tr("%1 of %2").arg(answers_[name].answering).arg(answers_[name].inHand);
}

bool TileSurface::isChosen(std::size_t name) const {
    return name < answers_.size() && answers_[name].chosen;
}

void TileSurface::valuesMoved() {
    std::vector<desk::Answer> now = answersNow();
    if (now == answers_) return;
    answers_ = std::move(now);
    update();
}

void TileSurface::elementChanged() {
    under_ = std::min(under_, element().names.empty() ? 0 : element().names.size() - 1);
    answers_ = answersNow();
}

/// The middle of the tile's share of the travel.
void TileSurface::choose(std::size_t name) {
    if (name >= element().names.size()) return;
    under_ = name;
    live().hands().moveDesk(addressOf(element(), Axis::x),
                            (static_cast<double>(name) + 0.5) / static_cast<double>(element().names.size()));
    update();
}

void TileSurface::press(const QPointF& at, double) {
    for (std::size_t name = 0; name < element().names.size(); ++name) {
        if (tile(name).contains(at)) return choose(name);
    }
}

void TileSurface::step(Axis, double by) {
    if (element().names.empty()) return;
    const std::size_t last = element().names.size() - 1;
    under_ = by > 0 ? std::min(under_ + 1, last) : under_ - std::min<std::size_t>(under_, 1);
    update();
}

void TileSurface::pressReturn(bool down) {
    if (down) choose(under_);
}
void TileSurface::keyMoves(std::size_t key, bool down) {
    if (down) choose(key);
}

QString TileSurface::spokenWords() const {
    if (element().names.empty()) return tr("no tiles");
    return QStringLiteral("%1, %2").arg(toQt(element().names[under_]), answerOn(under_));
}

void TileSurface::paintStill(QPainter&) const {}

void TileSurface::paintMoving(QPainter& painter) const {
    const Theme& t = theme();
    for (std::size_t name = 0; name < element().names.size(); ++name) {
        const QRectF card = tile(name).adjusted(1, 1, -1, -1);
        const bool unknown = name >= answers_.size() || answers_[name].anywhere == 0;
        const bool mute = unknown || answers_[name].answering == 0;
        const bool chosen = isChosen(name);
        painter.setBrush(unknown ? Qt::NoBrush : QBrush(chosen ? t.raised : t.panel));
        painter.setPen(chosen ? QPen(tone(), 2) : unknown ? QPen(t.dim, 1, Qt::DashLine) : QPen(Qt::NoPen));
        painter.drawRoundedRect(card, 8, 8);
        const QRectF words = card.adjusted(scaled(4), 0, -scaled(4), 0);
        painter.setFont(bodyFont());
        painter.setPen(mute ? t.dim : t.ink);
        const int room = static_cast<int>(words.width());
        painter.drawText(QRectF(words.left(), words.center().y() - scaled(18), words.width(), scaled(18)),
                         Qt::AlignCenter,
                         painter.fontMetrics().elidedText(toQt(element().names[name]), Qt::ElideRight, room));
        painter.setFont(captionFont());
        painter.setPen(t.dim);
        painter.drawText(QRectF(words.left(), words.center().y() + scaled(1), words.width(), scaled(16)),
                         Qt::AlignCenter, answerOn(name));
        if (!hasFocus() || name != under_) continue;
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(t.sky, 1.5));
        painter.drawRoundedRect(card.adjusted(3, 3, -3, -3), 6, 6);
    }
}

std::unique_ptr<Surface> makeSurface(Workspace& workspace, const DeskElement& element, QWidget* parent) {
    switch (element.kind) {
        case ElementKind::pad:
            return std::make_unique<PadSurface>(workspace, element, parent);
        case ElementKind::slider:
            return std::make_unique<SliderSurface>(workspace, element, parent);
        case ElementKind::dial:
            return std::make_unique<DialSurface>(workspace, element, parent);
        case ElementKind::button:
            return std::make_unique<ButtonSurface>(workspace, element, parent);
        case ElementKind::articulations:
            return std::make_unique<TileSurface>(workspace, element, parent);
        case ElementKind::keys:
            return std::make_unique<KeysSurface>(workspace, element, parent);
    }
    return nullptr;
}

}  // namespace mellow::app
