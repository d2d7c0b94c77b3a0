// How a bench of the window begins: with settings of its own, the usual theme, and no server unless it asks
// for one.
#pragma once

#include <QApplication>
#include <QSettings>
#include <QTemporaryDir>

#include "app/frame/main_window.h"
#include "app/ground/theme.h"

namespace mellow::bench {

struct Beginning {
    QApplication application;
    QTemporaryDir folder;  ///< settings are in it; free for what else is to go afterwards

    Beginning(int& argc, char** argv) : application(argc, argv) {
        QSettings::setDefaultFormat(QSettings::IniFormat);
        QSettings::setPath(QSettings::IniFormat, QSettings::UserScope,
                           folder.filePath(QStringLiteral("settings")));
        QApplication::setOrganizationName(QStringLiteral("mellow-lever-bench"));
        app::applyTheme(application, app::duskTheme(), 1.0);
    }
};

/// For a window that makes no sound. jack: use the server that JACK_DEFAULT_SERVER names.
inline app::Live::Options quiet(bool jack = false) {
    app::Live::Options options;
    options.jack = jack;
    options.soundCard = false;
    return options;
}

}  // namespace mellow::bench
