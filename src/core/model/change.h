// What differs between an ensemble and the same ensemble after an edit, as far as others want to know it:
// which instruments are not what they were, and which of the lists that stand beside them.
#pragma once

#include <optional>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow {

struct Change {
    bool everything = false;               ///< another document: nothing is known to be the same
    bool order = false;                    ///< instruments came, went, or changed places
    std::vector<std::size_t> instruments;  ///< by their places now: new ones, and those that were edited
    /// Where one instrument was edited and nothing of it but chains: those that are other than before, by
    /// place.
    std::optional<std::vector<std::size_t>> chains;
    bool title = false;
    bool controllers = false;
    bool tieLines = false;
    bool sharedChains = false;
    bool inHand = false;
    bool tempo = false;
    bool hands = false;  ///< sections, or the order in which they and instruments come into hand
    bool desk = false;
    bool takes = false;
    bool measurements = false;

    /// Whether something is other than before that concerns an instrument, by its place now, beyond itself:
    /// what its chains refer to, and where it stands.
    [[nodiscard]] bool surroundings() const { return everything || order || controllers || tieLines || desk; }
    /// Whether an instrument, by its place now, may look different.
    [[nodiscard]] bool concerns(std::size_t instrument) const;
};

/// True when all of an instrument but its chains is the same.
bool sameFrame(const Instrument& a, const Instrument& b);

Change differenceOf(const Ensemble& before, const Ensemble& after);

}  // namespace mellow
