// Measures and levels aside, while the window goes on.
//
// One thread does what was asked for, one thing at a time; what is asked for newly ends what is being done
// and what waits. It is nice to everybody else (setpriority), so that what is painted and played goes first.
#pragma once

#include <QObject>
#include <QTimer>
#include <atomic>
#include <condition_variable>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "core/balance/levelling.h"

namespace mellow::app {

class BalanceWorker : public QObject {
    Q_OBJECT

 public:
    explicit BalanceWorker(QObject* parent = nullptr);
    ~BalanceWorker() override;

    /// A job is done on the worker's thread, with what measures; what it gives back is done on the asker's.
    using Then = std::function<void()>;
    using Job = std::function<Then(const balance::Measure& measure)>;

    /// Measures by other means than the practice rack; called on the worker's thread. progress: asked again
    /// and again with what is done, 0 to 1; false: it is to end.
    using Outside =
        std::function<Result<balance::Curve>(const Ensemble& ensemble, const balance::SweepPlan& plan,
                                             const std::function<bool(double)>& progress)>;
    /// From the next job on; nothing: the practice rack.
    void measureBy(Outside outside);

    /// Drops what it does, and does this. measures: how many sweeps it will ask for, about.
    void ask(int measures, Job job);
    void cancel();
    [[nodiscard]] bool isBusy() const { return busy_; }
    /// How much is done, 0 to 1, and what is measured.
    [[nodiscard]] double done() const;
    [[nodiscard]] QString what() const;

 signals:
    /// isBusy(), done() or what() may say something else.
    void progressed();

 private:
    void run();
    void finish(int number, const Then& then);
    Result<balance::Curve> measure(const Ensemble& ensemble, const balance::SweepPlan& plan,
                                   const std::string& what);

    QTimer look_;
    bool busy_ = false;
    int asked_ = 0;  ///< jobs so far

    mutable std::mutex mutex_;  ///< of what follows
    std::condition_variable wanted_;
    std::optional<Job> next_;
    int nextNumber_ = 0;
    bool stopping_ = false;
    std::string what_;
    Outside outside_;

    std::atomic<int> drop_{0};  ///< jobs up to this number are wanted no more
    std::atomic<int> current_{0};
    std::atomic<int> measures_{1};
    std::atomic<int> measured_{0};
    std::atomic<double> part_{0};  ///< of the sweep that is measured
    std::thread thread_;
};

}  // namespace mellow::app
