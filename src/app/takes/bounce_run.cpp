// How far it is is looked up by a timer, so that rendering is never held up by painting.
#include "app/takes/bounce_run.h"

#include <QFile>

#include "app/ground/words.h"

namespace mellow::app {

BounceRun::BounceRun(Job job, QObject* parent) : QObject(parent), job_(std::move(job)) {
    constexpr int lookEvery = 60;  // ms
    connect(&look_, &QTimer::timeout, this,
            [this] { emit progressed(done_.load(std::memory_order_relaxed)); });
    look_.start(lookEvery);
    thread_ = std::thread([this] { run(); });
}

BounceRun::~BounceRun() {
    cancel();
    if (thread_.joinable()) thread_.join();
}

void BounceRun::run() {
    const io::Progress progress = [this](double done) {
        done_.store(done, std::memory_order_relaxed);
        return !cancelled_.load(std::memory_order_relaxed);
    };
    QStringList files;
    QString problem;
    const auto name = [](const std::filesystem::path& path) {
        return QFile::decodeName(QByteArray::fromStdString(path.string()));
    };
    if (job_.apart) {
        const auto made = io::bounceApart(*job_.ensemble, *job_.take, job_.output, job_.options, progress);
        if (made) {
            for (const std::filesystem::path& path : *made) files << name(path);
        } else {
            problem = toQt(made.problem().sentence());
        }
    } else {
        const auto made = io::bounce(*job_.ensemble, *job_.take, job_.output, job_.options, progress);
        if (!made) {
            problem = toQt(made.problem().sentence());
        } else if (*made) {
            files << name(job_.output);
        }
    }
    QMetaObject::invokeMethod(
        this, [this, files, problem] { emit finished(files, problem); }, Qt::QueuedConnection);
}

}  // namespace mellow::app
