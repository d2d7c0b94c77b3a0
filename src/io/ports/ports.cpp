// Which ports an ensemble wishes for. OSC has no port of its own in most documents: where something listens
// to an address and no controller brings it in, the usual port is opened.
#include "io/ports/ports.h"

#include <algorithm>
#include <unordered_set>

#include "core/model/resolve.h"
#include "io/ports/osc_link.h"

namespace mellow::io {

namespace {

class Wishes {
 public:
    explicit Wishes(std::vector<std::string>& names) : names_(names) {}
    void add(const std::string& name) {
        const bool inside = name.empty() || name == anyPort || name == practiceKeysPort;
        if (!inside && seen_.insert(name).second) names_.push_back(name);
    }

 private:
    std::vector<std::string>& names_;
    std::unordered_set<std::string> seen_;
};

bool hearsOsc(const Ensemble& ensemble) {
    const auto hears = [&ensemble](const Source& source) {
        // Only these two can; following a reference costs.
        return source.kind == SourceKind::osc ||
               (source.kind == SourceKind::control && resolved(ensemble, source).kind == SourceKind::osc);
    };
    const auto oneHears = [&hears](const std::vector<Chain>& chains) {
        return std::any_of(chains.begin(), chains.end(), [&hears](const Chain& chain) {
            bool any = false;
            forEachSource(chain, [&](const Source& source) { any = any || hears(source); });
            return any;
        });
    };
    return oneHears(ensemble.sharedChains) ||
           std::any_of(ensemble.instruments.begin(), ensemble.instruments.end(),
                       [&oneHears](const Instrument& instrument) { return oneHears(instrument.chains); });
}

}  // namespace

PortNames wishesOf(const Ensemble& ensemble) {
    return wishesOf(ensemble, hearsOsc(ensemble));
}

PortNames wishesOf(const Ensemble& ensemble, bool hears) {
    PortNames names;
    Wishes inputs(names.inputs);
    Wishes outputs(names.outputs);
    inputs.add("hands");
    for (const Controller& controller : ensemble.controllers) {
        inputs.add(controller.port);
        outputs.add(controller.feedback);
    }
    for (const Instrument& instrument : ensemble.instruments) {
        inputs.add(instrument.input.port);
        outputs.add(instrument.output.port);
    }
    if (std::none_of(names.inputs.begin(), names.inputs.end(), isOscPort) && hears)
        names.inputs.emplace_back(usualOscPort);
    return names;
}

}  // namespace mellow::io
