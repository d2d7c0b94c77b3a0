// The list of rules, their order, and what they share. The rules that stop what they find run alone, too, for
// the compiler (stoppedBy); all of them run for check(). Findings are sorted by severity and place, and what
// two branches brought up in the same words is said once.
#include "core/checks/check.h"

#include <algorithm>
#include <array>
#include <set>
#include <string_view>
#include <tuple>

#include "core/checks/rules.h"

namespace mellow {

namespace {

using checks::Whole;
using Rule = void (*)(const Whole&, Findings&);

constexpr std::array tellingRules{checks::reachOutsideRange,
                                  checks::chainWithoutEffect,
                                  checks::branchesThatMeet,
                                  checks::instrumentsOnOneMessage,
                                  checks::loneTieLine,
                                  checks::halfOfAPair,
                                  checks::controlWithAMeaning,
                                  checks::neverReached,
                                  checks::restBetweenLevels,
                                  checks::formulaWithoutNumber,
                                  checks::unfitId,
                                  checks::nothingPassesIn,
                                  checks::standingStill};

std::tuple<bool, std::size_t, std::size_t, std::size_t> order(const Finding& finding) {
    const auto rank = [](const std::optional<std::size_t>& index) { return index ? *index + 1 : 0; };
    // Shared chains come first, as they run first.
    return {finding.severity == Severity::note, rank(finding.place.instrument), rank(finding.place.chain),
            rank(finding.place.branch)};
}

/// What a rule found twice in one place (two branches that lead to one faulty parameter) is told once.
void removeRepeats(Findings& findings) {
    std::set<std::tuple<std::string_view, std::string_view>> seen;
    std::vector<bool> isNew(findings.size());
    for (std::size_t i = 0; i < findings.size(); ++i)
        isNew[i] = seen.insert({findings[i].problem.where, findings[i].problem.what}).second;
    std::size_t i = 0;
    std::erase_if(findings, [&](const Finding&) { return !isNew[i++]; });
}

}  // namespace

Findings check(const Ensemble& ensemble) {
    const Directory directory = Directory::indexed(ensemble);
    const checks::Whole whole(directory);
    Findings findings;
    checks::referenceToNothing(whole, findings);
    checks::impossibleValue(whole, findings);
    checks::circleOfTieLines(whole, findings);
    for (const Rule rule : tellingRules) rule(whole, findings);
    std::stable_sort(findings.begin(), findings.end(),
                     [](const Finding& a, const Finding& b) { return order(a) < order(b); });
    removeRepeats(findings);
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

Stopped stoppedBy(const Directory& directory, const std::vector<const std::vector<bool>*>& known) {
    const Ensemble& ensemble = directory.ensemble();
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
    const checks::Scope scope(directory, &known);
    checks::referenceToNothing(scope, findings);
    checks::impossibleValue(scope, findings);
    stop(stopped, findings);
    stopped.alone = stopped.chains;
    findings.clear();
    checks::circleOfTieLines(scope, findings);
    stop(stopped, findings);
    return stopped;
}

namespace checks {

std::string placeName(const ChainAt& at, std::optional<std::size_t> branch) {
    const Ensemble& ensemble = at.directory.ensemble();
    std::string name =
        at.instrument != nullptr ? nameAmong(ensemble.instruments, *at.instrument) : "Shared chains";
    name += ", ";
    name += nameAmong(at.instrument != nullptr ? at.instrument->chains : ensemble.sharedChains, at.chain);
    if (branch) name += ", branch " + std::to_string(*branch + 1);
    return name;
}

Finding about(const ChainAt& at, std::optional<std::size_t> branch, Severity severity, Stops stops,
              std::string what, std::string mend) {
    Place place = at.place;
    place.branch = branch;
    return {severity, stops, place, {placeName(at, branch), std::move(what), std::move(mend)}};
}

Finding about(const Scope& scope, std::size_t instrument, Severity severity, Stops stops, std::string what,
              std::string mend) {
    const auto& instruments = scope.ensemble().instruments;
    return {severity,
            stops,
            {instrument, std::nullopt, std::nullopt},
            {nameAmong(instruments, instruments[instrument]), std::move(what), std::move(mend)}};
}

Target targetOf(const ChainAt& at, const Branch& branch) {
    return mellow::targetOf(at.directory, at.instrument, branch.target);
}

std::string targetName(const ChainAt& at, const Branch& branch) {
    return nameOf(targetOf(at, branch), at.instrument == nullptr);
}

SourcePlaces::SourcePlaces(const Directory& directory, const Source& source) {
    const Source heard = resolved(directory, source);
    const bool hasRaws = maxOf(heard) != 0;
    max_ = hasRaws ? maxOf(heard) : placesWithoutRaw;
    scale_ = hasRaws ? scaleOf(heard) : Scale::edge;
}

std::vector<double> placesOf(const Directory& directory, const Source& source) {
    const SourcePlaces all(directory, source);
    std::vector<double> places;
    places.reserve(static_cast<std::size_t>(all.count()));
    for (int place = 0; place < all.count(); ++place) places.push_back(all[place]);
    return places;
}

bool isBlurred(const std::vector<Step>& steps) {
    return std::any_of(steps.begin(), steps.end(), [](const Step& step) { return step.on && step.with; });
}

}  // namespace checks
}  // namespace mellow
