// What moves what: every assignment of an ensemble as a row.
//
// A branch is an assignment: something that a hand does leads through a chain to something that an instrument
// hears. Beside those stand what leads nowhere, the controls of controllers that no chain listens to, and
// what nothing moves, the parameters that no branch leads to; whoever looks for something free looks there.
// Rows point into the ensemble and live as long as it does; an AssignmentId names the same by ids, so that it
// outlives edits and can be written into a file.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/assignments/loudness.h"
#include "core/model/ensemble.h"
#include "core/model/resolve.h"

namespace mellow {

/// A branch of a chain, or else a control, or else a parameter.
struct AssignmentId {
    std::string owner;  ///< of the chain: an instrument's id, or sharedOwner
    std::string chain;
    int branch = -1;  ///< −1: the chain leads nowhere at all
    std::string controller;
    std::string control;
    std::string instrument;
    std::string parameter;
    bool operator==(const AssignmentId&) const = default;
    bool operator<(const AssignmentId& other) const;
};

struct Assignment {
    const Instrument* owner = nullptr;  ///< whose the chain is; nullptr: it is shared
    const Chain* chain = nullptr;       ///< nullptr: a control or a parameter alone
    int branch = -1;                    ///< its place in the chain; −1: the chain leads nowhere at all
    /// The control that moves it, where that is one of the ensemble's controllers.
    const Controller* controller = nullptr;
    const ControllerControl* control = nullptr;
    /// What is moved; does not exist of a control alone, and of a branch that leads to nothing there is.
    Target target;
    /// How loud the instrument was along what moves it; nullptr: nobody has measured it.
    std::shared_ptr<const Loudness> loudness = {};

    /// Whose sound moves: the instrument that is reached, or else the chain's own; nullptr: none's.
    [[nodiscard]] const Instrument* instrument() const {
        return target.instrument != nullptr ? target.instrument : owner;
    }
    [[nodiscard]] const Branch* leads() const {
        return branch < 0 ? nullptr : &chain->branches[static_cast<std::size_t>(branch)];
    }
};

/// Whether the target rises (1) or falls (−1) with what moves it, or stays (0); nothing where there is no
/// telling.
std::optional<int> directionOf(const Assignment& assignment);

/// Every one: branches as their chains stand, those of instruments first; then controls, then parameters.
std::vector<Assignment> assignmentsOf(const Ensemble& ensemble);

AssignmentId idOf(const Assignment& assignment);
/// The row that an id names; nothing where that is no more.
std::optional<Assignment> assignmentAt(const Ensemble& ensemble, const AssignmentId& id);
/// The branch that an id names, and its chain; nullptr where it is no more.
Chain* chainOf(Ensemble& ensemble, const AssignmentId& id);
Branch* branchOf(Ensemble& ensemble, const AssignmentId& id);

/// The control of a controller that a source listens to: the one it names, or one that sends its message on a
/// port that it hears.
struct ControlOf {
    const Controller* controller = nullptr;
    const ControllerControl* control = nullptr;
};
ControlOf controlOf(const Ensemble& ensemble, const Instrument* owner, const Source& source);

}  // namespace mellow
