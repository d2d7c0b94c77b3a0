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

std::optional<int> directionOf(const Assignment& assignment) {
    if (assignment.leads() == nullptr || !assignment.target.exists()) return std::nullopt;
    if (assignment.leads()->low == assignment.leads()->high) return 0;
    const Range range = rangeOf(assignment.target);
    const auto from = rawPosition(range, assignment.leads()->low);
    const auto to = rawPosition(range, assignment.leads()->high);
    if (!from || !to) return std::nullopt;
    return *from > *to ? -1 : 1;
}

std::vector<Assignment> assignmentsOf(const Ensemble& ensemble) {
    std::vector<Assignment> all;
    std::set<const ControllerControl*> used;
    std::set<const Parameter*> moved;
    const auto add = [&](const Chain& chain, const Instrument* owner) {
        const ControlOf by = controlOf(ensemble, owner, chain.source);
        forEachSource(chain,
                      [&](const Source& source) { used.insert(controlOf(ensemble, owner, source).control); });
        const Assignment row{owner, &chain, -1, by.controller, by.control, {}, {}};
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
            if (!used.contains(&control))
                all.push_back({nullptr, nullptr, -1, &controller, &control, {}, {}});
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
    const LastMeasured measured(ensemble);
    for (Assignment& row : all) row.loudness = measured.of(row);
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

namespace {

template<class EnsembleType>
auto* chainIn(EnsembleType& ensemble, const AssignmentId& id) {
    using ChainPointer = decltype(&ensemble.sharedChains.front());
    if (id.chain.empty()) return ChainPointer{};
    if (id.owner == sharedOwner) return findById(ensemble.sharedChains, id.chain);
    auto* owner = findById(ensemble.instruments, id.owner);
    return owner == nullptr ? ChainPointer{} : findById(owner->chains, id.chain);
}

}  // namespace

std::optional<Assignment> assignmentAt(const Ensemble& ensemble, const AssignmentId& id) {
    Assignment row;
    if (!id.chain.empty()) {
        row.owner = findById(ensemble.instruments, id.owner);
        row.chain = chainIn(ensemble, id);
        if (row.chain == nullptr || id.branch >= static_cast<int>(row.chain->branches.size())) return {};
        if (id.branch < 0 && !row.chain->branches.empty()) return {};
        const ControlOf by = controlOf(ensemble, row.owner, row.chain->source);
        row.controller = by.controller;
        row.control = by.control;
        row.branch = id.branch;
        if (const Branch* branch = row.leads()) row.target = targetOf(ensemble, row.owner, branch->target);
        row.loudness = loudnessOf(ensemble, row);
        return row;
    }
    if (!id.controller.empty()) {
        row.controller = findById(ensemble.controllers, id.controller);
        if (row.controller != nullptr) row.control = findById(row.controller->controls, id.control);
        return row.control == nullptr ? std::nullopt : std::optional(row);
    }
    row.target.instrument = findById(ensemble.instruments, id.instrument);
    if (row.target.instrument != nullptr)
        row.target.parameter = findById(row.target.instrument->parameters, id.parameter);
    if (row.target.parameter == nullptr) return {};
    row.loudness = loudnessOf(ensemble, row);
    return row;
}

Chain* chainOf(Ensemble& ensemble, const AssignmentId& id) {
    return chainIn(ensemble, id);
}

Branch* branchOf(Ensemble& ensemble, const AssignmentId& id) {
    Chain* chain = chainOf(ensemble, id);
    const auto place = static_cast<std::size_t>(id.branch);
    return chain == nullptr || id.branch < 0 || place >= chain->branches.size() ? nullptr
                                                                                : &chain->branches[place];
}

}  // namespace mellow
