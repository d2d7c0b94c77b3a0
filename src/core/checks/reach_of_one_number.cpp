// A reach so narrow that one number is all that can be sent, since nothing beyond its ends is (signal rules,
// section 4, Ends). It may be meant; more often a range is shown in units too coarse for its message.
#include "core/checks/rules.h"
#include "core/model/law.h"
#include "core/reach/branch.h"

namespace mellow::checks {

namespace {

void look(const ChainAt& at, Findings& findings) {
    for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
        const Branch& branch = at.chain.branches[b];
        if (!branch.on) continue;
        const Target target = targetOf(at, branch);
        if (target.parameter == nullptr || !flawOf(rangeOf(target)).empty()) continue;
        const auto ends = endsOf(*target.parameter, branch);
        if (!ends || ends->highest > ends->lowest) continue;
        const std::string sends = ends->highest == ends->lowest
                                      ? "holds a single number, " + std::to_string(ends->lowest)
                                      : "lies between two numbers, and the nearer is sent";
        findings.push_back(about(at, b, Severity::note, Stops::nothing, "its reach " + sends,
                                 "widen the reach, or send it in 14 bits", {wholeReach(at, b)}));
    }
}

}  // namespace

extern const Rule reachOfOneNumber{.chain = look};

}  // namespace mellow::checks
