// A loop is left by an event that the work's end posts. Input that comes before the panel is there is kept by
// the window system and comes afterwards; once the panel is there, it takes all input, as any dialog does.
#include "app/ground/aside.h"

#include <QApplication>
#include <QEventLoop>
#include <QProgressDialog>
#include <QThread>
#include <QTimer>
#include <chrono>
#include <condition_variable>
#include <exception>
#include <mutex>
#include <thread>

#include "app/ground/theme.h"

namespace mellow::app::aside {

namespace {

constexpr std::chrono::milliseconds aPicture(30);
constexpr int panelAfter = 400;  // ms

/// One piece of work; shared by whoever waits for it and the thread that does it.
class Work {
 public:
    explicit Work(std::function<void()> work) : work_(std::move(work)) {}

    void run() {
        try {
            work_();
        } catch (...) {
            failed_ = std::current_exception();
        }
        const std::lock_guard lock(mutex_);
        isDone_ = true;
        done_.notify_all();
        if (loop_ != nullptr) QMetaObject::invokeMethod(loop_, &QEventLoop::quit, Qt::QueuedConnection);
    }
    /// False when it is not done by then.
    bool await(std::chrono::milliseconds patience) {
        std::unique_lock lock(mutex_);
        return done_.wait_for(lock, patience, [this] { return isDone_; });
    }
    [[nodiscard]] bool isDone() {
        const std::lock_guard lock(mutex_);
        return isDone_;
    }
    /// Runs a loop until the work is done or the loop is left.
    void loop(QEventLoop& loop, QEventLoop::ProcessEventsFlags flags) {
        {
            const std::lock_guard lock(mutex_);
            if (isDone_) return;
            loop_ = &loop;
        }
        loop.exec(flags);
        const std::lock_guard lock(mutex_);
        loop_ = nullptr;
    }
    void rethrow() const {
        if (failed_) std::rethrow_exception(failed_);
    }

 private:
    std::function<void()> work_;
    std::mutex mutex_;
    std::condition_variable done_;
    QEventLoop* loop_ = nullptr;
    bool isDone_ = false;
    std::exception_ptr failed_;
};

/// Lets the window go on. False when a person left it, which is possible where mayLeave says so.
bool goOn(Work& work, const QString& saying, bool mayLeave) {
    {
        QEventLoop quiet;
        QTimer::singleShot(panelAfter, &quiet, &QEventLoop::quit);
        work.loop(quiet, QEventLoop::ExcludeUserInputEvents);
    }
    if (work.isDone()) return true;
    QProgressDialog panel(saying, mayLeave ? QApplication::translate("Aside", "Cancel") : QString(), 0, 0,
                          QApplication::activeWindow());
    panel.setObjectName(QStringLiteral("waiting"));
    panel.setWindowTitle(QApplication::translate("Aside", "One moment"));
    panel.setWindowModality(Qt::ApplicationModal);
    if (!mayLeave) panel.setWindowFlag(Qt::WindowCloseButtonHint, false);
    panel.setMinimumDuration(0);
    panel.setMinimumWidth(scaled(340));
    // It may stand above the window without a frame of the desktop's.
    panel.setStyleSheet(QStringLiteral("QProgressDialog { border: 1px solid palette(mid); }"));
    panel.show();
    while (!work.isDone()) {
        QEventLoop loop;
        QObject::connect(&panel, &QProgressDialog::canceled, &loop, &QEventLoop::quit);
        work.loop(loop, QEventLoop::AllEvents);
        if (mayLeave && panel.wasCanceled() && !work.isDone()) return false;
        if (!panel.isVisible()) panel.show();
        // A program that is about to end runs no more loops.
        work.await(aPicture);
    }
    return true;
}

bool hasLoop() {
    return QCoreApplication::instance() != nullptr &&
           QThread::currentThread() == QCoreApplication::instance()->thread();
}

}  // namespace

void wait(const Waiting& waiting, const std::function<void()>& work) {
    if (!hasLoop()) return work();
    Work shared(work);
    std::thread thread([&shared] { shared.run(); });
    if (!shared.await(aPicture)) {
        if (waiting.looped != nullptr) *waiting.looped = true;
        goOn(shared, waiting.saying, false);
    }
    thread.join();
    shared.rethrow();
}

bool waitUnlessLeft(const Waiting& waiting, std::function<void()> work) {
    if (!hasLoop()) {
        work();
        return true;
    }
    const auto shared = std::make_shared<Work>(std::move(work));
    std::thread([shared] { shared->run(); }).detach();
    if (!shared->await(aPicture)) {
        if (waiting.looped != nullptr) *waiting.looped = true;
        if (!goOn(*shared, waiting.saying, true)) return false;
    }
    shared->rethrow();
    return true;
}

}  // namespace mellow::app::aside
