// The rules, and what they share. A new rule is a file beside this one, a line here and one in check.cpp.
#pragma once

#include "core/checks/check.h"

namespace mellow::checks {

/// A chain and where it stands; instrument is null for a shared chain.
struct ChainAt {
    const Instrument* instrument;
    const Chain& chain;
    Place place;
};

/// Calls visit(ChainAt) for every chain of every instrument, in document order.
template<class Visit>
void forEachChain(const Ensemble& ensemble, Visit&& visit) {
    for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
        const Instrument& instrument = ensemble.instruments[i];
        for (std::size_t c = 0; c < instrument.chains.size(); ++c) {
            visit(ChainAt{&instrument, instrument.chains[c], Place{i, c, std::nullopt}});
        }
    }
}

/// "Glass harmonium, Swell" and, with a branch, ", branch 2".
std::string placeName(const ChainAt& at, std::optional<std::size_t> branch = std::nullopt);

/// A finding about a chain, or one of its branches.
Finding about(const ChainAt& at, std::optional<std::size_t> branch, Severity severity, Stops stops,
              std::string what, std::string mend);
/// A finding about an instrument.
Finding about(const Ensemble& ensemble, std::size_t instrument, Severity severity, Stops stops,
              std::string what, std::string mend);

/// The parameter that a branch of an instrument's chain leads to, or nullptr.
const Parameter* targetOf(const ChainAt& at, const Branch& branch);

// Rules that stop what they find.
void referenceToNothing(const Ensemble&, Findings&);
void notAvailableYet(const Ensemble&, Findings&);
void impossibleValue(const Ensemble&, Findings&);
// Rules that only tell.
void reachOutsideRange(const Ensemble&, Findings&);
void chainWithoutEffect(const Ensemble&, Findings&);
void branchesThatMeet(const Ensemble&, Findings&);
void instrumentsOnOneMessage(const Ensemble&, Findings&);

}  // namespace mellow::checks
