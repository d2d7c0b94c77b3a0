// Choosing a target by a few letters of its name or number; what is not there is made on the spot.
#pragma once

#include "app/workspace.h"

namespace mellow::app {

enum class TargetFor {
    anotherBranch,   ///< the selected chain leads to one more target
    selectedBranch,  ///< the selected branch leads there instead
    newChain,        ///< the selected instrument gets a chain to it
};

/// Opens the choice beside a widget.
void findTarget(Workspace& workspace, QWidget* at, TargetFor use);

/// Leads what `use` says to a target, as one edit, and selects it. target: as a branch of that owner names
/// it.
void leadTo(Ensemble& ensemble, Selected& selected, TargetFor use, const std::string& target);

}  // namespace mellow::app
