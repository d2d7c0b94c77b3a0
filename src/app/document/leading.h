// Leading a chain to a target, as an edit of the document.
#pragma once

#include <string>

#include "app/document/address.h"

namespace mellow::app {

enum class TargetFor {
    anotherBranch,   ///< the selected chain leads to one more target
    selectedBranch,  ///< the selected branch leads there instead
    newChain,        ///< the selected instrument gets a chain to it
};

/// Leads what `use` says to a target, as one edit, and selects it. target: as a branch of that owner names
/// it.
void leadTo(Ensemble& ensemble, Selected& selected, TargetFor use, const std::string& target);

}  // namespace mellow::app
