// One function places the items or only measures how high that would be, which is what height-for-width asks;
// a row ends where the next item's width does not fit, and a row is as high as its highest item.
#include "app/widgets/flow_layout.h"

#include <algorithm>
#include <utility>

namespace mellow::app {

FlowLayout::~FlowLayout() {
    for (QLayoutItem* item : items_) delete item;
}

QLayoutItem* FlowLayout::itemAt(int index) const {
    return index >= 0 && index < count() ? items_[static_cast<std::size_t>(index)] : nullptr;
}

QLayoutItem* FlowLayout::takeAt(int index) {
    QLayoutItem* item = itemAt(index);
    if (item != nullptr) items_.erase(items_.begin() + index);
    return item;
}

QSize FlowLayout::minimumSize() const {
    QSize size;
    for (const QLayoutItem* item : items_) size = size.expandedTo(item->minimumSize());
    return size.expandedTo({0, height_});
}

void FlowLayout::setGeometry(const QRect& rect) {
    QLayout::setGeometry(rect);
    arrange(rect, true);
    // As many rows as there are at this width are what is needed at least.
    const int height = heightForWidth(rect.width());
    if (std::exchange(height_, height) != height) update();
}

int FlowLayout::arrange(const QRect& rect, bool move) const {
    int y = rect.y();
    for (auto first = items_.begin(); first != items_.end();) {
        int x = rect.x();
        int height = 0;
        auto end = first;
        for (; end != items_.end(); ++end) {
            const QSize size = (*end)->sizeHint();
            if ((*end)->isEmpty()) continue;
            if (x > rect.x() && x + size.width() > rect.right() + 1) break;
            x += size.width() + gap_;
            height = std::max(height, size.height());
        }
        if (move) place(first, end, {rect.x(), y}, height);
        if (height > 0) y += height + gap_;
        first = end;
    }
    return std::max(0, y - gap_ - rect.y());
}

/// A row's items stand in its middle.
void FlowLayout::place(Items::const_iterator first, Items::const_iterator end, QPoint at, int height) const {
    for (auto item = first; item != end; ++item) {
        if ((*item)->isEmpty()) continue;
        const QSize size = (*item)->sizeHint();
        (*item)->setGeometry({at + QPoint(0, (height - size.height()) / 2), size});
        at.rx() += size.width() + gap_;
    }
}

}  // namespace mellow::app
