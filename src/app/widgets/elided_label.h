// A label of one line that takes the room that it is given: what finds no room there gives way to an
// ellipsis, and is in the tooltip.
#pragma once

#include <QLabel>
#include <QPainter>
#include <QStyle>

namespace mellow::app {

class ElidedLabel : public QLabel {
    Q_OBJECT

 public:
    explicit ElidedLabel(QWidget* parent = nullptr) : QLabel(parent) {
        setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    }
    [[nodiscard]] QSize sizeHint() const override { return {0, QLabel::sizeHint().height()}; }
    [[nodiscard]] QSize minimumSizeHint() const override { return {0, QLabel::minimumSizeHint().height()}; }

 protected:
    void paintEvent(QPaintEvent*) override {
        const QString shown = fontMetrics().elidedText(text(), Qt::ElideRight, width());
        if (shown != text() && toolTip().isEmpty()) setToolTip(text());
        QPainter painter(this);
        style()->drawItemText(&painter, rect(), static_cast<int>(alignment()), palette(), isEnabled(), shown,
                              foregroundRole());
    }
};

}  // namespace mellow::app
