#include "core/balance/motions.h"

#include <algorithm>

#include "core/balance/levelling.h"
#include "core/model/resolve.h"

namespace mellow::balance {

namespace {

/// Whether a shared chain moves something of an instrument: a parameter, or a tie line that a chain of its
/// follows.
bool leadsTo(const Chain& shared, const Instrument& instrument) {
    return std::any_of(shared.branches.begin(), shared.branches.end(), [&](const Branch& branch) {
        if (branch.target.starts_with(instrument.id + "/")) return true;
        const auto line = tieLineOf(branch.target);
        return line &&
               std::any_of(instrument.chains.begin(), instrument.chains.end(), [&](const Chain& each) {
                   return each.source.kind == SourceKind::tieLine && each.source.tieLine == *line;
               });
    });
}

}  // namespace

std::vector<Motion> motionsOf(const Ensemble& ensemble, const std::string& instrument) {
    std::vector<Motion> list;
    const Instrument* played = findById(ensemble.instruments, instrument);
    if (played == nullptr) return list;
    // Whether something can be moved is no matter of the other instruments.
    Ensemble own = ensemble;
    own.instruments = {};
    own.instruments.push_back(*played);
    const auto add = [&](const Motion& motion) {
        if (std::find(list.begin(), list.end(), motion) != list.end()) return;
        if (Rig::build(own, instrument, motion)) list.push_back(motion);
    };
    for (const Chain& chain : played->chains) add(motionOf(chain));
    for (const Chain& chain : ensemble.sharedChains) {
        if (leadsTo(chain, *played)) add(motionOf(chain));
    }
    add(motionOf(makeSource(SourceKind::velocity)));
    add(motionOf(makeSource(SourceKind::keyNumber)));
    for (const Parameter* parameter : levelParameters(*played)) add(motionOfParameter(parameter->id));
    return list;
}

}  // namespace mellow::balance
