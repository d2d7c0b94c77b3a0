// A source that stands elsewhere has spoken since.
#include "app/live/put_values.h"

#include <algorithm>

namespace mellow::app {

void PutValues::remember(const Placements& placements, const Stands& stands) {
    for (const Placement& each : placements)
        put_[each.owner][each.chain][each.branch] = {each.position, stands(each.owner, each.chain)};
}

void PutValues::show(const std::string& owner, const std::string& chain, io::ChainReading& reading) const {
    const auto chains = put_.find(owner);
    if (chains == put_.end()) return;
    const auto branches = chains->second.find(chain);
    if (branches == chains->second.end()) return;
    for (const auto& [branch, put] : branches->second) {
        if (branch < reading.values.size() && put.source == reading.position)
            reading.values[branch] = put.position;
    }
}

void PutValues::forgetMoved(const std::string& owner, const Stands& stands) {
    const auto found = put_.find(owner);
    if (found == put_.end()) return;
    std::erase_if(found->second, [&](const auto& chain) {
        const double source = stands(owner, chain.first);
        return std::any_of(chain.second.begin(), chain.second.end(),
                           [source](const auto& each) { return each.second.source != source; });
    });
    if (found->second.empty()) put_.erase(found);
}

}  // namespace mellow::app
