// An event filter on the application sees every widget's events before the widget does; what a widget is for
// is known when it is shown.
#include "app/widgets/manners.h"

#include <QAbstractButton>
#include <QAbstractSlider>
#include <QAbstractSpinBox>
#include <QApplication>
#include <QComboBox>
#include <QEvent>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QScrollBar>
#include <QTableView>
#include <QTextEdit>
#include <QWheelEvent>

namespace mellow::app {

namespace {

constexpr const char* closes = "closesOnEscape";

bool types(const QObject* watched) {
    return qobject_cast<const QLineEdit*>(watched) != nullptr ||
           qobject_cast<const QTextEdit*>(watched) != nullptr ||
           qobject_cast<const QPlainTextEdit*>(watched) != nullptr ||
           qobject_cast<const QAbstractSpinBox*>(watched) != nullptr;
}

/// A field whose value the wheel would change.
QWidget* turnedByWheel(QObject* watched) {
    auto* widget = qobject_cast<QWidget*>(watched);
    // A field of numbers or words inside a list or a spin box belongs to that.
    if (auto* inner = qobject_cast<QLineEdit*>(watched); inner != nullptr) {
        auto* outer = inner->parentWidget();
        const bool belongs =
            qobject_cast<QComboBox*>(outer) != nullptr || qobject_cast<QAbstractSpinBox*>(outer) != nullptr;
        return belongs ? outer : nullptr;
    }
    const bool turns =
        qobject_cast<QComboBox*>(widget) != nullptr || qobject_cast<QAbstractSpinBox*>(widget) != nullptr ||
        (qobject_cast<QAbstractSlider*>(widget) != nullptr && qobject_cast<QScrollBar*>(widget) == nullptr);
    return turns ? widget : nullptr;
}

/// What presses, ticks or opens with Space itself, once one has come to it by Tab.
bool pressesWithSpace(const QObject* watched) {
    return qobject_cast<const QAbstractButton*>(watched) != nullptr ||
           qobject_cast<const QComboBox*>(watched) != nullptr ||
           qobject_cast<const QTableView*>(watched) != nullptr;
}

}  // namespace

bool keepsKeys(const QObject* watched) {
    return types(watched) || QApplication::activePopupWidget() != nullptr;
}

void closeOnEscape(QWidget& widget, const std::function<void()>& close) {
    widget.setProperty(closes, QVariant::fromValue(close));
}

Manners::Manners(QWidget& window) : QObject(&window), window_(window) {
    qApp->installEventFilter(this);
}

bool Manners::closeWhatEscapeCloses() {
    for (QWidget* each : window_.findChildren<QWidget*>()) {
        const auto close = each->property(closes).value<std::function<void()>>();
        if (!each->isVisible() || !close) continue;
        close();
        return true;
    }
    return false;
}

/// A button is come to by Tab, not by a click; a field that the wheel turns not by the wheel.
void Manners::takeOn(QWidget& widget) {
    if (widget.window() != &window_) return;
    if (qobject_cast<QAbstractButton*>(&widget) != nullptr && widget.focusPolicy() == Qt::StrongFocus)
        widget.setFocusPolicy(Qt::TabFocus);
    if (turnedByWheel(&widget) != nullptr && widget.focusPolicy() == Qt::WheelFocus)
        widget.setFocusPolicy(Qt::StrongFocus);
    if (auto* list = qobject_cast<QComboBox*>(&widget); list != nullptr)
        connect(list, &QComboBox::activated, this, &Manners::giveBack, Qt::UniqueConnection);
}

/// Whoever chooses by the keyboard stays where he is.
void Manners::giveBack() {
    if (byMouse_) goHome();
}

void Manners::goHome() {
    if (home_ != nullptr && home_->isVisible()) {
        home_->setFocus(Qt::OtherFocusReason);
    } else if (QWidget* has = QApplication::focusWidget(); has != nullptr) {
        has->clearFocus();
    }
}

bool Manners::eventFilter(QObject* watched, QEvent* event) {
    switch (event->type()) {
        case QEvent::Show:  // By now it stands in its window.
            if (auto* widget = qobject_cast<QWidget*>(watched); widget != nullptr) takeOn(*widget);
            break;
        case QEvent::MouseButtonPress:
        case QEvent::MouseButtonRelease:
            byMouse_ = true;
            break;
        case QEvent::KeyPress:
            byMouse_ = false;
            break;
        case QEvent::ShortcutOverride: {
            const auto* key = static_cast<QKeyEvent*>(event);
            const bool space = key->key() == Qt::Key_Space && key->modifiers() == Qt::NoModifier;
            if (QApplication::activePopupWidget() == nullptr && !(space && pressesWithSpace(watched))) break;
            // It is no shortcut then, and goes to whoever has the keyboard.
            event->accept();
            return true;
        }
        case QEvent::Wheel: {
            QWidget* field = turnedByWheel(watched);
            if (field == nullptr || field->window() != &window_ || field->hasFocus()) break;
            event->ignore();
            return true;
        }
        default:
            break;
    }
    return QObject::eventFilter(watched, event);
}

}  // namespace mellow::app
