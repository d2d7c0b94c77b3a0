// The zones of a keyboard that bends and presses each note by itself: as it says, or by hand.
#pragma once

#include <QWidget>

#include "app/acts/workspace.h"
#include "app/pages/gear/port_activity.h"

namespace mellow::app {

/// What a port's keyboard told of its zones, as a text that is another when that is.
QString toldZones(const PortActivity& activity, const std::string& port);

/// Rows for a controller, by its place. activity: where what its keyboard told of its zones is found.
QWidget* makeZoneRows(const Workspace& workspace, const PortActivity& activity, std::size_t controller);

}  // namespace mellow::app
