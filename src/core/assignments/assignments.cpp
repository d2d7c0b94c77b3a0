// Which controls and parameters are left over is told by marking those that a source or a branch names, so
// that the whole costs what the ensemble holds.
#include "core/assignments/assignments.h"

#include <set>
#include <tuple>

#include "core/model/visit.h"

namespace mellow {

namespace {

bool sends(const ControllerControl& control, const Source& source) {
    const Source own = sourceOf(control.message);
    return own.kind == source.kind && own.number == source.number && own.values == source.values;
}

}  // namespace

bool AssignmentId::operator<(const AssignmentId& other) const {
    const auto all = [](const AssignmentId& id) {
        return std::tie(id.owner, id.chain, id.branch, id.controller, id.control, id.instrument,
                        id.parameter);
    };
    return all(*this) < all(other);
}

ControlOf controlOf(const Ensemble& ensemble, const Instrument* owner, const Source& source) {
    if (source.kind == SourceKind::control) {
        const Controller* controller = findById(ensemble.controllers, source.controller);
        const ControllerControl* control =
            controller == nullptr ? nullptr : findById(controller->controls, source.control);
        return control == nullptr ? ControlOf{} : ControlOf{controller, control};
    }
    for (const Controller& controller : ensemble.controllers) {
        if (!source.controller.empty() && source.controller != controller.id) continue;
        if (!isHeardFrom(ensemble, owner, source, controller.port)) continue;
        for (const ControllerControl& control : controller.controls) {
            if (sends(control, source)) return {&controller, &control};
        }
    }
    return {};
}

std::vector<Assignment> assignmentsOf(const Ensemble& ensemble) {
    std::vector<Assignment> all;
    std::set<const ControllerControl*> used;
    std::set<const Parameter*> moved;
    const auto add = [&](const Chain& chain, const Instrument* owner) {
        const ControlOf by = controlOf(ensemble, owner, chain.source);
        forEachSource(chain,
                      [&](const Source& source) { used.insert(controlOf(ensemble, owner, source).control); });
        const Assignment row{owner, &chain, -1, by.controller, by.control, {}};
        if (chain.branches.empty()) all.push_back(row);
        for (std::size_t b = 0; b < chain.branches.size(); ++b) {
            Assignment& branch = all.emplace_back(row);
            branch.branch = static_cast<int>(b);
            branch.target = targetOf(ensemble, owner, chain.branches[b].target);
            moved.insert(branch.target.parameter);
        }
    };
    for (const Instrument& instrument : ensemble.instruments) {
        for (const Chain& chain : instrument.chains) add(chain, &instrument);
    }
    for (const Chain& chain : ensemble.sharedChains) add(chain, nullptr);
    for (const Controller& controller : ensemble.controllers) {
        for (const ControllerControl& control : controller.controls) {
            if (!used.contains(&control)) all.push_back({nullptr, nullptr, -1, &controller, &control, {}});
        }
    }
    for (const Instrument& instrument : ensemble.instruments) {
        for (const Parameter& parameter : instrument.parameters) {
            if (moved.contains(&parameter)) continue;
            Assignment& row = all.emplace_back();
            row.target.instrument = &instrument;
            row.target.parameter = &parameter;
        }
    }
    return all;
}

AssignmentId idOf(const Assignment& assignment) {
    AssignmentId id;
    if (assignment.chain != nullptr) {
        id.owner = assignment.owner == nullptr ? sharedOwner : assignment.owner->id;
        id.chain = assignment.chain->id;
        id.branch = assignment.branch;
    } else if (assignment.control != nullptr) {
        id.controller = assignment.controller->id;
        id.control = assignment.control->id;
    } else if (assignment.target.parameter != nullptr) {
        id.instrument = assignment.target.instrument->id;
        id.parameter = assignment.target.parameter->id;
    }
    return id;
}

Chain* chainOf(Ensemble& ensemble, const AssignmentId& id) {
    if (id.chain.empty()) return nullptr;
    if (id.owner == sharedOwner) return findById(ensemble.sharedChains, id.chain);
    Instrument* owner = findById(ensemble.instruments, id.owner);
    return owner == nullptr ? nullptr : findById(owner->chains, id.chain);
}

Branch* branchOf(Ensemble& ensemble, const AssignmentId& id) {
    Chain* chain = chainOf(ensemble, id);
    const auto place = static_cast<std::size_t>(id.branch);
    return chain == nullptr || id.branch < 0 || place >= chain->branches.size() ? nullptr
                                                                                : &chain->branches[place];
}

}  // namespace mellow
