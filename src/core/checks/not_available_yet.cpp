// What the format knows and this version does not run yet. It is kept, and its chain stays silent.
#include <algorithm>

#include "core/checks/rules.h"

namespace mellow::checks {

namespace {

constexpr const char* mend = "switch the chain off or use another kind; the document keeps it";

std::string quoted(std::string_view name) {
    return "\"" + std::string(name) + "\"";
}

void look(const ChainAt& at, Findings& findings) {
    const auto stop = [&](std::optional<std::size_t> branch, const std::string& what) {
        findings.push_back(
            about(at, branch, Severity::trouble, Stops::chain, what + " not available yet", mend));
    };
    if (!row(at.chain.source.kind).available)
        stop({}, "the source " + quoted(row(at.chain.source.kind).name) + " is");
    for (const Step& step : at.chain.steps) {
        if (step.on && !step.kind->available) stop({}, "the step " + quoted(step.kind->name) + " is");
    }
    if (at.chain.fan.mode != "all") stop({}, "the fan " + quoted(at.chain.fan.mode) + " is");
    if (at.chain.active == Active::inHand) stop({}, "a chain that works only in hand is");
    for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
        const Branch& branch = at.chain.branches[b];
        for (const Step& step : branch.steps) {
            if (branch.on && step.on && !step.kind->available)
                stop(b, "the step " + quoted(step.kind->name) + " is");
        }
        if (branch.target.starts_with("tieLine:")) stop(b, "a tie line as target is");
        const Parameter* parameter = targetOf(at, branch);
        if (parameter == nullptr) continue;
        if (!row(parameter->message.kind).available) {
            stop(b, "the message " + quoted(row(parameter->message.kind).name) + " of " + nameOf(*parameter) +
                        " is");
        }
        if (parameter->mix != Mix::latest)
            stop(b, "mixing by a rule, as " + nameOf(*parameter) + " asks for, is");
    }
    const auto isHandover = [](const auto& extra) {
        return extra.first == "handover" && extra.second != "\"jump\"";
    };
    if (std::any_of(at.chain.extras.begin(), at.chain.extras.end(), isHandover)) {
        findings.push_back(about(at, {}, Severity::trouble, Stops::nothing,
                                 "handover other than jump is not available yet",
                                 "until then the control jumps"));
    }
}

}  // namespace

void notAvailableYet(const Ensemble& ensemble, Findings& findings) {
    forEachChain(ensemble, [&](const ChainAt& at) { look(at, findings); });
    for (std::size_t c = 0; c < ensemble.sharedChains.size(); ++c) {
        const ChainAt at{nullptr, ensemble.sharedChains[c], {std::nullopt, c, std::nullopt}};
        findings.push_back(about(at, {}, Severity::trouble, Stops::chain,
                                 "shared chains are not available yet",
                                 "give the instrument a chain of its own; the document keeps this one"));
    }
    if (ensemble.inHand) {
        findings.push_back({Severity::trouble,
                            Stops::nothing,
                            {},
                            {"In hand", "choosing the instruments in hand is not available yet",
                             "until then every instrument plays"}});
    }
}

}  // namespace mellow::checks
