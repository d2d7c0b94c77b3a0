// A window without hands that edits, saves and plays its document as fast as it can until it is killed. After
// each edit it says its number, and when that was. usage: scribbler DOCUMENT [record|both]
// With `record` it records instead, and says each message that was played: a bend, by its number. With `both`
// it also edits while it records: the title is the number of the message before it.
#include <QApplication>
#include <QSettings>
#include <QTemporaryDir>
#include <QTimer>
#include <chrono>
#include <cstdio>

#include "app/frame/main_window.h"
#include "app/ground/theme.h"
#include "app/live/end_signals.h"
#include "support/window.h"

using namespace mellow;

int main(int argc, char** argv) {
    if (argc < 2) return 2;
    app::EndSignals::hold();
    QApplication application(argc, argv);
    const app::EndSignals ends;
    const QTemporaryDir settings;
    QSettings::setDefaultFormat(QSettings::IniFormat);
    QSettings::setPath(QSettings::IniFormat, QSettings::UserScope, settings.path());
    QApplication::setOrganizationName(QStringLiteral("mellow-lever-scribbler"));
    app::applyTheme(application, app::duskTheme(), 1.0);
    app::MainWindow window(test::alone());
    window.show();
    if (!window.openFile(QString::fromLocal8Bit(argv[1]))) return 1;
    const auto say = [](int number) {
        const auto now = std::chrono::system_clock::now().time_since_epoch();
        std::printf(
            "%d %lld\n", number,
            static_cast<long long>(std::chrono::duration_cast<std::chrono::milliseconds>(now).count()));
        std::fflush(stdout);
    };
    if (argc > 2) {
        window.takes().recording.begin();
        const bool edits = QByteArray(argv[2]) == "both";
        int played = 0;
        QTimer play;
        QObject::connect(&play, &QTimer::timeout, &window, [&] {
            ++played;
            window.live().hands().send(midi::makeBend(0, played % 16384));
            constexpr int messagesAnEdit = 5;
            if (edits && played % messagesAnEdit == 0)
                window.document().edit(QStringLiteral("Scribble"),
                                       [played](Ensemble& e) { e.title = std::to_string(played); });
            say(played);
        });
        play.start(3);
        return QApplication::exec();
    }
    int number = QString::fromStdString(window.document().ensemble().title).toInt();
    QTimer scribble;
    QObject::connect(&scribble, &QTimer::timeout, &window, [&] {
        ++number;
        window.document().edit(QStringLiteral("Scribble"), [number](Ensemble& e) {
            e.title = std::to_string(number);
            if (!e.instruments.empty()) e.instruments[0].name = "Number " + std::to_string(number);
        });
        if (number % 160 == 0) window.files().save();
        if (number % 5 == 0) window.document().undoStack().undo(), window.document().undoStack().redo();
        say(number);
    });
    scribble.start(7);
    return QApplication::exec();
}
