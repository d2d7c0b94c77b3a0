// A chain that runs and changes nothing: it leads nowhere, can never be moved, or gives one value whatever is
// played. It still takes its source's messages away from the instrument, so it is worth telling.
#include <algorithm>

#include "core/checks/rules.h"
#include "core/engine/plan.h"
#include "core/model/law.h"

namespace mellow::checks {

namespace {

bool canBeMoved(const Ensemble& ensemble, const ChainAt& at) {
    const Source& source = at.chain.source;
    const Input& input = at.instrument->input;
    if (source.channel && input.channel && *source.channel != *input.channel) return false;
    if (source.kind == SourceKind::velocity && input.lowKey > input.highKey) return false;
    const Controller* controller = findById(ensemble.controllers, source.controller);
    const bool anywhere = controller == nullptr || controller->port == anyPort || input.port == anyPort;
    return anywhere || controller->port == input.port;
}

/// Looks for a second payload, which nearly every branch has at the next raw value or at the last, and looks
/// at all of them only where there is none. Steps that remember are taken to have settled.
bool changesAnything(const ChainAt& at) {
    const Source& source = at.chain.source;
    const int max = maxOf(source);
    return std::any_of(at.chain.branches.begin(), at.chain.branches.end(), [&](const Branch& branch) {
        if (!branch.on) return false;
        const engine::PlanBranch prepared = engine::prepareBranch(*targetOf(at, branch), branch);
        const auto payload = [&](int raw) {
            return engine::settledPayload(prepared,
                                          settledPosition(at.chain.steps, decode(scaleOf(source), raw, max)));
        };
        const engine::Payload first = payload(0);
        for (int raw = max; raw > 0; --raw) {
            if (payload(raw) != first) return true;
        }
        return false;
    });
}

}  // namespace

void chainWithoutEffect(const Ensemble& ensemble, Findings& findings) {
    const Stopped stopped = stoppedBy(ensemble);
    forEachChain(ensemble, [&](const ChainAt& at) {
        const bool runs = !stopped.instruments[*at.place.instrument] &&
                          !stopped.chains[*at.place.instrument][*at.place.chain];
        if (!runs) return;
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
        } else if (!canBeMoved(ensemble, at)) {
            tell("it has no effect: what moves it never passes the instrument's input filter",
                 "let the source and the instrument listen to the same port, channel and keys");
        } else if (!changesAnything(at)) {
            tell("it has no effect: every target gets one value wherever the control stands",
                 "widen the reach or the window");
        }
    });
}

}  // namespace mellow::checks
