// The states of the window that are drawn, each one that a person can reach.
#pragma once

#include <QSize>
#include <vector>

#include "app/frame/main_window.h"
#include "app/ground/theme.h"

namespace mellow::tools {

struct Shot {
    const char* name;
    const app::Theme& (*theme)();
    double scale;
    QSize size;
    bool playing;
    void (*prepare)(app::MainWindow&);
};

/// Those of docs/screenshots; and those that are drawn only where they are asked for by name.
const std::vector<Shot>& mainShots();
const std::vector<Shot>& otherShots();

/// Lets the window live for so many milliseconds.
void run(int milliseconds);

}  // namespace mellow::tools
