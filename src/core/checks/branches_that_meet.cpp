// Two branches of one instrument that lead to one parameter. Sharing is normal; it is worth knowing.
#include <map>

#include "core/checks/rules.h"

namespace mellow::checks {

void branchesThatMeet(const Ensemble& ensemble, Findings& findings) {
    std::map<std::pair<std::size_t, std::string>, std::string> first;
    forEachChain(ensemble, [&](const ChainAt& at) {
        if (!at.chain.on) return;
        for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
            const Parameter* parameter = targetOf(at, at.chain.branches[b]);
            if (parameter == nullptr || !at.chain.branches[b].on) continue;
            const auto [earlier, isNew] =
                first.try_emplace({*at.place.instrument, parameter->id},
                                  nameOf(at.chain) + ", branch " + std::to_string(b + 1));
            if (isNew) continue;
            findings.push_back(about(at, b, Severity::note, Stops::nothing,
                                     "it meets " + earlier->second + " on " + nameOf(*parameter),
                                     "the latest one moved is heard; remove one if that is not wanted"));
        }
    });
}

}  // namespace mellow::checks
