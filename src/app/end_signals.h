// Signals by which a system ends a program, as a signal of Qt: so that even then notes end and unsaved work
// is on the disk.
#pragma once

#include <QObject>
#include <QSocketNotifier>
#include <memory>

namespace mellow::app {

class EndSignals : public QObject {
    Q_OBJECT

 public:
    /// To be made before any thread is, so that none of them is interrupted.
    EndSignals();
    ~EndSignals() override;

 signals:
    void asked();

 private:
    int descriptor_ = -1;
    std::unique_ptr<QSocketNotifier> notifier_;
};

}  // namespace mellow::app
