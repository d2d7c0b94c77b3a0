// Names of ports to pick from, in a field that takes one: those that are there, those that the work names,
// and those inside the program.
#pragma once

#include <QLineEdit>

#include "app/workspace.h"

namespace mellow::app {

/// Every name that a port of the document may sensibly have now, without doubles.
QStringList portNames(const Document& document, const Live& live, bool input);

/// Lets a field offer them, as soon as it has the focus and while one types.
void offerPorts(QLineEdit& field, const Workspace& workspace, bool input);

}  // namespace mellow::app
