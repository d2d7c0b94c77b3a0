// What the command line of the window asks for. Its words are said here once: the program reads them, and
// man page and completion are made from them.
#pragma once

#include <QCommandLineOption>
#include <QList>
#include <QStringList>

namespace mellow::app {

struct Wishes {
    bool demo = false;
    bool begin = false;    ///< an empty ensemble
    bool another = false;  ///< a window of its own, whatever is open
    bool play = false;
    bool sound = true;
    bool report = false;
    QString hands;
    QString soundfont;
    QStringList files;

    /// Whether a program that runs already can do all that is asked.
    [[nodiscard]] bool canBeHandedOver() const {
        return !another && !play && sound && !report && hands.isEmpty() && soundfont.isEmpty();
    }
};

/// Every option, in the order of the help.
QList<QCommandLineOption> windowOptions();
QString windowSummary();
/// Name and description of what may follow the options.
std::pair<QString, QString> windowFiles();

/// Reads the words of the command line; ends the program where they ask for help, the version, or nonsense.
/// The application must be there.
Wishes wishesOf(const QStringList& words);

}  // namespace mellow::app
