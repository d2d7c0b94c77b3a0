#include "app/keeper.h"

#include <unistd.h>

#include <QDir>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QFile>
#include <QFileInfo>
#include <QSettings>
#include <algorithm>

#include "app/words.h"
#include "core/files/files.h"
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

bool canWriteIn(const fs::path& folder) {
    return ::access(folder.c_str(), W_OK) == 0;
}

/// The journal of a document that has a file.
fs::path journalFor(const QString& path) {
    const fs::path file = fileOf(path);
    return canWriteIn(file.parent_path()) ? files::journalOf(file) : elsewhere(file);
}

}  // namespace

Keeper::Keeper(Document& document, QObject* parent) : QObject(parent), document_(document) {
    static int documents = 0;
    untitled_ = ownFolder() /
                ("untitled-" + std::to_string(::getpid()) + "-" + std::to_string(++documents) + ".journal");
    journal_.onProblem([this](const Problem& problem) {
        QMetaObject::invokeMethod(
            this, [this, sentence = toQt(problem.sentence())] { emit troubled(sentence); },
            Qt::QueuedConnection);
    });
    connect(&document_, &Document::changed, this, &Keeper::follow);
    connect(&document_, &Document::stateChanged, this, &Keeper::follow);
    connect(&look_, &QTimer::timeout, this, &Keeper::look);
    look_.start(lookEvery);
}

Keeper::~Keeper() {
    journal_.onProblem({});
}

/// Asked for at every edit, so the disk is asked once a document.
const fs::path& Keeper::journal() {
    if (document_.path().isEmpty()) return untitled_;
    if (document_.path() != journalOf_) {
        journalOf_ = document_.path();
        titled_ = journalFor(journalOf_);
    }
    return titled_;
}

void Keeper::follow() {
    if (document_.isReadOnly()) {
        journal_.leave();
    } else if (document_.isModified()) {
        journal_.keep(journal(), document_.shared());
    } else {
        journal_.drop();
    }
}

void Keeper::look() {
    if (claim_.isDemanded()) {
        journal_.flush();
        document_.setReadOnly(true);
        journal_.flush();
        claim_.release();
        emit takenOver();
    }
    const bool changed = document_.isChangedOnDisk();
    if (changed && !toldOfDisk_) emit changedOnDisk();
    toldOfDisk_ = changed;
}

std::optional<store::Journaled> Keeper::read(const fs::path& journal) {
    const auto text = files::readTextFile(journal);
    if (!text) return std::nullopt;
    auto read = store::readJournal(*text);
    return read ? std::optional(std::move(*read)) : std::nullopt;
}

std::optional<store::Journaled> Keeper::leftBehind(const QString& path) {
    const fs::path file = journalFor(path);
    return io::isBeingWritten(file) ? std::nullopt : read(file);
}

void Keeper::forget(const QString& path) {
    std::error_code error;
    fs::remove(journalFor(path), error);
}

std::vector<fs::path> Keeper::orphans() {
    std::vector<std::pair<fs::file_time_type, fs::path>> found;
    std::error_code error;
    for (fs::directory_iterator at(ownFolder(), error), end; !error && at != end; at.increment(error)) {
        const bool isOne =
            at->path().filename().string().starts_with("untitled-") && at->path().extension() == ".journal";
        if (isOne && !io::isBeingWritten(at->path()))
            found.emplace_back(at->last_write_time(error), at->path());
    }
    std::sort(found.rbegin(), found.rend());
    std::vector<fs::path> paths;
    for (auto& [time, path] : found) paths.push_back(std::move(path));
    return paths;
}

Keeper::Taken Keeper::claim(const QString& path) {
    return claim_.take(files::lockOf(fileOf(path)));
}

bool Keeper::takeOver(const QString& path) {
    constexpr int patience = 3000;  // ms
    io::Claim::demand(files::lockOf(fileOf(path)));
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
