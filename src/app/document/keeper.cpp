#include "app/document/keeper.h"

#include <unistd.h>

#include <QDir>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QFile>
#include <QFileInfo>
#include <QSettings>
#include <algorithm>
#include <atomic>
#include <thread>
#include <utility>

#include "app/ground/aside.h"
#include "app/ground/words.h"
#include "core/files/files.h"
#include "core/files/own.h"
#include "core/files/sidecars.h"

namespace mellow::app {

namespace {

namespace fs = std::filesystem;

constexpr int lookEvery = 500;  // ms

fs::path fileOf(const QString& path) {
    return QFile::encodeName(QFileInfo(path).absoluteFilePath()).toStdString();
}

fs::path ownFolder() {
    const QString settings = QFileInfo(QSettings().fileName()).absolutePath();
    return fs::path(QFile::encodeName(settings).toStdString()) / "unsaved";
}

/// For a document whose own folder cannot be written.
fs::path elsewhere(const fs::path& document) {
    return ownFolder() / (std::to_string(std::hash<std::string>()(document.string())) + ".journal");
}

}  // namespace

/// What a look found; whoever looks may still wait for the disk when nobody asks any more.
struct Keeper::DiskLook {
    QString path;
    std::optional<files::FileStamp> stamp;
    std::atomic<bool> isDone = false;
};

Keeper::Keeper(Document& document, QObject* parent) : QObject(parent), document_(document) {
    static int documents = 0;
    untitled_ = ownFolder() /
                ("untitled-" + std::to_string(::getpid()) + "-" + std::to_string(++documents) + ".journal");
    journal_.onProblem([this](const Problem& problem) {
        QMetaObject::invokeMethod(
            this, [this, sentence = toQt(problem.sentence())] { emit troubled(sentence); },
            Qt::QueuedConnection);
    });
    journal_.onWritten([this](std::shared_ptr<const Ensemble> ensemble) {
        QMetaObject::invokeMethod(
            this, [this, ensemble = std::move(ensemble)] { emit written(*ensemble); }, Qt::QueuedConnection);
    });
    connect(&document_, &Document::changed, this, &Keeper::follow);
    connect(&document_, &Document::stateChanged, this, &Keeper::follow);
    connect(&look_, &QTimer::timeout, this, &Keeper::look);
    look_.start(lookEvery);
}

Keeper::~Keeper() {
    journal_.onProblem({});
    journal_.onWritten({});
}

/// Asked for at every edit, so names are made once a document.
void Keeper::findJournals() {
    if (document_.path().isEmpty() || document_.path() == journalOf_) return;
    journalOf_ = document_.path();
    titled_ = files::journalOf(fileOf(journalOf_));
    elsewhere_ = elsewhere(fileOf(journalOf_));
}

void Keeper::follow() {
    if (document_.isReadOnly()) {
        journal_.leave();
    } else if (document_.isModified()) {
        findJournals();
        if (document_.path().isEmpty()) {
            journal_.keep(untitled_, {}, document_.shared());
        } else {
            journal_.keep(titled_, elsewhere_, document_.shared());
        }
    } else {
        journal_.drop();
    }
}

void Keeper::look() {
    if (claim_.isDemanded()) {
        journal_.flush();
        document_.setReadOnly(true);
        journal_.flush();
        release();
        emit takenOver();
    }
    lookAtDisk();
}

/// What the last look found counts, unless the document has become another, or was saved, since it began.
void Keeper::lookAtDisk() {
    if (diskLook_ != nullptr && !diskLook_->isDone) return;
    if (const auto found = std::exchange(diskLook_, nullptr); found != nullptr) {
        const bool changed = found->path == document_.path() && document_.isChanged(found->stamp);
        if (changed && !toldOfDisk_) emit changedOnDisk();
        toldOfDisk_ = changed;
    }
    if (document_.path().isEmpty()) return;
    diskLook_ = std::make_shared<DiskLook>();
    diskLook_->path = document_.path();
    std::thread([look = diskLook_, file = fileOf(document_.path())] {
        look->stamp = files::stampOf(file);
        look->isDone = true;
    }).detach();
}

std::optional<store::Journaled> Keeper::read(const fs::path& journal) {
    return doneAside({tr("Waiting for the disk")}, [&journal]() -> std::optional<store::Journaled> {
        const auto text = files::readOwn(journal);
        if (!text || !*text) return std::nullopt;
        auto read = store::readJournal(**text);
        return read ? std::optional(std::move(*read)) : std::nullopt;
    });
}

std::optional<store::Journaled> Keeper::leftBehind(const QString& path) {
    const fs::path file = fileOf(path);
    return doneAside({tr("Waiting for the disk")}, [&] {
        std::optional<store::Journaled> newest;
        for (const fs::path& journal : {files::journalOf(file), elsewhere(file)}) {
            if (io::isBeingWritten(journal)) continue;
            auto work = read(journal);
            if (work && (!newest || work->time > newest->time)) newest = std::move(work);
        }
        return newest;
    });
}

void Keeper::forget(const QString& path) {
    aside::wait({tr("Waiting for the disk")}, [&] {
        for (const fs::path& journal : {files::journalOf(fileOf(path)), elsewhere(fileOf(path))})
            files::removeOwn(journal, store::journalHead());
    });
}

namespace {

/// Journals in a folder that nobody writes, newest first.
std::vector<fs::path> orphansIn(const fs::path& folder) {
    std::vector<std::pair<fs::file_time_type, fs::path>> found;
    std::error_code error;
    for (fs::directory_iterator at(folder, error), end; !error && at != end; at.increment(error)) {
        const bool isOne =
            at->path().filename().string().starts_with("untitled-") && at->path().extension() == ".journal";
        if (isOne && !io::isBeingWritten(at->path()))
            found.emplace_back(at->last_write_time(error), at->path());
    }
    std::sort(found.rbegin(), found.rend());
    std::vector<fs::path> paths;
    paths.reserve(found.size());
    for (auto& [time, path] : found) paths.push_back(std::move(path));
    return paths;
}

}  // namespace

std::vector<fs::path> Keeper::orphans() {
    return doneAside({tr("Waiting for the disk")}, [] { return orphansIn(ownFolder()); });
}

/// Nobody is to look at the claim while something is done with it.
void Keeper::withClaim(const std::function<void()>& act) {
    look_.stop();
    aside::wait({tr("Waiting for the disk")}, act);
    look_.start(lookEvery);
}

void Keeper::release() {
    withClaim([this] { claim_.release(); });
}

Keeper::Taken Keeper::claim(const QString& path) {
    Taken taken = Taken::cannotTell;
    withClaim([&] { taken = claim_.take(files::lockOf(fileOf(path))); });
    return taken;
}

bool Keeper::takeOver(const QString& path) {
    constexpr int patience = 3000;  // ms
    aside::wait({tr("Waiting for the disk")}, [&] { io::Claim::demand(files::lockOf(fileOf(path))); });
    QElapsedTimer waited;
    waited.start();
    while (claim(path) == Taken::byAnother) {
        if (waited.elapsed() > patience) return false;
        QEventLoop loop;
        QTimer::singleShot(50, &loop, &QEventLoop::quit);
        loop.exec(QEventLoop::ExcludeUserInputEvents);
    }
    return true;
}

}  // namespace mellow::app
