// The rules, and what they share. A new rule is a file beside this one, a line here and one in check.cpp.
#pragma once

#include "core/checks/check.h"
#include "core/model/resolve.h"
#include "core/steps/step.h"

namespace mellow::checks {

/// A chain and where it stands; instrument is null for a shared chain.
struct ChainAt {
    const Directory& directory;
    const Instrument* instrument;
    const Chain& chain;
    Place place;
};

/// What rules look at: an ensemble, without the instruments of which it is known what they would say.
class Scope {
 public:
    explicit Scope(const Directory& directory, const std::vector<const std::vector<bool>*>* known = nullptr)
        : directory_(directory), known_(known) {}
    [[nodiscard]] const Directory& directory() const { return directory_; }
    [[nodiscard]] const Ensemble& ensemble() const { return directory_.ensemble(); }
    [[nodiscard]] bool holds(std::size_t instrument) const {
        return known_ == nullptr || instrument >= known_->size() || (*known_)[instrument] == nullptr;
    }

 private:
    const Directory& directory_;
    const std::vector<const std::vector<bool>*>* known_ = nullptr;
};

/// All of an ensemble, with what of it does not run.
struct Whole : Scope {
    explicit Whole(const Directory& all) : Scope(all), stopped(stoppedBy(all)) {}
    const Stopped stopped;
};

/// Calls visit(ChainAt) for every shared chain, then for every chain of every instrument, in document order.
template<class Visit>
void forEachChain(const Scope& scope, Visit&& visit) {
    const Ensemble& ensemble = scope.ensemble();
    for (std::size_t c = 0; c < ensemble.sharedChains.size(); ++c)
        visit(ChainAt{scope.directory(), nullptr, ensemble.sharedChains[c],
                      Place{std::nullopt, c, std::nullopt}});
    for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
        if (!scope.holds(i)) continue;
        const Instrument& instrument = ensemble.instruments[i];
        for (std::size_t c = 0; c < instrument.chains.size(); ++c) {
            visit(ChainAt{scope.directory(), &instrument, instrument.chains[c], Place{i, c, std::nullopt}});
        }
    }
}

/// "Glass harmonium, Swell" and, with a branch, ", branch 2".
std::string placeName(const ChainAt& at, std::optional<std::size_t> branch = std::nullopt);

/// A finding about a chain, or one of its branches.
Finding about(const ChainAt& at, std::optional<std::size_t> branch, Severity severity, Stops stops,
              std::string what, std::string mend);
/// A finding about an instrument.
Finding about(const Scope& scope, std::size_t instrument, Severity severity, Stops stops, std::string what,
              std::string mend);

Target targetOf(const ChainAt& at, const Branch& branch);
/// The target's name, with its instrument where a shared chain leads there.
std::string targetName(const ChainAt& at, const Branch& branch);

/// Calls visit(ChainAt) for the chains that run.
template<class Visit>
void forEachRunning(const Whole& whole, Visit&& visit) {
    const Stopped& stopped = whole.stopped;
    forEachChain(whole, [&](const ChainAt& at) {
        const std::size_t chain = *at.place.chain;
        const bool stops = at.instrument == nullptr ? stopped.shared[chain]
                                                    : stopped.instruments[*at.place.instrument] ||
                                                          stopped.chains[*at.place.instrument][chain];
        if (!stops) visit(at);
    });
}

/// Positions at which a source can stand: all of them, or enough of one that has no raw values.
inline constexpr int placesWithoutRaw = 1024;
std::vector<double> placesOf(const Directory& directory, const Source& source);
/// How many they are, and one of them by its number.
class SourcePlaces {
 public:
    SourcePlaces(const Directory& directory, const Source& source);
    [[nodiscard]] int count() const { return max_ + 1; }
    [[nodiscard]] double operator[](int place) const { return decode(scale_, place, max_); }

 private:
    Scale scale_;
    int max_;
};

/// True when a second source decides too what comes out of steps, so that looking at one says nothing.
bool isBlurred(const std::vector<Step>& steps);

// Rules that stop what they find.
void referenceToNothing(const Scope&, Findings&);
void impossibleValue(const Scope&, Findings&);
void circleOfTieLines(const Scope&, Findings&);
// Rules that only tell.
void reachOutsideRange(const Whole&, Findings&);
void chainWithoutEffect(const Whole&, Findings&);
void branchesThatMeet(const Whole&, Findings&);
void instrumentsOnOneMessage(const Whole&, Findings&);
void loneTieLine(const Whole&, Findings&);
void halfOfAPair(const Whole&, Findings&);
void controlWithAMeaning(const Whole&, Findings&);
void neverReached(const Whole&, Findings&);
void restBetweenLevels(const Whole&, Findings&);
void formulaWithoutNumber(const Whole&, Findings&);
void unfitId(const Whole&, Findings&);
void nothingPassesIn(const Whole&, Findings&);
void standingStill(const Whole&, Findings&);

}  // namespace mellow::checks
