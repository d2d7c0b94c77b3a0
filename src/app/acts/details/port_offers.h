// Names of ports to pick from, in a field that takes one: those that are there, those that the work names,
// and those inside the program.
#pragma once

#include <QLineEdit>

#include "app/acts/details/form.h"
#include "app/acts/workspace.h"

namespace mellow::app {

/// Every name that a port of the document may sensibly have now, without doubles.
QStringList portNames(const Document& document, const Live& live, bool input);

/// A port as the document may name it, and what it is to be connected to.
struct PortChoice {
    std::string name;
    std::optional<io::Wire> wire;  ///< none: nothing
};
/// What a name that was typed or chosen means: the full name of another program's port is a port of ours that
/// is connected to it, and any other is itself. Ours is called after the other program, or, where that has
/// several ports, after the port.
PortChoice portFor(const std::string& typed, const Live& live, const Ensemble& ensemble, bool input);

/// A row of a form for the name of a port, which offers what is there: as one types, by its arrow, by Down or
/// a double click. What is chosen of another program's is connected as soon as it is written.
QLineEdit* portField(Form& form, const Workspace& workspace, const QString& label, bool input,
                     const std::function<QString(const Ensemble&)>& read,
                     std::function<void(Ensemble&, const std::string&)> write);

}  // namespace mellow::app
