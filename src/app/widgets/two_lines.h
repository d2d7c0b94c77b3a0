// A text that has two lines at most, however narrow its place is; what finds no room there gives way to an
// ellipsis, and is in the tooltip.
#pragma once

#include <QPainter>
#include <QTextLayout>
#include <QWidget>

#include "app/theme/theme.h"

namespace mellow::app {

class TwoLines : public QWidget {
    Q_OBJECT

 public:
    explicit TwoLines(QWidget* parent = nullptr) : QWidget(parent) {
        setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    }
    void setText(const QString& text) {
        if (text == text_) return;
        text_ = text;
        setAccessibleName(text);
        setToolTip(text);
        update();
    }
    [[nodiscard]] const QString& text() const { return text_; }
    [[nodiscard]] QSize sizeHint() const override {
        return {0, 2 * QFontMetrics(captionFont()).lineSpacing() + 1};
    }

 protected:
    void paintEvent(QPaintEvent*) override {
        // Less than a word says nothing.
        if (width() < scaled(70)) return;
        QPainter painter(this);
        painter.setPen(theme().dim);
        QTextLayout layout(text_, captionFont());
        const QFontMetrics metrics(captionFont());
        layout.beginLayout();
        QStringList lines;
        for (QTextLine line = layout.createLine(); line.isValid(); line = layout.createLine()) {
            line.setLineWidth(width());
            const bool last = lines.size() == 1;
            lines << (last ? metrics.elidedText(text_.mid(line.textStart()), Qt::ElideRight, width())
                           : text_.mid(line.textStart(), line.textLength()));
            if (last) break;
        }
        layout.endLayout();
        painter.setFont(captionFont());
        const int high = static_cast<int>(lines.size()) * metrics.lineSpacing();
        QRect row(0, (height() - high) / 2, width(), metrics.lineSpacing());
        for (const QString& line : lines) {
            painter.drawText(row, Qt::AlignRight | Qt::AlignVCenter, line.trimmed());
            row.translate(0, metrics.lineSpacing());
        }
    }

 private:
    QString text_;
};

}  // namespace mellow::app
