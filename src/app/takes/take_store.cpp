// A few takes are kept in memory, so that undo and redo between versions cost no reading.
#include "app/takes/take_store.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QFile>
#include <QFileInfo>
#include <QSettings>

#include "app/document/kept_beside.h"
#include "app/ground/aside.h"
#include "app/ground/words.h"
#include "core/files/files.h"
#include "core/files/own.h"
#include "core/files/sidecars.h"

namespace mellow::app {

namespace fs = std::filesystem;

namespace {

/// What a loaded take is known by: its file, and where its tracks lead.
std::string keyOf(const KeptTake& kept) {
    std::string key = kept.file;
    for (const auto& [track, port] : kept.ports) {
        key += '\n';
        key += track;
        key += '\t';
        key += port;
    }
    return key;
}

}  // namespace

TakeStore::TakeStore(Document& document, QObject* parent) : QObject(parent), document_(document) {
    connect(&document_, &Document::replaced, this, [this] { loaded_.clear(); });
}

fs::path TakeStore::waitingFolder() {
    return app::waitingFolder(takeKind);
}

bool TakeStore::bring(const std::string& file, midi::Bytes bytes) {
    std::error_code error;
    const fs::path path = waitingFolder() / file;
    if (fs::exists(path, error)) return true;
    fs::create_directories(waitingFolder(), error);
    return static_cast<bool>(files::writeFile(path, bytes));
}

fs::path TakeStore::folder() const {
    return folderNow(takeKind, document_.path());
}

namespace {

constexpr std::string_view logEnding = ".recording";

/// Where a document's logs begin: their folder, and what their names begin with.
fs::path logsOf(const QString& path) {
    return path.isEmpty() ? TakeStore::waitingFolder().parent_path() / "untitled"
                          : files::recordingsOf(filePathOf(path));
}

}  // namespace

fs::path TakeStore::newLogPath() const {
    fs::path path = logsOf(document_.path());
    path += "-" + std::to_string(QDateTime::currentMSecsSinceEpoch()) + "-" +
            std::to_string(QCoreApplication::applicationPid());
    path += logEnding;
    return path;
}

std::vector<fs::path> TakeStore::logsLeftBehind() const {
    const fs::path begins = logsOf(document_.path());
    return doneAside({tr("Waiting for the disk")}, [&begins] {
        std::vector<fs::path> found =
            files::listed(begins.parent_path(), begins.filename().string(), logEnding);
        std::erase_if(found,
                      [](const fs::path& path) { return files::strangerAt(path) || files::isLocked(path); });
        return found;
    });
}

Result<std::shared_ptr<const Take>> TakeStore::load(const KeptTake& kept) {
    constexpr std::size_t mostLoaded = 24;
    const std::string key = keyOf(kept);
    if (const auto found = loaded_.find(key); found != loaded_.end()) return found->second.take;
    bool late = false;
    const auto read = doneAside({tr("Reading %1").arg(nameToShow(nameOf(kept))), &late},
                                [folder = folder(), kept] { return TakeStore::read(folder, kept); });
    if (late) QMetaObject::invokeMethod(this, &TakeStore::loadedLate, Qt::QueuedConnection);
    if (!read) return read.problem();
    if (loaded_.size() >= mostLoaded) loaded_.clear();
    loaded_[key] = *read;
    return read->take;
}

Result<TakeStore::Loaded> TakeStore::read(const fs::path& folder, const KeptTake& kept) {
    auto bytes = readTakeBytes(folder, kept);
    if (!bytes) return bytes.problem();
    auto reading = readTake(*bytes, kept);
    const fs::path path = *takePath(folder, kept);
    if (!reading) return files::inFile(path, reading.problem());
    Loaded loaded;
    for (const Problem& doubt : mellow::doubtsAbout(kept, path, *bytes, reading->warnings)) {
        if (!loaded.doubts.isEmpty()) loaded.doubts += QStringLiteral(". ");
        loaded.doubts += toQt(doubt.sentence());
    }
    loaded.take = std::make_shared<const Take>(std::move(reading->take));
    return loaded;
}

QString TakeStore::doubtsAbout(const KeptTake& kept) const {
    const auto found = loaded_.find(keyOf(kept));
    return found == loaded_.end() ? QString() : found->second.doubts;
}

Result<KeptTake> TakeStore::keep(const KeptTake& kept, Take take) {
    KeptTake plain = kept;
    plain.ports.clear();
    const QString path = document_.path();
    auto stored = doneAside({tr("Keeping %1").arg(nameToShow(nameOf(kept)))}, [&, folder = folder()] {
        bool wrote = false;
        auto written = storeTake(folder, std::move(plain), take, &wrote);
        if (written && wrote && !path.isEmpty())
            noteWritten(takeKind, filePathOf(path), mellow::fileOf(*written));
        return written;
    });
    if (stored) loaded_[keyOf(*stored)] = {std::make_shared<const Take>(std::move(take)), {}};
    return stored;
}

Outcome TakeStore::carryTo(const QString& path) {
    const auto all =
        everyKept(document_, &Ensemble::takes, [](const KeptTake& kept) { return mellow::fileOf(kept); });
    return doneAside({tr("Keeping takes")}, [&all, from = folder(), document = filePathOf(path)] {
        return carryAll(takeKind, all, from, document);
    });
}

void TakeStore::clearOut() {
    if (document_.path().isEmpty()) return;
    std::set<std::string> names;
    document_.forEachState([&names](const Ensemble& ensemble) { nameTakes(ensemble, names); });
    aside::wait({tr("Clearing takes away")}, [&names, document = filePathOf(document_.path())] {
        clearUnnamed(takeKind, document, std::move(names), nameTakes);
    });
}

}  // namespace mellow::app
