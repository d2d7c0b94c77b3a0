// Putting targets to values without a hand: at rest, or drawn.
//
// An instrument that has been played about with is put back to where it rests; one that one would like to be
// surprised by gets values drawn inside the reaches that its chains have. Only what chains lead to is put,
// each parameter once, and nothing that is locked. A draw depends on its seed and on each parameter's own ids
// and on nothing else, so that the same seed gives the same sound again, whatever else was locked or added.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow {

/// A value that a branch's target is put to.
struct Placement {
    std::string owner;  ///< an instrument's id, or sharedOwner
    std::string chain;
    std::uint32_t branch = 0;
    double position = 0;  ///< raw, 0 to 1
    /// Of the owner, to which nothing leads: then `chain` is empty, and it is put only where something was
    /// sent there.
    std::string parameter = {};
    bool unlessSpoken = false;  ///< the chain itself knows better, once it has spoken
    bool operator==(const Placement&) const = default;
};
using Placements = std::vector<Placement>;

/// Whose targets: everybody's, an owner's, a chain's, or one branch's.
struct Whose {
    std::optional<std::string> owner;
    std::optional<std::string> chain;
    std::optional<std::uint32_t> branch;
};

/// A parameter that can be put, locked or not.
struct Placeable {
    const Instrument* instrument;
    const Parameter* parameter;
};
std::vector<Placeable> placeable(const Ensemble& ensemble, const Whose& whose);

// Of the same ensemble both have a value for the same targets in the same order.

/// Every target at its resting value.
Placements atRest(const Ensemble& ensemble, const Whose& whose);
/// Every target at a value of its reach.
Placements drawn(const Ensemble& ensemble, const Whose& whose, std::uint64_t seed);

}  // namespace mellow
