// Two branches of one instrument that lead to one parameter. Sharing is normal; it is worth knowing.
#include <array>
#include <map>

#include "core/checks/rules.h"

namespace mellow::checks {

void branchesThatMeet(const Ensemble& ensemble, Findings& findings) {
    static constexpr std::array<std::string_view, 6> rules{
        "the latest one moved is heard", "the highest of them is heard",
        "the lowest of them is heard",   "their sum is heard",
        "their product is heard",        "their average is heard"};
    std::map<const Parameter*, std::string> first;
    forEachChain(ensemble, [&](const ChainAt& at) {
        if (!at.chain.on) return;
        for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
            const Parameter* parameter = targetOf(at, at.chain.branches[b]).parameter;
            if (parameter == nullptr || !at.chain.branches[b].on) continue;
            const auto [earlier, isNew] =
                first.try_emplace(parameter, nameOf(at.chain) + ", branch " + std::to_string(b + 1));
            if (isNew) continue;
            findings.push_back(about(at, b, Severity::note, Stops::nothing,
                                     "it meets " + earlier->second + " on " + nameOf(*parameter),
                                     std::string(rules.at(static_cast<std::size_t>(parameter->mix))) +
                                         "; remove one, or mix them otherwise, if that is not wanted"));
        }
    });
}

}  // namespace mellow::checks
