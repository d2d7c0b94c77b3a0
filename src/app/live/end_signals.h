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
    /// Holds the signals back from every thread that begins later; to be called before the application is
    /// made, which begins threads that would otherwise be ended by them.
    static void hold();
    /// Ends the application's event loop when one comes, without a question: what is not saved is in the
    /// journal, and notes end with the window. The application must be there.
    EndSignals();
    ~EndSignals() override;

 private:
    int descriptor_ = -1;
    std::unique_ptr<QSocketNotifier> notifier_;
};

}  // namespace mellow::app
