// mellow-lever: the window.
#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QSettings>
#include <cstdio>

#include "app/main_window.h"
#include "app/theme/theme.h"

int main(int argc, char** argv) {
    using namespace mellow::app;
    QElapsedTimer sinceStart;
    sinceStart.start();
    qputenv("JACK_NO_START_SERVER", "1");
    QApplication application(argc, argv);
    QApplication::setApplicationName(QStringLiteral("Mellow Lever"));
    QApplication::setOrganizationName(QStringLiteral("mellow-lever"));
    QApplication::setApplicationVersion(QStringLiteral(MELLOW_VERSION));

    QCommandLineParser parser;
    parser.setApplicationDescription(
        QApplication::translate("main", "Turns what hands do into what instruments want."));
    parser.addHelpOption();
    parser.addVersionOption();
    const QCommandLineOption demo(QStringLiteral("demo"),
                                  QApplication::translate("main", "Open the demo ensemble."));
    const QCommandLineOption play(QStringLiteral("play"),
                                  QApplication::translate("main", "Play the loaded hands at once."));
    const QCommandLineOption hands(QStringLiteral("hands"),
                                   QApplication::translate("main", "Load hands from a MIDI file."),
                                   QStringLiteral("file"));
    const QCommandLineOption silent(QStringLiteral("no-sound"),
                                    QApplication::translate("main", "Do not look for a sound card."));
    const QCommandLineOption soundfont(QStringLiteral("soundfont"),
                                       QApplication::translate("main", "Soundfont of the practice rack."),
                                       QStringLiteral("file"));
    const QCommandLineOption report(QStringLiteral("report-start"),
                                    QApplication::translate("main", "Print how long the start took."));
    parser.addOptions({demo, play, hands, silent, soundfont, report});
    parser.addPositionalArgument(QStringLiteral("ensemble"),
                                 QApplication::translate("main", "A .lever document to open."),
                                 QStringLiteral("[ensemble]"));
    parser.process(application);

    const QSettings settings;
    const bool linen = settings.value(QStringLiteral("theme/name")).toString() == QLatin1String("Linen");
    applyTheme(application, linen ? linenTheme() : duskTheme(),
               settings.value(QStringLiteral("theme/scale"), 1.0).toDouble());

    Live::Options options;
    options.soundCard = !parser.isSet(silent);
    if (parser.isSet(soundfont)) options.soundfont = parser.value(soundfont).toStdString();
    MainWindow window(options);
    if (!settings.contains(QStringLiteral("window/geometry"))) window.resize(1280, 800);
    const QStringList files = parser.positionalArguments();
    if (!files.isEmpty()) {
        window.newEnsemble();
        window.openFile(files.first());
    } else if (parser.isSet(demo)) {
        window.openDemo();
    } else {
        window.newEnsemble();
    }
    if (parser.isSet(hands)) window.openHands(parser.value(hands));
    QObject::connect(&window, &MainWindow::painted, &window, [&] {
        if (parser.isSet(report))
            std::printf("first frame after %lld ms\n", static_cast<long long>(sinceStart.elapsed()));
        std::fflush(stdout);
        if (parser.isSet(play)) window.togglePlay();
    });
    window.show();
    return QApplication::exec();
}
