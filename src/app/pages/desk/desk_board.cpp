// A surface is kept as long as its element is of the same kind, so that an edit does not take it out from
// under a finger.
#include "app/pages/desk/desk_board.h"

#include <QPainter>
#include <algorithm>

#include "app/ground/theme.h"

namespace mellow::app {

namespace {
constexpr int gap = 8;
}

DeskBoard::DeskBoard(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    new FramePace(this);
    setObjectName(QStringLiteral("deskBoard"));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Desk"));
}

QSize DeskBoard::minimumSizeHint() const {
    return {scaled(400), scaled(240)};
}

const DeskPage* DeskBoard::page() const {
    return findById(workspace_.document.ensemble().desk.pages, page_);
}

Surface* DeskBoard::surface(const std::string& element) const {
    const auto found = std::find_if(surfaces_.begin(), surfaces_.end(),
                                    [&](const auto& each) { return each->element().id == element; });
    return found == surfaces_.end() ? nullptr : found->get();
}

void DeskBoard::show(const std::string& id) {
    page_ = id;
    std::vector<std::unique_ptr<Surface>> before = std::move(surfaces_);
    surfaces_.clear();
    const DeskPage* shown = page();
    const desk::ElementTargets targets = desk::elementTargets(workspace_.document.ensemble());
    for (std::size_t i = 0; shown != nullptr && i < shown->elements.size(); ++i) {
        const DeskElement& element = shown->elements[i];
        const auto kept = std::find_if(before.begin(), before.end(), [&](const auto& each) {
            return each != nullptr && each->element().id == element.id &&
                   each->element().kind == element.kind;
        });
        surfaces_.push_back(kept != before.end() ? std::move(*kept) : makeSurface(workspace_, element, this));
        const auto its = targets.find(element.id);
        surfaces_.back()->show(element,
                               its == targets.end() ? std::vector<desk::ElementTarget>() : its->second);
        surfaces_.back()->setVisible(true);
    }
    layOut();
    update();
}

void DeskBoard::refresh() {
    for (const auto& surface : surfaces_) surface->refresh();
}

QRectF DeskBoard::rectOf(const GridPlace& place) const {
    const DeskPage* shown = page();
    if (shown == nullptr) return {};
    const double columns = std::clamp(shown->columns, 1, mostColumns);
    const double rows = std::clamp(shown->rows, 1, mostRows);
    const double between = scaled(gap);
    const double wide = (width() + between) / columns;
    const double high = (height() + between) / rows;
    return {place[0] * wide, place[1] * high, std::max(1.0, place[2] * wide - between),
            std::max(1.0, place[3] * high - between)};
}

QPoint DeskBoard::squareAt(const QPointF& at) const {
    const QRectF one = rectOf({0, 0, 1, 1});
    const double between = scaled(gap);
    return {static_cast<int>(std::floor(at.x() / (one.width() + between))),
            static_cast<int>(std::floor(at.y() / (one.height() + between)))};
}

void DeskBoard::layOut() {
    for (const auto& surface : surfaces_)
        surface->setGeometry(rectOf(surface->element().place).toAlignedRect());
    emit laidOut();
}

void DeskBoard::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    layOut();
}

/// Where there is nothing, what to do is said.
void DeskBoard::paintEvent(QPaintEvent*) {
    if (!surfaces_.empty()) return;
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(bodyFont());
    painter.setPen(theme().dim);
    const QString words =
        page() == nullptr
            ? tr("There is no page yet. Make one with +, then fill it for the instrument in hand.")
            : tr("This page is empty. Arrange (F2), and draw an element here; or let it be filled for the "
                 "instrument in hand.");
    painter.drawText(rect().adjusted(scaled(40), 0, -scaled(40), 0), Qt::AlignCenter | Qt::TextWordWrap,
                     words);
}

}  // namespace mellow::app
