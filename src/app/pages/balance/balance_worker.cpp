// How far it is is looked up by a timer, so that measuring is never held up by painting.
#include "app/pages/balance/balance_worker.h"

#include <sys/resource.h>

#include <algorithm>

#include "app/ground/words.h"
#include "io/balance/rack_measuring.h"

namespace mellow::app {

BalanceWorker::BalanceWorker(QObject* parent) : QObject(parent) {
    constexpr int lookEvery = 60;  // ms
    look_.setInterval(lookEvery);
    connect(&look_, &QTimer::timeout, this, &BalanceWorker::progressed);
    thread_ = std::thread([this] { run(); });
}

BalanceWorker::~BalanceWorker() {
    {
        const std::scoped_lock lock(mutex_);
        stopping_ = true;
        drop_ = asked_;
    }
    wanted_.notify_one();
    thread_.join();
}

void BalanceWorker::ask(int measures, Job job) {
    {
        const std::scoped_lock lock(mutex_);
        drop_ = asked_;
        nextNumber_ = ++asked_;
        next_ = std::move(job);
        measures_ = std::max(1, measures);
        what_.clear();
    }
    wanted_.notify_one();
    busy_ = true;
    look_.start();
    emit progressed();
}

void BalanceWorker::measureBy(Outside outside) {
    const std::scoped_lock lock(mutex_);
    outside_ = std::move(outside);
}

void BalanceWorker::cancel() {
    {
        const std::scoped_lock lock(mutex_);
        drop_ = asked_;
        next_.reset();
    }
    busy_ = false;
    look_.stop();
    emit progressed();
}

double BalanceWorker::done() const {
    return std::min(1.0, (measured_ + part_) / measures_);
}

QString BalanceWorker::what() const {
    const std::scoped_lock lock(mutex_);
    return toQt(what_);
}

void BalanceWorker::run() {
    // On Linux this is of the calling thread, and of those that it will begin.
    constexpr int nice = 10;
    setpriority(PRIO_PROCESS, 0, nice);
    while (true) {
        Job job;
        int number = 0;
        {
            std::unique_lock lock(mutex_);
            wanted_.wait(lock, [this] { return stopping_ || next_; });
            if (stopping_) return;
            job = std::move(*next_);
            next_.reset();
            number = nextNumber_;
        }
        current_ = number;
        measured_ = 0;
        part_ = 0;
        Then then = job([this](const Ensemble& ensemble, const balance::SweepPlan& plan,
                               const std::string& what) { return measure(ensemble, plan, what); });
        QMetaObject::invokeMethod(
            this, [this, number, then = std::move(then)] { finish(number, then); }, Qt::QueuedConnection);
    }
}

void BalanceWorker::finish(int number, const Then& then) {
    if (number != asked_ || drop_ >= number) return;
    busy_ = false;
    look_.stop();
    if (then) then();
    emit progressed();
}

Result<balance::Curve> BalanceWorker::measure(const Ensemble& ensemble, const balance::SweepPlan& plan,
                                              const std::string& what) {
    Outside outside;
    {
        const std::scoped_lock lock(mutex_);
        what_ = what;
        outside = outside_;
    }
    const auto progress = [this](double done) {
        part_ = done;
        return drop_ < current_;
    };
    auto curve =
        outside ? outside(ensemble, plan, progress) : io::measureOnRack(ensemble, plan, {}, progress);
    part_ = 0;
    ++measured_;
    return curve;
}

}  // namespace mellow::app
