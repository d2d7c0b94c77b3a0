// Hands are round and honey, sound is pointed and mint, as everywhere; what waits is dashed clay.
#include "app/pages/gear/port_board.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>

#include "app/ground/theme.h"

namespace mellow::app {

namespace {

/// As many of the names in a title as fit a width, and the others.
std::pair<QString, QString> brokenTitle(const QString& title, int width) {
    const QFontMetrics metrics(bodyFont());
    const QString between = QStringLiteral(", ");
    if (metrics.horizontalAdvance(title) <= width) return {title, {}};
    for (qsizetype at = title.lastIndexOf(between); at > 0; at = title.lastIndexOf(between, at - 1)) {
        const QString first = title.left(at + 1);
        if (metrics.horizontalAdvance(first) <= width) return {first, title.mid(at + between.size())};
    }
    return {title, {}};
}

constexpr int cardHeight = 74;
constexpr int gap = 8;
constexpr double middleShare = 0.2;  // of the width, for threads
constexpr int corner = 10;

}  // namespace

PortBoard::PortBoard(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setObjectName(QStringLiteral("portBoard"));
    setAccessibleName(tr("Ports"));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void PortBoard::show(const PortCards& cards) {
    const bool grown = cards.hands.size() != cards_.hands.size() || cards.sound.size() != cards_.sound.size();
    cards_ = cards;
    if (grown) updateGeometry();
    update();
}

void PortBoard::select(const PortName& port) {
    selected_ = port;
    update();
}

QSize PortBoard::sizeHint() const {
    const auto rows = static_cast<int>(std::max(cards_.hands.size(), cards_.sound.size()));
    return {scaled(560), std::max(1, rows) * scaled(cardHeight + gap)};
}

QRect PortBoard::cardRect(bool input, std::size_t place) const {
    const int wide = static_cast<int>(width() * (1 - middleShare) / 2);
    return {input ? 0 : width() - wide, static_cast<int>(place) * scaled(cardHeight + gap), wide,
            scaled(cardHeight)};
}

std::optional<std::size_t> PortBoard::placeOf(const PortName& port) const {
    const auto& side = port.input ? cards_.hands : cards_.sound;
    const auto found =
        std::find_if(side.begin(), side.end(), [&](const PortCard& card) { return card.port == port; });
    if (found == side.end()) return std::nullopt;
    return static_cast<std::size_t>(found - side.begin());
}

QRect PortBoard::rectOf(const PortName& port) const {
    const auto place = placeOf(port);
    return place ? cardRect(port.input, *place) : QRect();
}

void PortBoard::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    paintThreads(painter);
    for (std::size_t i = 0; i < cards_.hands.size(); ++i)
        paintCard(painter, cards_.hands[i], cardRect(true, i));
    for (std::size_t i = 0; i < cards_.sound.size(); ++i)
        paintCard(painter, cards_.sound[i], cardRect(false, i));
}

void PortBoard::paintThreads(QPainter& painter) const {
    const Theme& t = theme();
    painter.setBrush(Qt::NoBrush);
    for (const PortThread& thread : cards_.threads) {
        const PortCard& from = cards_.hands[thread.from];
        const PortCard& to = cards_.sound[thread.to];
        const QRect left = cardRect(true, thread.from);
        const QRect right = cardRect(false, thread.to);
        const QPointF start(left.right() + 1, left.center().y());
        const QPointF end(right.left() - 1, right.center().y());
        QPainterPath path(start);
        const double reach = (end.x() - start.x()) * 0.5;
        path.cubicTo(start + QPointF(reach, 0), end - QPointF(reach, 0), end);
        const bool works = from.state == PortCard::State::here && to.state == PortCard::State::here;
        QPen pen(from.moves && works ? blend(t.ground, t.honey, 0.8) : blend(t.ground, t.dim, 0.5), 1.4);
        if (!works) pen.setStyle(Qt::DashLine);
        painter.setPen(pen);
        painter.drawPath(path);
    }
}

void PortBoard::paintCard(QPainter& painter, const PortCard& card, const QRect& rect) const {
    const Theme& t = theme();
    const bool waits = card.state == PortCard::State::waiting;
    const bool silenced = card.state == PortCard::State::silenced;
    const bool chosen = card.port == selected_;
    const QRectF frame = QRectF(rect).adjusted(1, 1, -1, -1);
    painter.setBrush(chosen ? t.raised : t.panel);
    QPen edge(Qt::NoPen);
    const QColor concern = card.waiting > 0 ? t.clay : t.dim;  // Nobody misses what no chain needs.
    if (waits) edge = QPen(concern, 1.2, Qt::DashLine);
    if (chosen) edge = QPen(t.sky, hasFocus() ? 2 : 1.4, waits ? Qt::DashLine : Qt::SolidLine);
    painter.setPen(edge);
    painter.drawRoundedRect(frame, corner, corner);

    const QColor mark = card.port.input ? t.honey : t.mint;
    const double size = scaled(5);
    const QPointF at(rect.left() + scaled(18), rect.top() + scaled(20));
    painter.setPen(waits || silenced ? QPen(t.dim, 1.4) : QPen(Qt::NoPen));
    painter.setBrush(waits || silenced ? QBrush(Qt::NoBrush)
                                       : QBrush(card.moves ? mark : blend(t.panel, mark, 0.6)));
    if (card.port.input) {
        painter.drawEllipse(at, size, size);
    } else {
        painter.drawPolygon(QPolygonF{
            {at.x() - size, at.y()}, {at.x() + size, at.y() - size}, {at.x() + size, at.y() + size}});
    }

    const QRect inner = rect.adjusted(scaled(34), scaled(8), -scaled(12), -scaled(6));
    const int line = scaled(19);
    painter.setFont(captionFont());
    const QString note =
        silenced ? tr("silenced")
        : waits  ? (card.waiting > 0 ? tr("%n chain(s) wait", nullptr, card.waiting) : tr("waiting"))
                 : tr("%1/s").arg(card.rate);
    painter.setPen(t.dim);
    painter.drawText(inner, Qt::AlignTop | Qt::AlignRight, note);
    const int noteWidth = painter.fontMetrics().horizontalAdvance(note) + scaled(8);
    const auto write = [&](int row, const QFont& font, const QColor& color, const QString& text, int less) {
        painter.setFont(font);
        painter.setPen(color);
        const QRect area = inner.adjusted(0, row * line, -less, 0);
        painter.drawText(area, Qt::AlignTop | Qt::AlignLeft,
                         painter.fontMetrics().elidedText(text, Qt::ElideRight, area.width()));
    };
    // Names that do not fit beside the note go on in the second line, before where the port is.
    const auto [first, rest] = brokenTitle(card.title, inner.width() - noteWidth);
    write(0, bodyFont(), silenced ? t.dim : t.ink, first, noteWidth);
    write(1, captionFont(), t.dim, rest.isEmpty() ? card.where : tr("%1 · %2").arg(rest, card.where), 0);
    write(2, captionFont(), waits ? concern : silenced ? t.dim : t.ink, card.sentence, 0);
}

void PortBoard::mousePressEvent(QMouseEvent* event) {
    const auto look = [&](bool input, const std::vector<PortCard>& side) {
        for (std::size_t i = 0; i < side.size(); ++i) {
            if (cardRect(input, i).contains(event->position().toPoint())) emit selected(side[i].port);
        }
    };
    look(true, cards_.hands);
    look(false, cards_.sound);
}

void PortBoard::keyPressEvent(QKeyEvent* event) {
    const auto place = placeOf(selected_);
    const bool input = place ? selected_.input : true;
    const auto go = [this](bool toInput, std::ptrdiff_t to) {
        const auto& side = toInput ? cards_.hands : cards_.sound;
        if (side.empty()) return;
        const auto last = static_cast<std::ptrdiff_t>(side.size()) - 1;
        emit selected(side[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(to, 0, last))].port);
    };
    const auto row = static_cast<std::ptrdiff_t>(place.value_or(0));
    switch (event->key()) {
        case Qt::Key_Up:
            return go(input, place ? row - 1 : 0);
        case Qt::Key_Down:
            return go(input, place ? row + 1 : 0);
        case Qt::Key_Left:
            return go(true, row);
        case Qt::Key_Right:
            return go(false, row);
        default:
            QWidget::keyPressEvent(event);
    }
}

void PortBoard::focusInEvent(QFocusEvent* event) {
    QWidget::focusInEvent(event);
    update();
}

void PortBoard::focusOutEvent(QFocusEvent* event) {
    QWidget::focusOutEvent(event);
    update();
}

}  // namespace mellow::app
