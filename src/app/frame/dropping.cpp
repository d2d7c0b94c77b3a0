#include "app/frame/dropping.h"

#include <QFile>
#include <QFileInfo>
#include <QUrl>
#include <algorithm>

#include "app/acts/reuse/reuse.h"
#include "app/ground/aside.h"
#include "app/ground/words.h"
#include "app/pages/page.h"
#include "core/files/files.h"
#include "core/library/shelf.h"
#include "core/store/part_json.h"

namespace mellow::app {

Dropping::Dropping(Workspace& workspace, Files& files, QStackedWidget& pages, QObject* parent)
    : QObject(parent), workspace_(workspace), files_(files), pages_(pages) {}

bool Dropping::canTake(const QMimeData& data) {
    return data.hasUrls() || data.text().contains(toQt(store::partFormat));
}

void Dropping::take(const QMimeData& data) {
    for (const QUrl& url : data.urls()) {
        const QString path = url.toLocalFile();
        if (path.isEmpty()) continue;
        if (!path.endsWith(toQt(library::ending), Qt::CaseInsensitive)) {
            takeFile(path);
        } else if (const auto part = readPart(path)) {
            workspace_.reuse.put(*part);
        }
    }
    if (!data.hasUrls() && data.hasText()) {
        if (const auto part = store::parsePart(data.text().toStdString())) workspace_.reuse.put(*part);
    }
}

/// The page that has read such a file is shown; the one that is shown is asked first.
bool Dropping::takenByPage(const QString& path) {
    const int shown = std::max(0, pages_.currentIndex());
    for (int step = 0; step < pages_.count(); ++step) {
        const int page = (shown + step) % pages_.count();
        const Page::Taken taken = static_cast<Page*>(pages_.widget(page))->takeFile(path);
        if (taken == Page::Taken::notOurs) continue;
        if (taken == Page::Taken::taken) emit pageAsked(page);
        return true;
    }
    return false;
}

void Dropping::takeFile(const QString& path) {
    if (!takenByPage(path)) (void)files_.open(path);
}

std::optional<mellow::Part> Dropping::readPart(const QString& path) {
    auto part =
        doneUnlessLeft({tr("Reading %1").arg(QFileInfo(path).fileName())}, [path]() -> Result<mellow::Part> {
            const std::string file = QFile::encodeName(path).toStdString();
            const auto text = files::readTextFile(file);
            if (!text) return text.problem();
            auto parsed = store::parsePart(*text);
            if (!parsed) return files::inFile(file, parsed.problem());
            return parsed;
        });
    if (!part) return std::nullopt;
    if (*part) return std::move(**part);
    workspace_.tell(toQt(part->problem().sentence()));
    return std::nullopt;
}

}  // namespace mellow::app
