// A chain that names a parameter, a controller or an instrument that does not exist.
#include "core/checks/rules.h"

namespace mellow::checks {

namespace {

bool namesTieLine(const std::string& target) {
    return target.starts_with("tieLine:");
}

}  // namespace

void referenceToNothing(const Ensemble& ensemble, Findings& findings) {
    forEachChain(ensemble, [&](const ChainAt& at) {
        const std::string& controller = at.chain.source.controller;
        if (!controller.empty() && findById(ensemble.controllers, controller) == nullptr) {
            findings.push_back(
                about(at, {}, Severity::trouble, Stops::chain,
                      "its source names the controller \"" + controller + "\", which does not exist",
                      "choose a controller, or any port"));
        }
        for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
            const std::string& target = at.chain.branches[b].target;
            if (namesTieLine(target)) {
                if (findById(ensemble.tieLines, target.substr(8)) != nullptr) continue;
                findings.push_back(
                    about(at, b, Severity::trouble, Stops::chain,
                          "it leads to the tie line \"" + target.substr(8) + "\", which does not exist",
                          "choose another target or remove the branch"));
            } else if (targetOf(at, at.chain.branches[b]) == nullptr) {
                findings.push_back(about(at, b, Severity::trouble, Stops::chain,
                                         "it leads to the parameter \"" + target + "\", which " +
                                             nameOf(*at.instrument) + " does not have",
                                         "choose another target or remove the branch"));
            }
        }
    });
    if (!ensemble.inHand) return;
    for (const std::string& id : *ensemble.inHand) {
        if (findById(ensemble.instruments, id) != nullptr) continue;
        findings.push_back(
            {Severity::trouble,
             Stops::nothing,
             {},
             {"In hand", "the instrument \"" + id + "\" does not exist", "take it out of hand"}});
    }
}

}  // namespace mellow::checks
