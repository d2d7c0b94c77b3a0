// mellow-lever-shots: pictures of the real window with the demo ensemble, for docs/screenshots.
//
// Each picture is a state that a person can reach (scenes.h); the hands play until enough has moved, and the
// window is grabbed as it then is.
#include <QApplication>
#include <QDir>
#include <QPainter>
#include <QSettings>
#include <QTemporaryDir>
#include <cstdio>

#include "tools/scenes.h"

namespace {

using namespace mellow::app;
using namespace mellow::tools;

/// The window with what has opened over it.
QPixmap pictureOf(MainWindow& window) {
    QPixmap picture = window.grab();
    QPainter painter(&picture);
    for (QWidget* over : QApplication::topLevelWidgets()) {
        if (over == &window || !over->isVisible() || over->window() != over) continue;
        painter.drawPixmap(window.mapFromGlobal(over->mapToGlobal(QPoint(0, 0))), over->grab());
    }
    return picture;
}

/// False when the picture cannot be written.
bool take(QApplication& application, const Shot& shot, const QDir& folder) {
    QSettings().clear();
    applyTheme(application, shot.theme(), shot.scale);
    Live::Options options;
    options.jack = false;
    options.soundCard = false;
    MainWindow window(options);
    window.files().onAsk([](QWidget*) { return MainWindow::Answer::discard; });
    window.resize(shot.size);
    window.openDemo();
    window.show();
    run(300);
    shot.prepare(window);
    if (shot.playing) {
        window.togglePlay();
        run(5200);
    } else {
        run(300);
    }
    const QString file = folder.filePath(QString::fromLatin1(shot.name) + QStringLiteral(".png"));
    const bool written = pictureOf(window).save(file);
    if (shot.playing) window.togglePlay();
    window.close();
    if (written) {
        std::printf("%s\n", qPrintable(file));
    } else {
        std::fprintf(stderr, "cannot write %s\n", qPrintable(file));
    }
    return written;
}

}  // namespace

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    const QTemporaryDir settings;
    QSettings::setDefaultFormat(QSettings::IniFormat);
    QSettings::setPath(QSettings::IniFormat, QSettings::UserScope, settings.path());
    QApplication::setOrganizationName(QStringLiteral("mellow-lever-shots"));
    if (argc < 2) {
        std::fprintf(stderr, "usage: mellow-lever-shots FOLDER [NAME...]\n");
        return 2;
    }
    const QDir folder(QString::fromLocal8Bit(argv[1]));
    (void)folder.mkpath(QStringLiteral("."));
    const QStringList wanted = QApplication::arguments().mid(2);
    bool all = true;
    for (const Shot& shot : mainShots()) {
        if (wanted.isEmpty() || wanted.contains(QLatin1String(shot.name)))
            all = take(application, shot, folder) && all;
    }
    for (const Shot& shot : otherShots()) {
        if (wanted.contains(QLatin1String(shot.name))) all = take(application, shot, folder) && all;
    }
    return all ? 0 : 1;
}
