// Taking: the parts proper are copies; what they refer to is looked up once and copied beside them.
#include <algorithm>

#include "core/model/resolve.h"
#include "core/model/visit.h"
#include "core/reuse/parts.h"

namespace mellow::reuse {

namespace {

const Instrument* ownerOf(const Ensemble& ensemble, const std::string& owner) {
    return owner == sharedOwner ? nullptr : findById(std::as_const(ensemble.instruments), owner);
}

const std::vector<Chain>* chainsOf(const Ensemble& ensemble, const std::string& owner) {
    if (owner == sharedOwner) return &ensemble.sharedChains;
    const Instrument* instrument = ownerOf(ensemble, owner);
    return instrument == nullptr ? nullptr : &instrument->chains;
}

/// Puts a thing into a list that has none of its id.
template<class Thing>
Thing& once(std::vector<Thing>& list, const Thing& thing) {
    if (Thing* there = findById(list, thing.id)) return *there;
    return list.emplace_back(thing);
}

class Surroundings {
 public:
    Surroundings(const Ensemble& ensemble, const std::string& owner, Part& part)
        : ensemble_(ensemble), instrument_(ownerOf(ensemble, owner)), part_(part) {}

    void of(const Chain& chain) {
        Chain visited = chain;
        forEachWritten(visited, [this](const Source& source) { of(source); });
        for (const Branch& branch : chain.branches) of(branch);
    }
    void of(const Branch& branch) {
        const Target target = targetOf(ensemble_, instrument_, branch.target);
        if (target.tieLine != nullptr) once(part_.tieLines, *target.tieLine);
        if (target.parameter != nullptr) {
            Parameter parameter = *target.parameter;
            parameter.id = branch.target;
            once(part_.parameters, parameter);
            const bool chooses = parameter.message.kind == MessageKind::articulation;
            if (chooses && instrument_ != nullptr) part_.articulations = instrument_->articulations;
            nameArticulations(part_.parameters, part_.articulations);
        }
        of(branch.steps);
    }
    void of(const std::vector<Step>& steps) {
        for (const Step& step : steps) {
            if (step.with) of(*step.with);
        }
    }
    void of(const Source& source) {
        if (source.kind == SourceKind::tieLine) {
            if (const TieLine* line = findById(ensemble_.tieLines, source.tieLine))
                once(part_.tieLines, *line);
        }
        const Controller* controller = findById(ensemble_.controllers, source.controller);
        if (controller == nullptr) return;
        Controller bare = *controller;
        bare.controls.clear();
        Controller& used = once(part_.usedControllers, bare);
        if (const auto* control = findById(controller->controls, source.control))
            once(used.controls, *control);
    }

 private:
    const Ensemble& ensemble_;
    const Instrument* instrument_;
    Part& part_;
};

}  // namespace

std::vector<Parameter> targetsOf(const Ensemble& ensemble, const std::string& owner) {
    if (const Instrument* instrument = ownerOf(ensemble, owner)) return instrument->parameters;
    std::vector<Parameter> targets;
    if (owner != sharedOwner) return targets;
    for (const Instrument& instrument : ensemble.instruments) {
        for (Parameter parameter : instrument.parameters) {
            parameter.id = instrument.id + "/" + parameter.id;
            targets.push_back(std::move(parameter));
        }
    }
    return targets;
}

Part takeInstrument(const Ensemble& ensemble, const std::string& id) {
    Part part;
    const Instrument* instrument = ownerOf(ensemble, id);
    if (instrument == nullptr) return part;
    part.name = nameOf(*instrument);
    part.instruments.push_back(*instrument);
    Surroundings surroundings(ensemble, id, part);
    for (const Chain& chain : instrument->chains) surroundings.of(chain);
    part.parameters.clear();
    part.articulations.clear();
    for (const KeptCurve& each : ensemble.measurements) {
        if (each.instrument == id) part.measurements.push_back(each);
    }
    return part;
}

Part takeController(const Ensemble& ensemble, const std::string& id, bool chains) {
    Part part;
    const Controller* controller = findById(ensemble.controllers, id);
    if (controller == nullptr) return part;
    if (chains) {
        std::vector<std::string> its;
        for (const Chain& chain : ensemble.sharedChains) {
            if (chain.source.controller == id) its.push_back(chain.id);
        }
        part = takeChains(ensemble, sharedOwner, its);
        std::erase_if(part.usedControllers, [&id](const Controller& used) { return used.id == id; });
    }
    part.name = nameOf(*controller);
    part.controllers.push_back(*controller);
    return part;
}

Part takeChains(const Ensemble& ensemble, const std::string& owner, const std::vector<std::string>& ids) {
    Part part;
    const std::vector<Chain>* chains = chainsOf(ensemble, owner);
    if (chains == nullptr) return part;
    Surroundings surroundings(ensemble, owner, part);
    for (const Chain& chain : *chains) {
        if (std::find(ids.begin(), ids.end(), chain.id) == ids.end()) continue;
        part.chains.push_back(chain);
        surroundings.of(chain);
    }
    if (part.chains.size() == 1) part.name = nameOf(part.chains.front());
    return part;
}

Part takeBranches(const Ensemble& ensemble, const std::string& owner, const std::vector<Branch>& branches) {
    Part part;
    part.branches = branches;
    Surroundings surroundings(ensemble, owner, part);
    for (const Branch& branch : branches) surroundings.of(branch);
    return part;
}

Part takeElements(const Ensemble& ensemble, const std::set<std::string>& ids) {
    Part part;
    forEachElement(ensemble.desk, [&](const DeskElement& element) {
        if (ids.contains(element.id)) part.elements.push_back(element);
    });
    return part;
}

Part takeSteps(const Ensemble& ensemble, const std::vector<Step>& steps) {
    Part part;
    part.steps = steps;
    Surroundings(ensemble, sharedOwner, part).of(steps);
    return part;
}

}  // namespace mellow::reuse
