#include "core/checks/check.h"

#include <algorithm>
#include <array>
#include <tuple>

#include "core/checks/rules.h"

namespace mellow {

namespace {

using Rule = void (*)(const Ensemble&, Findings&);

constexpr std::array<Rule, 3> stoppingRules{checks::referenceToNothing, checks::notAvailableYet,
                                            checks::impossibleValue};
constexpr std::array<Rule, 4> tellingRules{checks::reachOutsideRange, checks::chainWithoutEffect,
                                           checks::branchesThatMeet, checks::instrumentsOnOneMessage};

std::tuple<bool, std::size_t, std::size_t, std::size_t> order(const Finding& finding) {
    const auto rank = [](const std::optional<std::size_t>& index) { return index ? *index + 1 : 0; };
    return {finding.severity == Severity::note, rank(finding.place.instrument), rank(finding.place.chain),
            rank(finding.place.branch)};
}

}  // namespace

Findings check(const Ensemble& ensemble) {
    Findings findings;
    for (const Rule rule : stoppingRules) rule(ensemble, findings);
    for (const Rule rule : tellingRules) rule(ensemble, findings);
    std::stable_sort(findings.begin(), findings.end(),
                     [](const Finding& a, const Finding& b) { return order(a) < order(b); });
    return findings;
}

Stopped stoppedBy(const Ensemble& ensemble) {
    Findings findings;
    for (const Rule rule : stoppingRules) rule(ensemble, findings);
    Stopped stopped;
    for (const Instrument& instrument : ensemble.instruments) {
        stopped.instruments.push_back(!instrument.on);
        std::vector<bool>& chains = stopped.chains.emplace_back();
        for (const Chain& chain : instrument.chains) chains.push_back(!chain.on);
    }
    for (const Finding& finding : findings) {
        const Place& place = finding.place;
        if (!place.instrument) continue;
        if (finding.stops == Stops::instrument) stopped.instruments[*place.instrument] = true;
        if (finding.stops == Stops::chain && place.chain)
            stopped.chains[*place.instrument][*place.chain] = true;
    }
    return stopped;
}

namespace checks {

std::string placeName(const ChainAt& at, std::optional<std::size_t> branch) {
    std::string name =
        (at.instrument != nullptr ? nameOf(*at.instrument) : "Shared chains") + ", " + nameOf(at.chain);
    if (branch) name += ", branch " + std::to_string(*branch + 1);
    return name;
}

Finding about(const ChainAt& at, std::optional<std::size_t> branch, Severity severity, Stops stops,
              std::string what, std::string mend) {
    Place place = at.place;
    place.branch = branch;
    return {severity, stops, place, {placeName(at, branch), std::move(what), std::move(mend)}};
}

Finding about(const Ensemble& ensemble, std::size_t instrument, Severity severity, Stops stops,
              std::string what, std::string mend) {
    return {severity,
            stops,
            {instrument, std::nullopt, std::nullopt},
            {nameOf(ensemble.instruments[instrument]), std::move(what), std::move(mend)}};
}

const Parameter* targetOf(const ChainAt& at, const Branch& branch) {
    return at.instrument == nullptr ? nullptr : findById(at.instrument->parameters, branch.target);
}

}  // namespace checks
}  // namespace mellow
