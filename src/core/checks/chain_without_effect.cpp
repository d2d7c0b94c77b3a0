// A chain that runs and changes nothing: it leads nowhere, can never be moved, or gives one value whatever is
// played. It still takes its source's messages away from the instrument, so it is worth telling.
#include <algorithm>

#include "core/checks/rules.h"
#include "core/model/law.h"
#include "core/reach/branch.h"

namespace mellow::checks {

namespace {

/// Whether some source of a chain passes its instrument's input filter.
bool canBeMoved(const ChainAt& at) {
    if (at.instrument == nullptr) return true;
    const Input& input = at.instrument->input;
    bool can = false;
    forEachSource(at.chain, [&](const Source& written) {
        const Source source = resolved(at.directory, written);
        const Origin origin = row(source.kind).origin;
        if (origin == Origin::generator || origin == Origin::tieLine) {
            can = true;
            return;
        }
        if (source.channel && input.channel && *source.channel != *input.channel) return;
        if (origin == Origin::note && input.lowKey > input.highKey) return;
        const std::string* port = portOf(at.directory, source);
        can = can || port == nullptr || input.port == anyPort || *port == input.port;
    });
    return can;
}

/// Looks for a second value, which nearly every branch has at the last place, and looks at all of them only
/// where there is none. Steps that remember are taken to have settled.
bool changesAnything(const ChainAt& at) {
    if (isBlurred(at.chain.steps)) return true;
    const SourcePlaces places(at.directory, at.chain.source);
    const StepRun trunk(at.chain.steps);
    const auto changes = [&](const Branch& branch) {
        if (!branch.on) return false;
        if (isBlurred(branch.steps)) return true;
        const Target target = targetOf(at, branch);
        const auto prepared = target.parameter != nullptr ? prepareBranch(*target.parameter, branch)
                                                          : prepareTieLineBranch(*target.tieLine, branch);
        const bool fine = target.parameter == nullptr || prepared.kind == MessageKind::osc;
        const auto sentAt = [&](int place) -> std::optional<double> {
            const auto q = settledReach(prepared, settledPosition(trunk, places[place]));
            return q && !fine ? std::optional<double>(valueAt(prepared, *q)) : q;
        };
        const auto first = sentAt(0);
        for (int place = places.count() - 1; place > 0; --place) {
            if (sentAt(place) != first) return true;
        }
        return false;
    };
    return std::any_of(at.chain.branches.begin(), at.chain.branches.end(), changes);
}

}  // namespace

void chainWithoutEffect(const Whole& whole, Findings& findings) {
    forEachRunning(whole, [&](const ChainAt& at) {
        const auto tell = [&](std::string what, std::string mend) {
            findings.push_back(
                about(at, {}, Severity::trouble, Stops::nothing, std::move(what), std::move(mend)));
        };
        const auto isOn = [](const Branch& branch) { return branch.on; };
        if (at.chain.branches.empty()) {
            tell("it has no effect: it leads to no target", "add a target, or switch the chain off");
        } else if (std::none_of(at.chain.branches.begin(), at.chain.branches.end(), isOn)) {
            tell("it has no effect: all its branches are switched off",
                 "switch a branch on, or switch the chain off");
        } else if (!canBeMoved(at)) {
            tell("it has no effect: what moves it never passes the instrument's input filter",
                 "let the source and the instrument listen to the same port, channel and keys");
        } else if (!changesAnything(at)) {
            tell("it has no effect: every target gets one value wherever the control stands",
                 "widen the reach or the window");
        }
    });
}

}  // namespace mellow::checks
