// A bounce that is under way: rendered on a thread of its own, told of as it goes, and ended when nobody
// wants it any more.
#pragma once

#include <QObject>
#include <QTimer>
#include <atomic>
#include <memory>
#include <thread>

#include "io/bounce/bounce.h"

namespace mellow::app {

class BounceRun : public QObject {
    Q_OBJECT

 public:
    struct Job {
        std::shared_ptr<const Ensemble> ensemble;
        std::shared_ptr<const Take> take;
        std::filesystem::path output;
        io::BounceOptions options;
        bool apart = false;  ///< a file for each instrument
    };
    BounceRun(Job job, QObject* parent);
    ~BounceRun() override;
    void cancel() { cancelled_.store(true, std::memory_order_relaxed); }

 signals:
    /// 0 to 1.
    void progressed(double done);
    /// files: what was written; empty: it was cancelled, or `problem` says why there is nothing.
    void finished(const QStringList& files, const QString& problem);

 private:
    void run();

    Job job_;
    std::atomic<bool> cancelled_{false};
    std::atomic<double> done_{0};
    QTimer look_;
    std::thread thread_;
};

}  // namespace mellow::app
