// A formula that is not a number somewhere on its way: the last good value stays there, which is seldom
// meant.
#include <cmath>

#include "core/checks/rules.h"
#include "core/text/numbers.h"

namespace mellow::checks {

void formulaWithoutNumber(const Whole& whole, Findings& findings) {
    constexpr int places = 1000;
    const auto look = [&](const ChainAt& at, const std::vector<Step>& steps,
                          std::optional<std::size_t> branch) {
        for (Step step : steps) {
            if (!step.on || step.kind->name != "formula") continue;
            step.prepared.made = step.kind->prepare(step);
            for (int i = 0; i <= places; ++i) {
                const double x = static_cast<double>(i) / places;
                if (!std::isnan(step.kind->shape(step, x))) continue;
                findings.push_back(about(at, branch, Severity::note, Stops::nothing,
                                         "its formula is not a number at x = " + text::plain(x) +
                                             ", and keeps the value before there",
                                         "change the formula so that it is a number from 0 to 1"));
                break;
            }
        }
    };
    forEachRunning(whole, [&](const ChainAt& at) {
        look(at, at.chain.steps, {});
        for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
            if (at.chain.branches[b].on) look(at, at.chain.branches[b].steps, b);
        }
    });
}

}  // namespace mellow::checks
