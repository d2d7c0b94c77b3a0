// A short text that changes many times a second. A QLabel asks its layout for room at every change, and the
// layout then has the page painted once more; this widget has the room that its widest text needs, for good.
#pragma once

#include <QPainter>
#include <QWidget>

#include "app/ground/theme.h"

namespace mellow::app {

class MovingText : public QWidget {
    Q_OBJECT

 public:
    /// widest: the longest text that will be shown.
    explicit MovingText(const QString& widest, Qt::Alignment alignment = Qt::AlignRight | Qt::AlignVCenter,
                        QWidget* parent = nullptr)
        : QWidget(parent), widest_(widest), alignment_(alignment) {
        setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
    }

    void setText(const QString& text) {
        if (text == text_) return;
        text_ = text;
        setAccessibleName(text);
        update();
    }
    [[nodiscard]] const QString& text() const { return text_; }
    [[nodiscard]] QSize sizeHint() const override {
        const QFontMetrics metrics(numberFont());
        return {metrics.horizontalAdvance(widest_) + 2, metrics.height() + 2};
    }

 protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setFont(numberFont());
        painter.setPen(theme().ink);
        painter.drawText(rect(), static_cast<int>(alignment_), text_);
    }

 private:
    QString widest_;
    Qt::Alignment alignment_;
    QString text_;
};

}  // namespace mellow::app
