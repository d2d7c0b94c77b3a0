// Finding a row of the sheet from any page, by typing what it says; what is taken is shown.
#pragma once

#include "app/acts/workspace.h"

namespace mellow::app {

/// Opens the choice beside a widget.
void findAssignment(Workspace& workspace, QWidget* at);

}  // namespace mellow::app
