// What is damaged in a file is told, and what could be read of it plays.
#include "app/hands.h"

#include <QFile>
#include <QFileInfo>
#include <utility>

#include "app/aside.h"
#include "app/words.h"
#include "core/files/files.h"
#include "core/smf/read.h"

namespace mellow::app {

Hands::Hands(Live& live, NoticeBar& notice, QObject* parent) : QObject(parent), live_(live), notice_(notice) {
    connect(&live_, &Live::takeEnded, this, &Hands::changed);
}

bool Hands::load(const QString& path) {
    const auto file = doneUnlessLeft({tr("Reading %1").arg(QFileInfo(path).fileName())}, [path] {
        return files::readFile(QFile::encodeName(path).toStdString());
    });
    if (!file) return false;
    if (!*file) {
        notice_.say(toQt(file->problem().sentence()) + QStringLiteral("."));
        return false;
    }
    return read(**file, path);
}

void Hands::loadDemos(midi::Bytes file, const QString& name) {
    areDemos_ = read(file, name);
}

bool Hands::read(midi::Bytes file, const QString& path) {
    auto reading = smf::read(file);
    if (!reading) {
        notice_.say(path + QStringLiteral(", ") + toQt(reading.problem().sentence()) + QStringLiteral("."));
        return false;
    }
    if (const smf::Warning* loss = reading->firstLoss()) {
        notice_.say(tr("%1 is damaged at byte %2: %3. What could be read before that is loaded.")
                        .arg(path)
                        .arg(loss->offset)
                        .arg(toQt(loss->what)));
    }
    live_.stopTake();
    areDemos_ = false;
    take_ = std::make_shared<const Take>(takeFrom(reading->file, std::string(io::practiceKeysPort)));
    name_ = QFileInfo(path).completeBaseName();
    emit changed();
    return true;
}

void Hands::dropDemos() {
    if (!std::exchange(areDemos_, false)) return;
    live_.stopTake();
    take_.reset();
    name_.clear();
    emit changed();
}

void Hands::toggle() {
    if (playing()) {
        live_.stopTake();
    } else if (take_) {
        live_.startTake(take_);
    } else {
        return notice_.say(tr("No hands are loaded. Choose a MIDI file with File, Load hands."));
    }
    emit changed();
}

}  // namespace mellow::app
