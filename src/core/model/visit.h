// Walking through everything in a document that can be changed: each chain, each source that is written.
#pragma once

#include "core/model/ensemble.h"

namespace mellow {

/// Calls visit(chain, instrument) for every chain; instrument is null for shared ones.
template<class EnsembleType, class Visit>
void forEachChain(EnsembleType& ensemble, Visit&& visit) {
    for (auto& chain : ensemble.sharedChains) visit(chain, nullptr);
    for (auto& instrument : ensemble.instruments) {
        for (auto& chain : instrument.chains) visit(chain, &instrument);
    }
}

/// Calls visit(source) for each source that is written in a chain, whether it is on or not.
template<class Visit>
void forEachWritten(Chain& chain, Visit&& visit) {
    const auto ofSteps = [&visit](std::vector<Step>& steps) {
        for (Step& step : steps) {
            if (step.with) visit(*step.with);
        }
    };
    visit(chain.source);
    ofSteps(chain.steps);
    for (Branch& branch : chain.branches) ofSteps(branch.steps);
    if (chain.fan.by) visit(*chain.fan.by);
}

}  // namespace mellow
