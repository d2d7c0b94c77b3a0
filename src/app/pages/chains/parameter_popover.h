// The parameter of the selected target, one click from its rail.
#pragma once

#include "app/acts/workspace.h"
#include "app/pages/chains/rail.h"

namespace mellow::app {

/// Name, message, range, unit, law and rest of the parameter to which the selected branch leads, in a panel
/// at its rail; where it is none that can be changed here, that is said.
void openParameter(Workspace& workspace, const Rail& rail);

}  // namespace mellow::app
