#include "app/ground/held_keys.h"

#include <QCoreApplication>
#include <QScopedValueRollback>

namespace mellow::app {

HeldKeys::HeldKeys(QObject* parent) : QObject(parent) {
    waits_.setSingleShot(true);
    waits_.setInterval(moment);
    connect(&waits_, &QTimer::timeout, this, &HeldKeys::tell);
}

bool HeldKeys::keeps(QObject& receiver, QEvent& event) {
    // What comes to a window comes from the system, and goes on to a widget from there.
    if (!receiver.isWindowType() || tells_) return false;
    switch (event.type()) {
        case QEvent::KeyRelease:
            return comesUp(receiver, static_cast<QKeyEvent&>(event));
        case QEvent::ShortcutOverride:
        case QEvent::KeyPress:
            return goesDown(static_cast<QKeyEvent&>(event));
        case QEvent::FocusOut:
        case QEvent::WindowDeactivate:
            tell();
            return false;
        default:
            return false;
    }
}

bool HeldKeys::comesUp(QObject& window, const QKeyEvent& key) {
    tell();
    if (key.isAutoRepeat() || key.timestamp() == 0) return false;
    up_.reset(key.clone());
    window_ = &window;
    waits_.start();
    return true;
}

bool HeldKeys::goesDown(QKeyEvent& key) {
    const Struck struck(key.key(), key.timestamp());
    if (up_ != nullptr && Struck(up_->key(), up_->timestamp()) == struck) {
        up_.reset();
        waits_.stop();
        repeated_ = struck;
    }
    if (repeated_ == struck) {
        key.accept();
        return true;
    }
    repeated_.reset();
    tell();
    return false;
}

void HeldKeys::tell() {
    waits_.stop();
    const std::unique_ptr<QKeyEvent> up = std::move(up_);
    if (up == nullptr || window_.isNull()) return;
    const QScopedValueRollback telling(tells_, true);
    QCoreApplication::sendEvent(window_, up.get());
}

}  // namespace mellow::app
