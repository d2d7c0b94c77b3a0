// Taking everything out of a layout, to fill it anew.
#pragma once

#include <QLayout>
#include <QWidget>

namespace mellow::app {

/// Its widgets go from the screen at once, and are deleted when whatever they are telling of just now is
/// over.
inline void clearLayout(QLayout& layout) {
    while (QLayoutItem* item = layout.takeAt(0)) {
        if (QWidget* widget = item->widget()) {
            widget->hide();
            widget->deleteLater();
        }
        delete item;
    }
}

}  // namespace mellow::app
