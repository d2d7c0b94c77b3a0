// mellow-lever: the window.
#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QScreen>
#include <QSettings>
#include <algorithm>
#include <cstdio>
#include <memory>
#include <vector>

#include "app/frame/application.h"
#include "app/frame/main_window.h"
#include "app/ground/theme.h"
#include "app/live/end_signals.h"

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

/// Where the desktop's scale leaves less than the smallest window needs, it is shown smaller by as much.
/// Known only once there is an application, and taken up by the next.
std::unique_ptr<Application> makeApplication(int& argc, char** argv) {
    constexpr QSizeF least(1100, 700);
    // An application takes its own words away and keeps the others for as long as it lives.
    static std::vector<char*> words(argv, argv + argc + 1);
    static int count = argc;
    auto application = std::make_unique<Application>(count, words.data());
    const QScreen* screen = QGuiApplication::primaryScreen();
    if (screen == nullptr || screen->devicePixelRatio() <= 1) return application;
    const QSizeF room = screen->availableGeometry().size();
    const double fits = std::min(room.width() / least.width(), room.height() / least.height());
    if (fits >= 1) return application;
    const double wished = qEnvironmentVariableIsSet("QT_SCALE_FACTOR")
                              ? qEnvironmentVariable("QT_SCALE_FACTOR").toDouble()
                              : 1.0;
    qputenv("QT_SCALE_FACTOR", QByteArray::number(wished * std::max(fits, 1 / screen->devicePixelRatio())));
    application.reset();
    return std::make_unique<Application>(argc, argv);
}

}  // namespace

int main(int argc, char** argv) {
    QElapsedTimer sinceStart;
    sinceStart.start();
    qputenv("JACK_NO_START_SERVER", "1");
    EndSignals::hold();
    const auto made = makeApplication(argc, argv);
    Application& application = *made;
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
    if (!settings.contains(QStringLiteral("window/geometry")))
        window.resize(QSize(1280, 800).boundedTo(window.screen()->availableGeometry().size()));
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
