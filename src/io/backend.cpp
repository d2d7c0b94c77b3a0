// Which ports an ensemble needs: those of its controllers and instruments, each once, without those inside
// the program and without OSC, which has a link of its own. One input is always there, so that a keyboard can
// be connected before anything names it.
#include "io/backend.h"

#include <algorithm>

#include "io/osc_link.h"

namespace mellow::io {

namespace {

void addName(std::vector<std::string>& names, const std::string& name) {
    const bool inside = name.empty() || name == anyPort || name == practiceKeysPort ||
                        name == practiceRackPort || isOscPort(name);
    if (!inside && std::find(names.begin(), names.end(), name) == names.end()) names.push_back(name);
}

}  // namespace

PortNames portsOf(const Ensemble& ensemble) {
    PortNames names;
    // One input is always there, so that a keyboard can be connected before anything names it.
    names.inputs.emplace_back("hands");
    for (const Controller& controller : ensemble.controllers) addName(names.inputs, controller.port);
    for (const Instrument& instrument : ensemble.instruments) {
        addName(names.inputs, instrument.input.port);
        addName(names.outputs, instrument.output.port);
    }
    return names;
}

}  // namespace mellow::io
