#include "app/document/leading.h"

#include "core/model/edit.h"

namespace mellow::app {

void leadTo(Ensemble& ensemble, Selected& selected, TargetFor use, const std::string& target) {
    const auto branch = wholeBranch(ensemble, instrumentOf(ensemble, selected), target);
    if (!branch) return;
    if (use == TargetFor::newChain) {
        auto* chains = chainsOf(ensemble, selected);
        if (chains == nullptr) return;
        const Instrument* instrument = instrumentOf(ensemble, selected);
        Chain chain = instrument != nullptr ? newChain(*instrument) : newSharedChain(ensemble);
        chain.branches = {*branch};
        chains->push_back(chain);
        selected = {selected.instrument, chain.id, Part::source, 0, 0};
        return;
    }
    Chain* chain = chainOf(ensemble, selected);
    if (chain == nullptr) return;
    if (use == TargetFor::selectedBranch) {
        Branch* led = branchOf(ensemble, selected);
        if (led == nullptr) return;
        led->target = branch->target;
        led->low = branch->low;
        led->high = branch->high;
        return;
    }
    chain->branches.push_back(*branch);
    selected = {selected.instrument, selected.chain, Part::branch,
                static_cast<int>(chain->branches.size()) - 1, 0};
}

}  // namespace mellow::app
