// Who a port is, as people call it: the controllers that play it, the instruments that it plays. Gear shows
// it, and so does whatever shows the ports of this program from outside.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/model/ensemble.h"
#include "io/ports/port_title.h"

namespace mellow::io {

/// The names, in the order of the document: two at most, and how many more. Empty where nobody has the port.
std::string portTitle(const Ensemble& ensemble, bool input, std::string_view port);

/// The same of every port that an ensemble wishes for, in the order in which Gear has them.
std::vector<PortTitle> portTitles(const Ensemble& ensemble);

}  // namespace mellow::io
