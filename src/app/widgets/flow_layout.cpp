// One function places the items or only measures how high that would be, which is what height-for-width asks;
// a row ends where the next item's width does not fit, and a row is as high as its highest item.
#include "app/widgets/flow_layout.h"

#include <algorithm>

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
    return size;
}

void FlowLayout::setGeometry(const QRect& rect) {
    QLayout::setGeometry(rect);
    arrange(rect, true);
}

int FlowLayout::arrange(const QRect& rect, bool move) const {
    int x = rect.x();
    int y = rect.y();
    int rowHeight = 0;
    for (QLayoutItem* item : items_) {
        const QSize size = item->sizeHint();
        if (x > rect.x() && x + size.width() > rect.right() + 1) {
            x = rect.x();
            y += rowHeight + gap_;
            rowHeight = 0;
        }
        if (move) item->setGeometry({QPoint(x, y), size});
        x += size.width() + gap_;
        rowHeight = std::max(rowHeight, size.height());
    }
    return y + rowHeight - rect.y();
}

}  // namespace mellow::app
