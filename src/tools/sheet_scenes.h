// The states of the Sheet page that are drawn, and of what compares and cleans up.
#pragma once

#include <span>

#include "tools/scenes.h"

namespace mellow::tools {

/// The page with rows chosen, for docs/screenshots.
void sheetWithRows(app::MainWindow& window);
/// Those that are drawn only where they are asked for by name.
std::span<const Shot> sheetShots();

}  // namespace mellow::tools
