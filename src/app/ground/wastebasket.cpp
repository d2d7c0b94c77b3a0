// Where the folder in which the wastebasket lies is missing, as for a user who has never used one, Qt makes
// no wastebasket, and puts the file into the folder in which the program was started. So that folder is made
// first.
#include "app/ground/wastebasket.h"

#include <QDir>
#include <QFile>
#include <QStandardPaths>

namespace mellow::app {

bool toWastebasket(const QString& path) {
    const QString data = QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation);
    return !data.isEmpty() && QDir().mkpath(data) && QFile::moveToTrash(path);
}

}  // namespace mellow::app
