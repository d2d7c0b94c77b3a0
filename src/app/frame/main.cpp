// mellow-lever: the window.
#include <QApplication>
#include <QElapsedTimer>
#include <QFileInfo>
#include <QIcon>
#include <QScreen>
#include <QSettings>
#include <algorithm>
#include <cstdio>
#include <memory>
#include <vector>

#include "app/frame/application.h"
#include "app/frame/arrivals.h"
#include "app/frame/main_window.h"
#include "app/frame/managed.h"
#include "app/frame/only_program.h"
#include "app/frame/wishes.h"
#include "app/ground/theme.h"
#include "app/live/end_signals.h"
#include "version/version.h"

namespace {

using namespace mellow::app;

void applyChosenTheme(QApplication& application, const QSettings& settings) {
    const bool linen = settings.value(QStringLiteral("theme/name")).toString() == QLatin1String("Linen");
    applyTheme(application, linen ? linenTheme() : duskTheme(),
               settings.value(QStringLiteral("theme/scale"), 1.0).toDouble());
}

Request requestOf(const Wishes& wishes) {
    Request request;
    for (const QString& file : wishes.files) request.paths << QFileInfo(file).absoluteFilePath();
    request.demo = wishes.demo && request.paths.isEmpty();
    request.begin = wishes.begin && !request.demo && request.paths.isEmpty();
    request.token = qEnvironmentVariable("XDG_ACTIVATION_TOKEN");
    return request;
}

/// What the window begins with. What was never saved comes back where nothing else is asked for.
void open(MainWindow& window, Arrivals& arrivals, const Wishes& wishes) {
    const Request request = requestOf(wishes);
    if (!request.demo) window.newEnsemble();
    if (!request.demo && request.paths.isEmpty()) window.files().bringBack();
    if (request.demo) window.openDemo();
    arrivals.take({request.paths, false, false, {}});
    if (!wishes.hands.isEmpty()) window.openHands(wishes.hands);
}

/// By which PipeWire's graph shows the practice rack's sound, and what JACK's library makes there.
void introduceToPipeWire() {
    if (!qEnvironmentVariableIsSet("PIPEWIRE_PROPS"))
        qputenv("PIPEWIRE_PROPS",
                "{ application.name = \"Mellow Lever\" application.icon-name = mellow-lever }");
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
    introduceToPipeWire();
    EndSignals::hold();
    const auto made = makeApplication(argc, argv);
    Application& application = *made;
    const EndSignals ends;
    QApplication::setApplicationName(QStringLiteral("Mellow Lever"));
    QApplication::setOrganizationName(QStringLiteral("mellow-lever"));
    QApplication::setApplicationVersion(QString::fromLatin1(mellow::versionText()));
    QGuiApplication::setDesktopFileName(QStringLiteral("mellow-lever"));
    QApplication::setWindowIcon(
        QIcon::fromTheme(QStringLiteral("mellow-lever"), QIcon(QStringLiteral(":/icons/mellow-lever.svg"))));
    const Wishes wishes = wishesOf(QCoreApplication::arguments());
    const QSettings settings;

    QString trouble;
    std::unique_ptr<Managed> managed = Managed::begin(trouble);
    OnlyProgram only(OnlyProgram::meetingPlace());
    if (managed == nullptr && wishes.canBeHandedOver() && only.handOver(requestOf(wishes))) return 0;

    applyChosenTheme(application, settings);
    Live::Options options;
    options.soundCard = wishes.sound;
    if (managed != nullptr) options.name = managed->clientId();
    if (!wishes.soundfont.isEmpty()) options.soundfont = wishes.soundfont.toStdString();
    MainWindow window(options);
    if (!settings.contains(QStringLiteral("window/geometry")))
        window.resize(QSize(1280, 800).boundedTo(window.screen()->availableGeometry().size()));
    QObject::connect(&application, &Application::gaveUp, &window.live(), &Live::troubled);
    QObject::connect(&window, &MainWindow::painted, &window, [&] {
        if (wishes.report)
            std::printf("first frame after %lld ms\n", static_cast<long long>(sinceStart.elapsed()));
        std::fflush(stdout);
        if (wishes.play) window.togglePlay();
    });
    Arrivals arrivals(window);
    if (managed != nullptr) {
        window.newEnsemble();
        window.show();
        managed->lead(window);
        const int result = QApplication::exec();
        managed.reset();
        return result;
    }
    if (!wishes.another) only.beTheOne();
    QObject::connect(&only, &OnlyProgram::asked, &arrivals, &Arrivals::take);
    open(window, arrivals, wishes);
    if (!trouble.isEmpty()) window.workspace().tell(trouble + QLatin1Char('.'));
    window.show();
    return QApplication::exec();
}
