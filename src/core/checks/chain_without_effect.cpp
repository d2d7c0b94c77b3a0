// A chain that runs and changes nothing: it leads nowhere, can never be moved, or gives one value whatever is
// played. It still takes its source's messages away from the instrument, so it is worth telling.
#include <algorithm>

#include "core/checks/rules.h"
#include "core/model/edit.h"
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
        const bool isDesk = source.kind == SourceKind::desk;
        if (isDesk || origin == Origin::generator || origin == Origin::tieLine) {
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
    // Where one branch is chosen among others, each may well lead to one value.
    const auto isOn = [](const Branch& branch) { return branch.on; };
    if (at.chain.fan.mode == FanMode::chosen &&
        std::count_if(at.chain.branches.begin(), at.chain.branches.end(), isOn) > 1)
        return true;
    const SourcePlaces places(at.directory, at.chain.source);
    const StepRun trunk(at.chain.steps);
    const auto changes = [&](const Branch& branch) {
        if (!branch.on) return false;
        if (isBlurred(branch.steps)) return true;
        const Target target = targetOf(at, branch);
        const auto prepared = prepareBranch(target, branch);
        // Something else may have chosen otherwise meanwhile.
        if (prepared.kind == MessageKind::articulation) return true;
        const bool fine = target.parameter == nullptr || prepared.kind == MessageKind::osc;
        const auto sentAt = [&](int place) -> std::optional<double> {
            const double settled = settledPosition(trunk, places[place]);
            if (fine) return settledReach(prepared, settled);
            const auto value = settledValue(prepared, settled);
            return value ? std::optional<double>(*value) : std::nullopt;
        };
        const auto first = sentAt(0);
        for (int place = places.count() - 1; place > 0; --place) {
            if (sentAt(place) != first) return true;
        }
        return false;
    };
    return std::any_of(at.chain.branches.begin(), at.chain.branches.end(), changes);
}

/// Whether a chain would change something if one of its branches reached over all that its target can do.
bool wouldChange(const ChainAt& at, std::size_t branch) {
    const auto whole = wholeBranch(at.directory.ensemble(), at.instrument, at.chain.branches[branch].target);
    if (!whole) return false;
    Chain widened = at.chain;
    widened.branches[branch].low = whole->low;
    widened.branches[branch].high = whole->high;
    return changesAnything({at.directory, at.instrument, widened, at.place});
}

/// Where a reach is a single value and that is all that is wrong.
std::vector<Mend> wholeReaches(const ChainAt& at) {
    std::vector<Mend> mends;
    for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
        const Branch& branch = at.chain.branches[b];
        if (branch.on && branch.low == branch.high && wouldChange(at, b)) mends.push_back(wholeReach(at, b));
    }
    mends.push_back(switchOff(at));
    return mends;
}

void look(const ChainAt& at, Findings& findings) {
    const auto tell = [&](std::string what, std::string mend, std::vector<Mend> mends) {
        findings.push_back(about(at, {}, Severity::trouble, Stops::nothing, std::move(what), std::move(mend),
                                 std::move(mends)));
    };
    const auto isOn = [](const Branch& branch) { return branch.on; };
    if (at.chain.branches.empty()) {
        tell("it has no effect: it leads to no target", "add a target, or switch the chain off",
             {switchOff(at)});
    } else if (std::none_of(at.chain.branches.begin(), at.chain.branches.end(), isOn)) {
        tell("it has no effect: all its branches are switched off",
             "switch a branch on, or switch the chain off",
             {mendChain(at, "Switch its branches on",
                        [](Chain& chain) {
                            for (Branch& branch : chain.branches) branch.on = true;
                        }),
              switchOff(at)});
    } else if (!canBeMoved(at)) {
        tell("it has no effect: what moves it never passes the instrument's input filter",
             "let the source and the instrument listen to the same port, channel and keys",
             {mendSources(at, "Listen to any port and channel",
                          [](Source& source) {
                              source.channel.reset();
                              if (source.kind != SourceKind::control) source.controller.clear();
                          }),
              switchOff(at)});
    } else if (!changesAnything(at)) {
        tell("it has no effect: every target gets one value wherever the control stands",
             "widen the reach or the window", wholeReaches(at));
    }
}

}  // namespace

extern const Rule chainWithoutEffect{.chain = look};

}  // namespace mellow::checks
