// A few takes are kept in memory, so that undo and redo between versions cost no reading.
#include "app/takes/take_store.h"

#include <QCoreApplication>
#include <QFile>
#include <QFileInfo>
#include <QSettings>
#include <cerrno>
#include <csignal>

#include "app/words.h"
#include "core/files/files.h"
#include "core/files/sidecars.h"
#include "core/store/ensemble_json.h"

namespace mellow::app {

namespace fs = std::filesystem;

namespace {

fs::path fileOf(const QString& path) {
    return QFile::encodeName(QFileInfo(path).absoluteFilePath()).toStdString();
}

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
    const QString settings = QFileInfo(QSettings().fileName()).absolutePath();
    return fs::path(QFile::encodeName(settings).toStdString()) / "unsaved" / "takes";
}

bool TakeStore::bring(const std::string& file, midi::Bytes bytes) {
    std::error_code error;
    const fs::path path = waitingFolder() / file;
    if (fs::exists(path, error)) return true;
    fs::create_directories(waitingFolder(), error);
    return static_cast<bool>(files::writeFile(path, bytes));
}

fs::path TakeStore::folder() const {
    return document_.path().isEmpty() ? waitingFolder() : takesFolderOf(fileOf(document_.path()));
}

fs::path TakeStore::logPath() const {
    if (!document_.path().isEmpty()) return files::recordingOf(fileOf(document_.path()));
    std::string name = "untitled-";
    name += std::to_string(QCoreApplication::applicationPid());
    name += ".recording";
    return waitingFolder().parent_path() / name;
}

std::vector<fs::path> TakeStore::logsLeftBehind() const {
    std::vector<fs::path> found;
    std::error_code error;
    if (!document_.path().isEmpty()) {
        if (fs::exists(logPath(), error)) found.push_back(logPath());
        return found;
    }
    const fs::path folder = waitingFolder().parent_path();
    for (fs::directory_iterator at(folder, error), end; !error && at != end; at.increment(error)) {
        const QString name = QFile::decodeName(QByteArray::fromStdString(at->path().filename().string()));
        if (!name.startsWith(QLatin1String("untitled-")) || !name.endsWith(QLatin1String(".recording")))
            continue;
        const auto process =
            static_cast<pid_t>(name.section(QLatin1Char('-'), 1).section(QLatin1Char('.'), 0, 0).toInt());
        const bool isGone = process > 0 && ::kill(process, 0) != 0 && errno == ESRCH;
        if (isGone) found.push_back(at->path());
    }
    return found;
}

Result<std::shared_ptr<const Take>> TakeStore::load(const KeptTake& kept) {
    constexpr std::size_t mostLoaded = 24;
    const std::string key = keyOf(kept);
    if (const auto found = loaded_.find(key); found != loaded_.end()) return found->second.take;
    auto bytes = readTakeBytes(folder(), kept);
    if (!bytes) return bytes.problem();
    auto reading = readTake(*bytes, kept);
    const fs::path path = *takePath(folder(), kept);
    if (!reading) {
        Problem problem = reading.problem();
        problem.where = path.string() + (problem.where.empty() ? "" : ", ") + problem.where;
        return problem;
    }
    Loaded loaded;
    for (const Problem& doubt : mellow::doubtsAbout(kept, path, *bytes, reading->warnings)) {
        if (!loaded.doubts.isEmpty()) loaded.doubts += QStringLiteral(". ");
        loaded.doubts += toQt(doubt.sentence());
    }
    loaded.take = std::make_shared<const Take>(std::move(reading->take));
    if (loaded_.size() >= mostLoaded) loaded_.clear();
    loaded_[key] = loaded;
    return loaded.take;
}

QString TakeStore::doubtsAbout(const KeptTake& kept) const {
    const auto found = loaded_.find(keyOf(kept));
    return found == loaded_.end() ? QString() : found->second.doubts;
}

Result<KeptTake> TakeStore::keep(const KeptTake& kept, Take take) {
    KeptTake plain = kept;
    plain.ports.clear();
    auto stored = storeTake(folder(), std::move(plain), take);
    if (stored) loaded_[keyOf(*stored)] = {std::make_shared<const Take>(std::move(take)), {}};
    return stored;
}

Outcome TakeStore::carryTo(const QString& path) {
    const fs::path from = folder();
    const fs::path to = takesFolderOf(fileOf(path));
    // Where there is no folder nothing can be saved, which saving says.
    std::error_code missing;
    if (from == to || !fs::exists(to.parent_path(), missing)) return Done{};
    std::set<std::string> carried;
    Outcome outcome = Done{};
    document_.forEachState([&](const Ensemble& ensemble) {
        for (const KeptTake& kept : ensemble.takes) {
            const auto source = takePath(from, kept);
            std::error_code error;
            if (!outcome || !source || !fs::exists(*source, error) || !carried.insert(kept.file).second)
                continue;
            outcome = carryTake(from, to, kept);
        }
    });
    return outcome;
}

void TakeStore::nameAll(std::set<std::string>& names) const {
    document_.forEachState([&names](const Ensemble& ensemble) { nameTakes(ensemble, names); });
    for (const files::Version& version : files::versions(fileOf(document_.path()))) {
        const auto text = files::readTextFile(version.path);
        const auto ensemble = text ? store::parseEnsemble(*text) : Result<Ensemble>(text.problem());
        if (ensemble) nameTakes(*ensemble, names);
    }
}

void TakeStore::clearOut() {
    if (document_.path().isEmpty()) return;
    std::error_code error;
    if (!fs::exists(folder(), error)) return;
    std::set<std::string> names;
    nameAll(names);
    for (const fs::path& path : unnamedTakes(folder(), names))
        QFile::moveToTrash(QFile::decodeName(QByteArray::fromStdString(path.string())));
}

}  // namespace mellow::app
