// A reach that goes beyond what the parameter can do. It is played as far as the range goes.
#include "core/checks/rules.h"
#include "core/model/law.h"

namespace mellow::checks {

namespace {

constexpr double tolerance = 1e-9;

bool isOutside(const Range& range, const Level& level) {
    const auto q = rawPosition(range, level);
    return q && (*q < -tolerance || *q > 1 + tolerance);
}

std::string bounds(const Range& range) {
    if (range.law == Law::decibel) return "silence to " + levelText(range, range.high);
    return levelText(range, range.low) + " to " + levelText(range, range.high);
}

/// Brings the ends of a reach inside the range.
Mend keepInside(const ChainAt& at, std::size_t b, const Range& range) {
    return mendBranch(at, b, "Bring it inside the range", [range](Branch& branch) {
        for (Level* level : {&branch.low, &branch.high}) {
            if (isOutside(range, *level)) *level = levelAt(range, clampPosition(*rawPosition(range, *level)));
        }
    });
}

void look(const ChainAt& at, Findings& findings) {
    for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
        const Branch& branch = at.chain.branches[b];
        const Target target = targetOf(at, branch);
        if (!target.exists()) continue;
        const Range range = rangeOf(target);
        if (!flawOf(range).empty()) continue;
        for (const Level& level : {branch.low, branch.high}) {
            if (!isOutside(range, level)) continue;
            findings.push_back(about(at, b, Severity::trouble, Stops::nothing,
                                     "its reach goes to " + levelText(range, level) + ", and " +
                                         targetName(at, branch) + " only has " + bounds(range),
                                     "set it inside the range, or widen the parameter's display range",
                                     {keepInside(at, b, range)}));
        }
    }
}

}  // namespace

extern const Rule reachOutsideRange{.chain = look, .everyChain = true};

}  // namespace mellow::checks
