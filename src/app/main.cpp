// mellow-lever: the window.
#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QSettings>
#include <cstdio>

#include "app/application.h"
#include "app/end_signals.h"
#include "app/main_window.h"
#include "app/theme/theme.h"

namespace {

using namespace mellow::app;

/// What the command line asks for.
struct Wishes {
    bool demo = false;
    bool play = false;
    bool sound = true;
    bool report = false;
    QString hands;
    QString soundfont;
    QStringList ensembles;
};

Wishes wishesOf(const QApplication& application) {
    QCommandLineParser parser;
    parser.setApplicationDescription(
        QApplication::translate("main", "Turns what hands do into what instruments want."));
    parser.addHelpOption();
    parser.addVersionOption();
    const QCommandLineOption demo(QStringLiteral("demo"),
                                  QApplication::translate("main", "Open the demo ensemble."));
    const QCommandLineOption play(QStringLiteral("play"),
                                  QApplication::translate("main", "Play the take at once."));
    const QCommandLineOption hands(QStringLiteral("hands"),
                                   QApplication::translate("main", "Take a MIDI file in as a take."),
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
    return {parser.isSet(demo),  parser.isSet(play),      !parser.isSet(silent),       parser.isSet(report),
            parser.value(hands), parser.value(soundfont), parser.positionalArguments()};
}

void applyChosenTheme(QApplication& application, const QSettings& settings) {
    const bool linen = settings.value(QStringLiteral("theme/name")).toString() == QLatin1String("Linen");
    applyTheme(application, linen ? linenTheme() : duskTheme(),
               settings.value(QStringLiteral("theme/scale"), 1.0).toDouble());
}

void open(MainWindow& window, const Wishes& wishes) {
    if (wishes.ensembles.isEmpty() && wishes.demo) {
        window.openDemo();
    } else {
        window.newEnsemble();
        if (wishes.ensembles.isEmpty()) {
            window.files().bringBack();
        } else {
            window.openFile(wishes.ensembles.first());
        }
    }
    if (!wishes.hands.isEmpty()) window.openHands(wishes.hands);
}

}  // namespace

int main(int argc, char** argv) {
    QElapsedTimer sinceStart;
    sinceStart.start();
    qputenv("JACK_NO_START_SERVER", "1");
    EndSignals::hold();
    Application application(argc, argv);
    const EndSignals ends;
    QApplication::setApplicationName(QStringLiteral("Mellow Lever"));
    QApplication::setOrganizationName(QStringLiteral("mellow-lever"));
    QApplication::setApplicationVersion(QStringLiteral(MELLOW_VERSION));
    const Wishes wishes = wishesOf(application);
    const QSettings settings;
    applyChosenTheme(application, settings);

    Live::Options options;
    options.soundCard = wishes.sound;
    if (!wishes.soundfont.isEmpty()) options.soundfont = wishes.soundfont.toStdString();
    MainWindow window(options);
    if (!settings.contains(QStringLiteral("window/geometry"))) window.resize(1280, 800);
    QObject::connect(&application, &Application::gaveUp, &window.live(), &Live::troubled);
    open(window, wishes);
    QObject::connect(&window, &MainWindow::painted, &window, [&] {
        if (wishes.report)
            std::printf("first frame after %lld ms\n", static_cast<long long>(sinceStart.elapsed()));
        std::fflush(stdout);
        if (wishes.play) window.togglePlay();
    });
    window.show();
    return QApplication::exec();
}
