// A formula that is not a number somewhere on its way: the last good value stays there, which is seldom
// meant.
#include <cmath>

#include "core/checks/rules.h"
#include "core/text/numbers.h"

namespace mellow::checks {

namespace {

void lookAt(const ChainAt& at, const std::vector<Step>& steps, std::optional<std::size_t> branch,
            Findings& findings) {
    constexpr int places = 1000;
    for (Step step : steps) {
        if (!step.on || step.kind->name != "formula") continue;
        step.prepared.made = step.kind->prepare(step);
        for (int i = 0; i <= places; ++i) {
            const double x = static_cast<double>(i) / places;
            if (!std::isnan(step.kind->shape(step, x))) continue;
            findings.push_back(about(
                at, branch, Severity::note, Stops::nothing,
                "its formula is not a number at x = " + text::plain(x) + ", and keeps the value before there",
                "change the formula so that it is a number from 0 to 1"));
            break;
        }
    }
}

void look(const ChainAt& at, Findings& findings) {
    lookAt(at, at.chain.steps, {}, findings);
    for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
        if (at.chain.branches[b].on) lookAt(at, at.chain.branches[b].steps, b, findings);
    }
}

}  // namespace

extern const Rule formulaWithoutNumber{.chain = look};

}  // namespace mellow::checks
