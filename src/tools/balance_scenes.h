// The states of the Balance page that are drawn.
#pragma once

#include <span>

#include "tools/scenes.h"

namespace mellow::tools {

/// The page with what was worked out, for docs/screenshots.
void balanceLevelled(app::MainWindow& window);
/// Those that are drawn only where they are asked for by name.
std::span<const Shot> balanceShots();

}  // namespace mellow::tools
