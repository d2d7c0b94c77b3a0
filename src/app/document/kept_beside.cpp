#include "app/document/kept_beside.h"

#include <QFile>
#include <QFileInfo>
#include <QSettings>

#include "app/ground/wastebasket.h"
#include "core/files/files.h"
#include "core/files/sidecars.h"
#include "core/store/ensemble_json.h"

namespace mellow::app {

namespace fs = std::filesystem;

fs::path filePathOf(const QString& document) {
    return QFile::encodeName(QFileInfo(document).absoluteFilePath()).toStdString();
}

fs::path waitingFolder(const files::KeptKind& kind) {
    const QString settings = QFileInfo(QSettings().fileName()).absolutePath();
    return fs::path(QFile::encodeName(settings).toStdString()) / "unsaved" /
           std::string(kind.ending.substr(1));
}

fs::path folderNow(const files::KeptKind& kind, const QString& path) {
    return path.isEmpty() ? waitingFolder(kind) : files::keptFolderOf(kind, filePathOf(path));
}

Outcome carryAll(const files::KeptKind& kind, const std::vector<files::KeptFile>& kept, const fs::path& from,
                 const fs::path& document) {
    const fs::path to = files::keptFolderOf(kind, document);
    // Where there is no folder nothing can be saved, which saving says.
    std::error_code missing;
    if (from == to || !fs::exists(to.parent_path(), missing)) return Done{};
    files::KeptList list = files::KeptList::of(kind, document);
    Outcome outcome = Done{};
    bool some = false;
    for (const files::KeptFile& each : kept) {
        const auto source = files::keptPath(kind, from, each);
        std::error_code error;
        if (!outcome || !source || !fs::exists(*source, error)) continue;
        bool wrote = false;
        outcome = files::carryKept(kind, from, to, each, &wrote);
        if (wrote) list.add(each);
        some = true;
    }
    if (outcome && some) (void)list.write(kind, document);
    return outcome;
}

void noteWritten(const files::KeptKind& kind, const fs::path& document, const files::KeptFile& kept) {
    files::KeptList list = files::KeptList::of(kind, document);
    list.add(kept);
    (void)list.write(kind, document);
}

void clearUnnamed(const files::KeptKind& kind, const fs::path& document, std::set<std::string> names,
                  const std::function<void(const Ensemble&, std::set<std::string>&)>& add) {
    files::KeptList list = files::KeptList::of(kind, document);
    if (list.sums().empty()) return;
    for (const files::Version& version : files::versions(document)) {
        const auto text = files::readTextFile(version.path);
        const auto ensemble = text ? store::parseEnsemble(*text) : Result<Ensemble>(text.problem());
        if (ensemble) add(*ensemble, names);
    }
    bool went = false;
    for (const fs::path& path : files::unnamedKept(kind, document, list, names)) {
        if (!toWastebasket(QFile::decodeName(QByteArray::fromStdString(path.string())))) continue;
        list.remove(path.filename().string());
        went = true;
    }
    if (went) (void)list.write(kind, document);
}

}  // namespace mellow::app
