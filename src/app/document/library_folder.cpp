#include "app/document/library_folder.h"

#include <QDir>
#include <QFile>
#include <QStandardPaths>

#include "core/store/part_json.h"

namespace mellow::app {

std::filesystem::path libraryFolder() {
    const QString data = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation);
    return std::filesystem::path(data.toStdString()) / "library";
}

QString templatesFolder() {
    return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/templates");
}

library::Shelf wholeLibrary() {
    library::Shelf shelf = library::read(libraryFolder());
    const QDir shipped(QStringLiteral(":/library"));
    for (const QString& name : shipped.entryList(QDir::Files)) {
        QFile file(shipped.filePath(name));
        if (!file.open(QIODevice::ReadOnly)) continue;
        if (auto part = store::parsePart(file.readAll().toStdString()))
            library::add(shelf, {{}, std::move(*part)});
    }
    return shelf;
}

}  // namespace mellow::app
