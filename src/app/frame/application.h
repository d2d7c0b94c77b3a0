// The outermost place at which something that went wrong is caught.
//
// Nothing is thrown across the core's boundary, and what can fail says so; but memory may end, a library may
// throw what it does not say, and a mistake may be ours. Then the act that failed is given up, and the
// program goes on: what was edited is in the journal within a second as ever, and notes that sound can be
// silenced.
//
// Also the outermost place at which a key is heard of: before every filter, so that what X11 repeats is kept
// from all of them (ground/held_keys.h).
#pragma once

#include <QApplication>

#include "app/ground/held_keys.h"

namespace mellow::app {

class Application : public QApplication {
    Q_OBJECT

 public:
    Application(int& argc, char** argv) : QApplication(argc, argv) {}
    bool notify(QObject* receiver, QEvent* event) override;

 signals:
    /// An act was given up. what: in a sentence for a person.
    void gaveUp(const QString& sentence);

 private:
    HeldKeys keys_;
    const bool onX11_ = platformName() == QLatin1String("xcb");
};

}  // namespace mellow::app
