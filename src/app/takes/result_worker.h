// Works out what comes of a take, aside: an edit is heard first and drawn a moment later.
//
// One thread does the newest thing that was asked for and drops what is older, also while it is at it.
// Results come back on the thread that asked.
#pragma once

#include <QObject>
#include <atomic>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "core/takes/results.h"

namespace mellow::app {

class ResultWorker : public QObject {
    Q_OBJECT

 public:
    explicit ResultWorker(QObject* parent = nullptr);
    ~ResultWorker() override;

    struct Job {
        std::shared_ptr<const Ensemble> ensemble;
        std::shared_ptr<const Take> take;
        std::vector<std::string> instruments;
    };
    void ask(Job job);
    /// Whether something that was asked for has not come yet.
    [[nodiscard]] bool isBusy() const { return asked_ != delivered_; }

 signals:
    void finished(std::shared_ptr<const mellow::Results> results);

 private:
    void run();

    std::mutex mutex_;
    std::condition_variable wanted_;
    std::optional<Job> next_;
    std::atomic<bool> drop_{false};  ///< what is being worked out
    bool stopping_ = false;
    int asked_ = 0;      ///< jobs so far; of the asking thread
    int delivered_ = 0;  ///< the newest that came back
    int nextNumber_ = 0;
    std::thread thread_;
};

}  // namespace mellow::app
