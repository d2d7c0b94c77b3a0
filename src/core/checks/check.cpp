#include "core/checks/check.h"

#include <algorithm>
#include <array>
#include <tuple>

#include "core/checks/rules.h"

namespace mellow {

namespace {

using Rule = void (*)(const Ensemble&, Findings&);

constexpr std::array stoppingRules{checks::referenceToNothing, checks::impossibleValue,
                                   checks::circleOfTieLines};
constexpr std::array tellingRules{checks::reachOutsideRange,   checks::chainWithoutEffect,
                                  checks::branchesThatMeet,    checks::instrumentsOnOneMessage,
                                  checks::loneTieLine,         checks::halfOfAPair,
                                  checks::controlWithAMeaning, checks::neverReached,
                                  checks::restBetweenLevels,   checks::formulaWithoutNumber};

std::tuple<bool, std::size_t, std::size_t, std::size_t> order(const Finding& finding) {
    const auto rank = [](const std::optional<std::size_t>& index) { return index ? *index + 1 : 0; };
    // Shared chains come first, as they run first.
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
    for (const Chain& chain : ensemble.sharedChains) stopped.shared.push_back(!chain.on);
    for (const Finding& finding : findings) {
        const Place& place = finding.place;
        if (!place.instrument) {
            if (finding.stops == Stops::chain && place.chain) stopped.shared[*place.chain] = true;
            continue;
        }
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

Target targetOf(const ChainAt& at, const Branch& branch) {
    return mellow::targetOf(at.ensemble, at.instrument, branch.target);
}

std::string targetName(const ChainAt& at, const Branch& branch) {
    return nameOf(targetOf(at, branch), at.instrument == nullptr);
}

std::vector<double> placesOf(const Ensemble& ensemble, const Source& source) {
    const Source heard = resolved(ensemble, source);
    const int max = maxOf(heard) == 0 ? placesWithoutRaw : maxOf(heard);
    const Scale scale = maxOf(heard) == 0 ? Scale::edge : scaleOf(heard);
    std::vector<double> places;
    places.reserve(static_cast<std::size_t>(max) + 1);
    for (int raw = 0; raw <= max; ++raw) places.push_back(decode(scale, raw, max));
    return places;
}

bool isBlurred(const std::vector<Step>& steps) {
    return std::any_of(steps.begin(), steps.end(), [](const Step& step) { return step.on && step.with; });
}

}  // namespace checks
}  // namespace mellow
