// A label of one line that makes do with the room that it is given: what finds none gives way to an ellipsis,
// and is in the tooltip as long as it is cut off.
#pragma once

#include <QHelpEvent>
#include <QLabel>
#include <QPainter>
#include <QStyle>
#include <QToolTip>

namespace mellow::app {

class ElidedLabel : public QLabel {
    Q_OBJECT

 public:
    /// What it takes of a row: what others leave, or, before those, as much as its words need.
    enum class Takes { whatIsLeft, whatItNeeds };

    explicit ElidedLabel(QWidget* parent = nullptr, Takes takes = Takes::whatIsLeft)
        : QLabel(parent), takes_(takes) {
        const bool rest = takes == Takes::whatIsLeft;
        setSizePolicy(rest ? QSizePolicy::Ignored : QSizePolicy::Preferred, QSizePolicy::Preferred);
    }
    [[nodiscard]] QSize sizeHint() const override {
        const QSize needed = QLabel::sizeHint();
        return {takes_ == Takes::whatItNeeds ? needed.width() : 0, needed.height()};
    }
    [[nodiscard]] QSize minimumSizeHint() const override { return {0, QLabel::minimumSizeHint().height()}; }

 protected:
    bool event(QEvent* event) override {
        if (event->type() != QEvent::ToolTip || !toolTip().isEmpty() || shownText() == text())
            return QLabel::event(event);
        QToolTip::showText(static_cast<QHelpEvent*>(event)->globalPos(), text(), this);
        return true;
    }
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        style()->drawItemText(&painter, contentsRect(), static_cast<int>(alignment()), palette(), isEnabled(),
                              shownText(), foregroundRole());
    }

 private:
    [[nodiscard]] QString shownText() const {
        return fontMetrics().elidedText(text(), Qt::ElideRight, contentsRect().width());
    }

    const Takes takes_;
};

}  // namespace mellow::app
