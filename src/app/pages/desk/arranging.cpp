#include "app/pages/desk/arranging.h"

#include <QApplication>
#include <QClipboard>
#include <QKeyEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>

#include "app/acts/reuse/reuse.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/reuse/parts.h"
#include "core/store/part_json.h"

namespace mellow::app {

QString nameOfKind(ElementKind kind) {
    switch (kind) {
        case ElementKind::pad:
            return Arranging::tr("Pad");
        case ElementKind::slider:
            return Arranging::tr("Slider");
        case ElementKind::dial:
            return Arranging::tr("Dial");
        case ElementKind::button:
            return Arranging::tr("Button");
        case ElementKind::articulations:
            return Arranging::tr("Articulations");
        case ElementKind::keys:
            return Arranging::tr("Practice keys");
    }
    return {};
}

Arranging::Arranging(Workspace& workspace, DeskBoard& board)
    : QWidget(&board), workspace_(workspace), board_(board) {
    setObjectName(QStringLiteral("arranging"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName(tr("Arranging the desk"));
    hide();
    connect(&board_, &DeskBoard::laidOut, this, [this] {
        setGeometry(board_.rect());
        raise();
        update();
    });
}

void Arranging::select(std::set<std::string> elements) {
    if (elements == selected_) return;
    selected_ = std::move(elements);
    emit selectionChanged();
    update();
}

std::vector<const DeskElement*> Arranging::chosen() const {
    std::vector<const DeskElement*> all;
    const DeskPage* page = board_.page();
    for (std::size_t i = 0; page != nullptr && i < page->elements.size(); ++i) {
        if (selected_.contains(page->elements[i].id)) all.push_back(&page->elements[i]);
    }
    return all;
}

const DeskElement* Arranging::elementAt(const QPointF& at) const {
    const DeskPage* page = board_.page();
    if (page == nullptr) return nullptr;
    for (const DeskElement& element : page->elements) {
        if (board_.rectOf(element.place).contains(at)) return &element;
    }
    return nullptr;
}

QRectF Arranging::gripOf(const DeskElement& element) const {
    const QRectF place = board_.rectOf(element.place);
    const double size = scaled(16);
    return {place.right() - size, place.bottom() - size, size, size};
}

GridPlace Arranging::drawn() const {
    const int left = std::min(from_.x(), to_.x());
    const int top = std::min(from_.y(), to_.y());
    return {left, top, std::abs(from_.x() - to_.x()) + 1, std::abs(from_.y() - to_.y()) + 1};
}

std::optional<std::map<std::string, GridPlace>> Arranging::shifted(QPoint by, bool size) const {
    const DeskPage* page = board_.page();
    if (page == nullptr) return std::nullopt;
    DeskPage others = *page;
    std::erase_if(others.elements, [&](const DeskElement& each) { return selected_.contains(each.id); });
    std::map<std::string, GridPlace> places;
    for (const DeskElement* element : chosen()) {
        GridPlace place = element->place;
        place[size ? 2 : 0] += by.x();
        place[size ? 3 : 1] += by.y();
        const bool clear = std::none_of(places.begin(), places.end(),
                                        [&](const auto& each) { return overlap(each.second, place); });
        if (!clear || !isFree(others, place)) return std::nullopt;
        places[element->id] = place;
    }
    return places;
}

void Arranging::shift(QPoint by, bool size) {
    if (by.isNull() || selected_.empty()) return;
    const auto places = shifted(by, size);
    if (!places) return emit says(tr("There is no room there."));
    workspace_.document.edit(size ? tr("Size elements") : tr("Move elements"), [&](Ensemble& e) {
        for (const auto& [id, place] : *places) {
            if (DeskElement* element = findElement(e.desk, id)) element->place = place;
        }
    });
}

void Arranging::make(const GridPlace& place) {
    const DeskPage* page = board_.page();
    if (page == nullptr) return;
    if (!isFree(*page, place)) return emit says(tr("There is no room there."));
    std::string made;
    workspace_.document.edit(tr("Add an element"), [&, on = page->id](Ensemble& e) {
        DeskPage* there = findById(e.desk.pages, on);
        if (there == nullptr) return;
        DeskElement element = newElement(e, kind_, nameOfKind(kind_).toStdString());
        element.place = place;
        if (kind_ == ElementKind::articulations) element.names = {tr("Long").toStdString()};
        made = element.id;
        there->elements.push_back(std::move(element));
    });
    if (!made.empty()) select({made});
}

void Arranging::removeSelected() {
    if (selected_.empty()) return;
    workspace_.document.edit(tr("Remove elements"), [this](Ensemble& e) {
        for (const std::string& id : selected_) removeElement(e, id);
    });
    select({});
}

void Arranging::duplicateSelected() {
    putCopies(tr("Duplicate elements"), selected_);
}

void Arranging::copySelected() {
    if (selected_.empty()) return;
    copied_ = selected_;
    copiedText_ = toQt(store::printPart(reuse::takeElements(workspace_.document.ensemble(), copied_)));
    QGuiApplication::clipboard()->setText(copiedText_);
    emit says(tr("%n element(s) copied; paste them on any page.", nullptr, static_cast<int>(copied_.size())));
}

void Arranging::keepSelected() {
    if (selected_.empty()) return emit says(tr("Select the elements to keep."));
    mellow::Part part = reuse::takeElements(workspace_.document.ensemble(), selected_);
    if (part.elements.size() == 1) part.name = nameOf(part.elements.front());
    workspace_.reuse.keep(std::move(part));
}

void Arranging::paste() {
    // What was copied elsewhere, or of another ensemble, comes without chains.
    if (QGuiApplication::clipboard()->text() != copiedText_) return workspace_.reuse.paste();
    const bool any = std::any_of(copied_.begin(), copied_.end(), [this](const std::string& id) {
        return findElement(workspace_.document.ensemble().desk, id) != nullptr;
    });
    if (!any && copiedText_.isEmpty())
        return emit says(tr("Nothing is copied: select elements, then Ctrl+C."));
    if (!any) return workspace_.reuse.paste();
    putCopies(tr("Paste elements"), copied_);
}

/// Copies have chains of their own that lead where those of the originals do.
void Arranging::putCopies(const QString& words, const std::set<std::string>& of) {
    const DeskPage* page = board_.page();
    if (page == nullptr || of.empty()) return;
    std::set<std::string> made;
    bool full = false;
    workspace_.document.edit(words, [&, on = page->id](Ensemble& e) {
        for (const std::string& id : of) {
            const DeskElement* original = findElement(std::as_const(e).desk, id);
            DeskPage* there = findById(e.desk.pages, on);
            if (original == nullptr || there == nullptr) continue;
            DeskElement copy = *original;
            copy.id = newElement(e, copy.kind, nameOf(copy)).id;
            const auto place = freePlace(*there, copy.place[2], copy.place[3]);
            full = full || !place;
            if (!place) continue;
            copy.place = *place;
            made.insert(copy.id);
            there->elements.push_back(copy);
            duplicateChainsOf(e, id, copy.id);
        }
    });
    if (full) emit says(tr("There is no room for a copy on this page."));
    if (!made.empty()) select(made);
}

void Arranging::align(Edge edge) {
    const auto all = chosen();
    if (all.size() < 2) return;
    const std::size_t part = static_cast<std::size_t>(edge);
    const int wanted = all.front()->place.at(part);
    DeskPage others = *board_.page();
    std::erase_if(others.elements, [&](const DeskElement& each) { return selected_.contains(each.id); });
    std::map<std::string, GridPlace> places;
    for (const DeskElement* element : all) {
        GridPlace place = element->place;
        place.at(part) = wanted;
        const bool clear = std::none_of(places.begin(), places.end(),
                                        [&](const auto& each) { return overlap(each.second, place); });
        if (!clear || !isFree(others, place))
            return emit says(tr("They would cover one another or something else."));
        places[element->id] = place;
    }
    workspace_.document.edit(tr("Align elements"), [&](Ensemble& e) {
        for (const auto& [id, place] : places) {
            if (DeskElement* element = findElement(e.desk, id)) element->place = place;
        }
    });
}

void Arranging::selectNext(int by) {
    const DeskPage* page = board_.page();
    if (page == nullptr || page->elements.empty()) return;
    const int count = std::max(1, static_cast<int>(page->elements.size()));
    int at = by > 0 ? -1 : 0;
    for (int i = 0; i < count; ++i) {
        if (selected_.contains(page->elements[static_cast<std::size_t>(i)].id)) at = i;
    }
    select({page->elements[static_cast<std::size_t>((at + by + count) % count)].id});
}

// Hands.

void Arranging::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    setFocus(Qt::MouseFocusReason);
    from_ = to_ = board_.squareAt(event->position());
    pressed_ = event->position();
    dragged_ = false;
    const DeskElement* under = elementAt(event->position());
    if (under == nullptr) {
        doing_ = Doing::drawing;
        return select({});
    }
    if ((event->modifiers() & Qt::ControlModifier) != 0) {
        std::set<std::string> more = selected_;
        if (!more.insert(under->id).second) more.erase(under->id);
        return select(std::move(more));
    }
    if (!selected_.contains(under->id)) select({under->id});
    doing_ = gripOf(*under).contains(event->position()) ? Doing::sizing : Doing::moving;
}

void Arranging::mouseMoveEvent(QMouseEvent* event) {
    const DeskElement* under = elementAt(event->position());
    setCursor(doing_ == Doing::nothing && under != nullptr && gripOf(*under).contains(event->position())
                  ? Qt::SizeFDiagCursor
              : under != nullptr || doing_ == Doing::moving ? Qt::SizeAllCursor
                                                            : Qt::CrossCursor);
    to_ = board_.squareAt(event->position());
    if (doing_ == Doing::nothing) return;
    dragged_ =
        dragged_ || (event->position() - pressed_).manhattanLength() >= QApplication::startDragDistance();
    update();
}

void Arranging::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    to_ = board_.squareAt(event->position());
    const Doing did = std::exchange(doing_, Doing::nothing);
    // A click makes nothing: drawing is a drag. And on one of several it means that one.
    if (did == Doing::drawing && dragged_) make(drawn());
    if (did == Doing::moving && !dragged_ && selected_.size() > 1) {
        if (const DeskElement* under = elementAt(event->position())) select({under->id});
    }
    if (did == Doing::moving || did == Doing::sizing) shift(to_ - from_, did == Doing::sizing);
    update();
}

/// Tab goes from element to element, as everywhere from one thing to the next.
bool Arranging::event(QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        auto* key = static_cast<QKeyEvent*>(event);
        const bool tab = key->key() == Qt::Key_Tab || key->key() == Qt::Key_Backtab;
        if (tab && board_.page() != nullptr && !board_.page()->elements.empty()) {
            selectNext(key->key() == Qt::Key_Tab ? 1 : -1);
            return true;
        }
    }
    return QWidget::event(event);
}

void Arranging::keyPressEvent(QKeyEvent* event) {
    const bool sizes = (event->modifiers() & Qt::ShiftModifier) != 0;
    switch (event->key()) {
        case Qt::Key_Left:
            return shift({-1, 0}, sizes);
        case Qt::Key_Right:
            return shift({1, 0}, sizes);
        case Qt::Key_Up:
            return shift({0, -1}, sizes);
        case Qt::Key_Down:
            return shift({0, 1}, sizes);
        case Qt::Key_Return:
        case Qt::Key_Insert: {
            const DeskPage* page = board_.page();
            if (page == nullptr) return;
            const auto [width, height] = usualSize(kind_);
            const auto place = freePlace(*page, std::min(width, page->columns), std::min(height, page->rows));
            if (!place) return emit says(tr("There is no room for it on this page."));
            return make(*place);
        }
        default:
            QWidget::keyPressEvent(event);
    }
}

// Painting.

void Arranging::paintEvent(QPaintEvent*) {
    const DeskPage* page = board_.page();
    if (page == nullptr) return;
    const Theme& t = theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    // Everything but what is selected is dimmed.
    QPainterPath dimmed;
    dimmed.addRect(rect());
    for (const DeskElement* element : chosen()) {
        QPainterPath clear;
        clear.addRoundedRect(board_.rectOf(element->place), 10, 10);
        dimmed -= clear;
    }
    QColor veil = t.ground;
    veil.setAlphaF(0.62F);
    painter.fillPath(dimmed, veil);
    painter.setPen(QPen(t.line, 1));
    painter.setBrush(Qt::NoBrush);
    for (int row = 0; row < std::clamp(page->rows, 1, mostRows); ++row) {
        for (int column = 0; column < std::clamp(page->columns, 1, mostColumns); ++column) {
            // Between elements, not through them.
            const GridPlace cell{column, row, 1, 1};
            if (isFree(*page, cell)) painter.drawRoundedRect(board_.rectOf(cell), 6, 6);
        }
    }
    for (const DeskElement& element : page->elements) {
        const bool isSelected = selected_.contains(element.id);
        painter.setPen(QPen(isSelected ? t.sky : t.dim, isSelected ? 2 : 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRoundedRect(board_.rectOf(element.place), 10, 10);
        const QRectF grip = gripOf(element).adjusted(scaled(4), scaled(4), -scaled(4), -scaled(4));
        painter.setPen(QPen(isSelected ? t.sky : t.dim, 2));
        painter.drawLine(grip.bottomLeft(), grip.bottomRight());
        painter.drawLine(grip.topRight(), grip.bottomRight());
    }
    if (doing_ == Doing::drawing && dragged_) {
        const bool fits = isFree(*page, drawn());
        painter.setPen(QPen(fits ? t.sky : t.clay, 2, fits ? Qt::SolidLine : Qt::DashLine));
        painter.drawRoundedRect(board_.rectOf(drawn()), 10, 10);
        painter.setFont(bodyFont());
        painter.setPen(fits ? t.ink : t.clay);
        painter.drawText(board_.rectOf(drawn()), Qt::AlignCenter, fits ? nameOfKind(kind_) : tr("taken"));
    }
    if (doing_ != Doing::moving && doing_ != Doing::sizing) return;
    const bool size = doing_ == Doing::sizing;
    const bool fits = shifted(to_ - from_, size).has_value();
    for (const DeskElement* element : chosen()) {
        GridPlace place = element->place;
        place[size ? 2 : 0] += to_.x() - from_.x();
        place[size ? 3 : 1] += to_.y() - from_.y();
        painter.setPen(QPen(fits ? t.sky : t.clay, 2, Qt::DashLine));
        painter.drawRoundedRect(board_.rectOf(place), 10, 10);
    }
}

}  // namespace mellow::app
