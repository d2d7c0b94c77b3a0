#include "app/takes/midi_file.h"

#include <QCoreApplication>
#include <QFile>
#include <QFileInfo>

#include "app/ground/aside.h"
#include "app/ground/words.h"
#include "core/files/files.h"
#include "core/smf/read.h"

namespace mellow::app {

namespace {

QString tr(const char* text) {
    return QCoreApplication::translate("MidiFile", text);
}

}  // namespace

std::optional<smf::File> readMidiFile(const QString& path, const std::function<void(const QString&)>& tell) {
    auto read =
        doneUnlessLeft({tr("Reading %1").arg(QFileInfo(path).fileName())}, [path]() -> Result<smf::Reading> {
            const std::string name = QFile::encodeName(path).toStdString();
            const auto bytes = files::readFile(name);
            if (!bytes) return bytes.problem();
            auto reading = smf::read(*bytes);
            if (!reading) return files::inFile(name, reading.problem());
            return reading;
        });
    if (!read) return std::nullopt;
    if (!*read) {
        tell(toQt(read->problem().sentence()) + QLatin1Char('.'));
        return std::nullopt;
    }
    if (const smf::Warning* loss = (*read)->firstLoss()) {
        tell(tr("%1 is damaged at byte %2: %3. What could be read before that is imported.")
                 .arg(path)
                 .arg(loss->offset)
                 .arg(toQt(loss->what)));
    }
    return std::move((*read)->file);
}

}  // namespace mellow::app
