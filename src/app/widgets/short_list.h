// A list to choose from that gets along with little room: what is chosen and finds no room there gives way to
// an ellipsis, and is in the tool tip, above what that says otherwise. The open list is as wide as its words.
#pragma once

#include <QAbstractItemView>
#include <QComboBox>
#include <QHelpEvent>
#include <QStyleOptionComboBox>
#include <QStylePainter>
#include <QToolTip>

namespace mellow::app {

class ShortList : public QComboBox {
    Q_OBJECT

 public:
    /// letters: for how many there is room at least.
    explicit ShortList(int letters = 8, QWidget* parent = nullptr) : QComboBox(parent) {
        setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        setMinimumContentsLength(letters);
    }

    /// What stands in it, with its ellipsis where it has one.
    [[nodiscard]] QString shownText() const {
        QStyleOptionComboBox option;
        initStyleOption(&option);
        const QRect field =
            style()->subControlRect(QStyle::CC_ComboBox, &option, QStyle::SC_ComboBoxEditField, this);
        return fontMetrics().elidedText(currentText(), Qt::ElideRight, field.width() - 2 * textMargin);
    }

    void showPopup() override {
        const int bar = count() > maxVisibleItems() ? style()->pixelMetric(QStyle::PM_ScrollBarExtent) : 0;
        view()->setMinimumWidth(view()->sizeHintForColumn(0) + 2 * view()->frameWidth() + bar);
        QComboBox::showPopup();
    }

 protected:
    void paintEvent(QPaintEvent*) override {
        QStylePainter painter(this);
        QStyleOptionComboBox option;
        initStyleOption(&option);
        painter.drawComplexControl(QStyle::CC_ComboBox, option);
        option.currentText = shownText();
        painter.drawControl(QStyle::CE_ComboBoxLabel, option);
    }

    bool event(QEvent* event) override {
        if (event->type() != QEvent::ToolTip || shownText() == currentText()) return QComboBox::event(event);
        const QString about = toolTip().isEmpty() ? QString() : QLatin1Char('\n') + toolTip();
        QToolTip::showText(static_cast<QHelpEvent*>(event)->globalPos(), currentText() + about, this);
        return true;
    }

 private:
    static constexpr int textMargin = 1;  ///< that a style leaves at each end of the field
};

}  // namespace mellow::app
