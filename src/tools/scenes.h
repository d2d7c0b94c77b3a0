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

// What scenes of all pages do.

/// Lets the window live for so many milliseconds.
void run(int milliseconds);
/// Chooses a menu's entry by its words.
void act(app::MainWindow& window, const QString& text);
/// Selects the chain that every tour of the demo begins with.
void selectSwell(app::MainWindow& window);
/// Moves a control of the gesture tile.
void moveTile(app::MainWindow& window);

}  // namespace mellow::tools
