// Choosing a target by a few letters of its name or number; what is not there is made on the spot.
#pragma once

#include "app/acts/workspace.h"
#include "app/document/leading.h"

namespace mellow::app {

/// Opens the choice beside a widget.
void findTarget(Workspace& workspace, QWidget* at, TargetFor use);

}  // namespace mellow::app
