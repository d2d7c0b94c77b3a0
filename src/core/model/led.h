// Whether anything leads somewhere.
#pragma once

#include <algorithm>
#include <string>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow {

/// Whether a chain of an instrument, or a shared one, has a branch to one of its parameters; also one that is
/// off.
inline bool isLedTo(const Ensemble& ensemble, const Instrument& owner, const std::string& parameter) {
    const auto leads = [](const std::vector<Chain>& chains, const std::string& target) {
        return std::any_of(chains.begin(), chains.end(), [&target](const Chain& chain) {
            return std::any_of(chain.branches.begin(), chain.branches.end(),
                               [&target](const Branch& branch) { return branch.target == target; });
        });
    };
    return leads(owner.chains, parameter) || leads(ensemble.sharedChains, owner.id + "/" + parameter);
}

}  // namespace mellow
