// The thread is made with the first job.
#include "app/takes/result_worker.h"

#include <utility>

namespace mellow::app {

ResultWorker::ResultWorker(QObject* parent) : QObject(parent) {}

ResultWorker::~ResultWorker() {
    {
        const std::lock_guard lock(mutex_);
        stopping_ = true;
        drop_ = true;
        wanted_.notify_all();
    }
    if (thread_.joinable()) thread_.join();
}

void ResultWorker::ask(Job job) {
    const std::lock_guard lock(mutex_);
    next_ = std::move(job);
    nextNumber_ = ++asked_;
    drop_ = true;
    if (!thread_.joinable()) thread_ = std::thread([this] { run(); });
    wanted_.notify_all();
}

void ResultWorker::run() {
    std::unique_lock lock(mutex_);
    while (true) {
        wanted_.wait(lock, [this] { return stopping_ || next_.has_value(); });
        if (stopping_) return;
        const Job job = *std::exchange(next_, std::nullopt);
        const int number = nextNumber_;
        drop_ = false;
        lock.unlock();
        auto results =
            std::make_shared<const Results>(resultsOf(*job.ensemble, *job.take, job.instruments, &drop_));
        lock.lock();
        if (!results->isWhole) continue;
        QMetaObject::invokeMethod(
            this,
            [this, number, results] {
                delivered_ = number;
                emit finished(results);
            },
            Qt::QueuedConnection);
    }
}

}  // namespace mellow::app
