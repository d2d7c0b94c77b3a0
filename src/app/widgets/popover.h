// A small panel that opens beside what was clicked, and closes at a click elsewhere or at Esc. While it is
// open it has the keyboard.
#pragma once

#include <QFrame>
#include <QScreen>
#include <QVBoxLayout>
#include <algorithm>

#include "app/ground/theme.h"

namespace mellow::app {

class Popover : public QFrame {
    Q_OBJECT

 public:
    explicit Popover(QWidget* parent) : QFrame(parent, Qt::Popup), column_(new QVBoxLayout(this)) {
        setObjectName(QStringLiteral("popover"));
        setAttribute(Qt::WA_DeleteOnClose);
        column_->setContentsMargins(scaled(14), scaled(12), scaled(14), scaled(12));
        column_->setSpacing(scaled(8));
    }

    [[nodiscard]] QVBoxLayout* column() const { return column_; }

    /// Opens below a place of a widget, or above it, wherever it lies on the screen as a whole.
    void openAt(const QWidget& beside, const QRect& place) {
        adjustSize();
        const QRect screen = beside.screen()->availableGeometry();
        const QPoint below = beside.mapToGlobal(place.bottomLeft()) + QPoint(0, scaled(4));
        const int above = beside.mapToGlobal(place.topLeft()).y() - height() - scaled(4);
        const bool fits = below.y() + height() <= screen.bottom();
        move(std::clamp(below.x(), screen.left(), std::max(screen.left(), screen.right() - width())),
             fits ? below.y() : std::max(screen.top(), above));
        show();
    }

 private:
    QVBoxLayout* column_;
};

}  // namespace mellow::app
