// A text that has a fixed number of lines at most, and the room of so many always, so that nothing beside it
// moves when the text changes. What finds no room gives way to an ellipsis, and is in the tooltip.
#pragma once

#include <QMouseEvent>
#include <QPainter>
#include <QTextLayout>
#include <QWidget>
#include <utility>

#include "app/ground/theme.h"

namespace mellow::app {

class FewLines : public QWidget {
    Q_OBJECT

 public:
    enum class Role { body, caption };

    FewLines(int lines, Role role, QWidget* parent = nullptr) : QWidget(parent), lines_(lines), role_(role) {
        setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    }
    /// whole: what the tooltip says where it is more than the text; empty: the text.
    void setText(const QString& text, const QString& whole = {}) {
        const QString all = whole.isEmpty() ? text : whole;
        if (text == text_ && all == whole_) return;
        text_ = text;
        whole_ = all;
        setAccessibleName(all);
        setToolTip(all);
        update();
    }
    /// What it says is of something that cannot work.
    void setTrouble(bool trouble) {
        if (std::exchange(isTrouble_, trouble) != trouble) update();
    }
    /// What has fewer lines stands in the middle of the room, not at its top.
    void setCentred() { isCentred_ = true; }
    [[nodiscard]] const QString& text() const { return whole_; }
    [[nodiscard]] const QString& shownText() const { return text_; }
    /// Whether a text finds room, at the width that there is.
    [[nodiscard]] bool fits(const QString& text) const { return broken(text, lines_ + 1).size() <= lines_; }
    [[nodiscard]] QSize sizeHint() const override {
        return {0, lines_ * QFontMetrics(textFont()).lineSpacing() + 1};
    }

 signals:
    void clicked();

 protected:
    void mouseReleaseEvent(QMouseEvent* event) override {
        if (event->button() == Qt::LeftButton && rect().contains(event->position().toPoint())) emit clicked();
    }
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setPen(isTrouble_ ? theme().clay : role_ == Role::body ? theme().ink : theme().dim);
        painter.setFont(textFont());
        const QFontMetrics metrics(textFont());
        const QStringList lines = broken(text_, lines_);
        // Of one line in a row with others the middle is where it belongs; longer texts begin above.
        const int high = static_cast<int>(lines.size()) * metrics.lineSpacing();
        const int top = isCentred_ ? (height() - high) / 2 : 0;
        QRect row(0, top, width(), metrics.lineSpacing());
        for (const QString& line : lines) {
            painter.drawText(row, Qt::AlignLeft | Qt::AlignVCenter, line);
            row.translate(0, metrics.lineSpacing());
        }
    }

 private:
    [[nodiscard]] QFont textFont() const { return role_ == Role::body ? bodyFont() : captionFont(); }

    [[nodiscard]] QStringList broken(const QString& text, int most) const {
        QTextLayout layout(text, textFont());
        const QFontMetrics metrics(textFont());
        QStringList lines;
        layout.beginLayout();
        for (QTextLine line = layout.createLine(); line.isValid(); line = layout.createLine()) {
            line.setLineWidth(width());
            const bool last = lines.size() + 1 == most;
            lines << (last ? metrics.elidedText(text.mid(line.textStart()), Qt::ElideRight, width())
                           : text.mid(line.textStart(), line.textLength()).trimmed());
            if (last) break;
        }
        layout.endLayout();
        return lines;
    }

    int lines_;
    Role role_;
    bool isCentred_ = false;
    bool isTrouble_ = false;
    QString text_;
    QString whole_;
};

}  // namespace mellow::app
