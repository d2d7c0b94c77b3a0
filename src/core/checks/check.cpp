#include "core/checks/check.h"

#include <algorithm>
#include <array>
#include <tuple>

#include "core/checks/rules.h"

namespace mellow {

namespace {

using Rule = void (*)(const Ensemble&, Findings&);

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
    checks::referenceToNothing(ensemble, findings);
    checks::impossibleValue(ensemble, findings);
    checks::circleOfTieLines(ensemble, findings);
    for (const Rule rule : tellingRules) rule(ensemble, findings);
    std::stable_sort(findings.begin(), findings.end(),
                     [](const Finding& a, const Finding& b) { return order(a) < order(b); });
    return findings;
}

namespace {

void stop(Stopped& stopped, const Findings& findings) {
    for (const Finding& finding : findings) {
        const Place& place = finding.place;
        if (finding.stops == Stops::chain && place.chain)
            (place.instrument ? stopped.chains[*place.instrument] : stopped.shared)[*place.chain] = true;
        if (finding.stops == Stops::instrument) stopped.instruments[*place.instrument] = true;
    }
}

}  // namespace

Stopped stoppedBy(const Ensemble& ensemble, const std::vector<const std::vector<bool>*>& known) {
    Stopped stopped;
    const auto isOff = [](const Chain& chain) { return !chain.on; };
    const auto off = [&isOff](const std::vector<Chain>& chains) {
        std::vector<bool> are(chains.size());
        std::transform(chains.begin(), chains.end(), are.begin(), isOff);
        return are;
    };
    for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
        stopped.instruments.push_back(!ensemble.instruments[i].on);
        const bool isKnown = i < known.size() && known[i] != nullptr;
        stopped.chains.push_back(isKnown ? *known[i] : off(ensemble.instruments[i].chains));
    }
    stopped.shared = off(ensemble.sharedChains);
    Findings findings;
    const checks::Scope scope(ensemble, known);
    checks::referenceToNothing(scope, findings);
    checks::impossibleValue(scope, findings);
    stop(stopped, findings);
    stopped.alone = stopped.chains;
    findings.clear();
    checks::circleOfTieLines(ensemble, findings);
    stop(stopped, findings);
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
