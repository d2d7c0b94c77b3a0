// The field holds a number and shows it with its unit; while a person types, it holds what was typed and says
// by its frame whether that can be read. Enter, Tab or leaving the field takes it, Esc does not. A value that
// comes from elsewhere while somebody types waits until they are done.
#include "app/widgets/number_field.h"

#include <QKeyEvent>
#include <QStyle>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"
#include "core/text/calculation.h"
#include "core/text/numbers.h"

namespace mellow::app {

NumberField::NumberField(QWidget* parent) : QLineEdit(parent) {
    setFont(numberFont());
    setAlignment(Qt::AlignRight);
    connect(this, &QLineEdit::returnPressed, this, [this] {
        commit();
        selectAll();
    });
    connect(this, &QLineEdit::textEdited, this, [this] { markWrong(!typed()); });
}

void NumberField::setUnit(const QString& unit) {
    unit_ = unit;
    show();
}

void NumberField::setBounds(double low, double high, double step) {
    low_ = low;
    high_ = high;
    step_ = step;
}

void NumberField::setValue(double value) {
    value_ = value;
    if (!hasFocus() || !isModified()) show();
}

void NumberField::show() {
    const bool share = unit_ == QLatin1String("share");
    const std::string text = share ? text::plain(std::round(value_ * 1000) / 10) + " %"
                                   : text::withUnit(value_, unit_.toStdString());
    setText(QString::fromStdString(text));
    setModified(false);
    setCursorPosition(0);
    markWrong(false);
}

void NumberField::markWrong(bool wrong) {
    if (property("wrong").toBool() == wrong) return;
    setProperty("wrong", wrong);
    setToolTip(wrong ? tr("This is no number here. Type for example %1.")
                           .arg(QString::fromStdString(text::withUnit(
                               value_, unit_ == QLatin1String("share") ? "" : unit_.toStdString())))
                     : QString());
    style()->unpolish(this);
    style()->polish(this);
}

std::optional<double> NumberField::typed() const {
    const bool share = unit_ == QLatin1String("share");
    auto number = text::calculated(text().toStdString(), share ? "%" : unit_.toStdString());
    if (!number) return std::nullopt;
    if (share) *number /= 100;
    return whole_ ? std::round(*number) : *number;
}

void NumberField::commit() {
    const auto number = typed();
    if (!number) {
        markWrong(true);
        return;
    }
    const double value = std::clamp(*number, low_, high_);
    const bool isNew = value != value_;
    value_ = value;
    show();
    if (isNew) emit entered(value);
}

void NumberField::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Up || event->key() == Qt::Key_Down) {
        const double size = (event->modifiers() & Qt::ShiftModifier) != 0 && !whole_ ? step_ / 10 : step_;
        const double grain = std::pow(10.0, std::floor(std::log10(size)));
        const double moved =
            std::round((value_ + (event->key() == Qt::Key_Up ? size : -size)) / grain) * grain;
        const double value = std::clamp(moved, low_, high_);
        if (value == value_) return;
        value_ = value;
        show();
        emit entered(value);
    } else if (event->key() == Qt::Key_Escape && isModified()) {
        show();
    } else {
        QLineEdit::keyPressEvent(event);
    }
}

/// Esc is a shortcut elsewhere, and here means what was typed, while something is.
bool NumberField::event(QEvent* event) {
    const bool isEscape =
        event->type() == QEvent::ShortcutOverride && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape;
    if (isEscape && isModified()) event->accept();
    return QLineEdit::event(event);
}

void NumberField::focusInEvent(QFocusEvent* event) {
    QLineEdit::focusInEvent(event);
    if (event->reason() != Qt::MouseFocusReason) selectAll();
}

void NumberField::focusOutEvent(QFocusEvent* event) {
    QLineEdit::focusOutEvent(event);
    if (!isModified()) return;
    if (typed()) {
        commit();
    } else {
        show();
    }
}

}  // namespace mellow::app
