// A key or pedal that begins and ends recordings, so that nobody has to reach for the computer.
#pragma once

#include <QObject>
#include <QString>

#include "app/live/live.h"

namespace mellow::app {

class TakeTrigger : public QObject {
    Q_OBJECT

 public:
    explicit TakeTrigger(Live& live, QObject* parent = nullptr);

    /// The next key or pedal that is pressed will be it; false: none is. It is kept in the settings.
    void learn(bool learn);
    /// What it is, in words; empty: nothing.
    [[nodiscard]] QString text() const;

 signals:
    void changed();
    void pressed();

 private:
    void hear(const io::Happening& happening);

    Live& live_;
    bool learns_ = false;
    bool isDown_ = false;
    QString what_;  ///< port and the first two bytes, as text
};

}  // namespace mellow::app
