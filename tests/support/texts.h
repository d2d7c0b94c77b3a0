// What of a window cannot be read: texts that are cut off, or lie over one another. Measured from the
// widgets.
#pragma once

#include <QAbstractButton>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QStringList>
#include <QStyleOptionComboBox>
#include <cstdlib>

#include "app/widgets/elided_label.h"
#include "app/widgets/short_list.h"

namespace mellow::test {

inline QString labelOf(const QWidget* widget) {
    return QStringLiteral("%1 \"%2\"")
        .arg(QLatin1String(widget->metaObject()->className()), widget->objectName());
}

/// What is cut off: the text and by how much, or nothing.
inline QString cutOff(const QWidget* widget) {
    if (const auto* label = qobject_cast<const QLabel*>(widget)) {
        if (label->text().isEmpty() || !label->pixmap(Qt::ReturnByValue).isNull()) return {};
        // One that ends in an ellipsis by itself has only to be high enough.
        const bool isElided = qobject_cast<const app::ElidedLabel*>(label) != nullptr;
        const bool wraps = label->wordWrap();
        const QSize wanted = wraps ? QSize(0, label->heightForWidth(label->width())) : label->sizeHint();
        if ((wanted.width() > label->width() && !isElided) || wanted.height() > label->height() + 1)
            return labelOf(label) + QLatin1Char(' ') + label->text();
    }
    // A mark inside a field, without words, has the room that the field gives it, in the middle of its
    // height.
    const auto* button = qobject_cast<const QAbstractButton*>(widget);
    const auto* field = qobject_cast<const QLineEdit*>(widget->parentWidget());
    if (button != nullptr && field != nullptr) {
        const QRect mark = button->geometry();
        if (!field->rect().contains(mark) || std::abs(mark.center().y() - field->rect().center().y()) > 1)
            return labelOf(field) + QStringLiteral(", its mark");
    }
    if (button != nullptr && field == nullptr) {
        const QSize wanted = button->minimumSizeHint();
        if (wanted.width() > button->width() + 1 || wanted.height() > button->height() + 1)
            return labelOf(button) + QLatin1Char(' ') + button->text();
    }
    // A short list ends in an ellipsis by itself.
    if (const auto* list = qobject_cast<const QComboBox*>(widget);
        list != nullptr && qobject_cast<const app::ShortList*>(list) == nullptr) {
        QStyleOptionComboBox option;
        option.initFrom(list);
        const QRect room =
            list->style()->subControlRect(QStyle::CC_ComboBox, &option, QStyle::SC_ComboBoxEditField, list);
        if (list->fontMetrics().horizontalAdvance(list->currentText()) > room.width())
            return labelOf(list) + QLatin1Char(' ') + list->currentText();
    }
    return {};
}

inline bool isText(const QWidget* widget) {
    return qobject_cast<const QLabel*>(widget) != nullptr ||
           qobject_cast<const QAbstractButton*>(widget) != nullptr ||
           qobject_cast<const QLineEdit*>(widget) != nullptr ||
           qobject_cast<const QComboBox*>(widget) != nullptr;
}

/// All of that in a window, a line each.
inline QStringList faults(QWidget& window) {
    QStringList found;
    QList<QWidget*> texts;
    for (QWidget* each : window.findChildren<QWidget*>()) {
        if (!each->isVisible() || !isText(each) || each->width() == 0) continue;
        // What is in a window of its own is looked at with that.
        if (each->window() != &window && each->window() != window.window()) continue;
        texts << each;
        const QString cut = cutOff(each);
        if (!cut.isEmpty()) found << QStringLiteral("cut off: ") + cut;
    }
    for (int i = 0; i < texts.size(); ++i) {
        for (int j = i + 1; j < texts.size(); ++j) {
            if (texts[i]->parentWidget() != texts[j]->parentWidget()) continue;
            const QRect both = texts[i]->geometry() & texts[j]->geometry();
            if (both.width() > 1 && both.height() > 1)
                found << QStringLiteral("overlap: %1, %2").arg(labelOf(texts[i]), labelOf(texts[j]));
        }
    }
    return found;
}

}  // namespace mellow::test
