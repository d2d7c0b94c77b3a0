// Findings have places by index, addresses go by ids.
#include "app/document/address.h"

#include <algorithm>

namespace mellow::app {

Address addressOf(const Ensemble& ensemble, const Place& place) {
    const auto& instruments = ensemble.instruments;
    if (place.instrument && *place.instrument >= instruments.size()) return Selected{};
    const Instrument* instrument = place.instrument ? &instruments[*place.instrument] : nullptr;
    Selected selected{instrument != nullptr ? instrument->id : sharedOwner, {}, Part::instrument, 0, 0};
    const auto& chains = instrument != nullptr ? instrument->chains : ensemble.sharedChains;
    if (!place.chain || *place.chain >= chains.size()) return selected;
    selected.chain = chains[*place.chain].id;
    selected.part = place.branch ? Part::branch : Part::source;
    selected.index = static_cast<int>(place.branch.value_or(0));
    return selected;
}

Selected selectedOf(const AssignmentId& row) {
    return {row.owner, row.chain, row.branch < 0 ? Part::source : Part::branch, std::max(0, row.branch), 0};
}

}  // namespace mellow::app
