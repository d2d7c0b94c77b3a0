// A control that springs back to its middle comes to rest on the edge between two levels, so that the least
// tremble chooses between them.
#include <cmath>

#include "core/checks/rules.h"
#include "core/text/numbers.h"

namespace mellow::checks {

void restBetweenLevels(const Whole& whole, Findings& findings) {
    constexpr double close = 1e-9;
    forEachRunning(whole, [&](const ChainAt& at) {
        const Source source = resolved(whole.directory(), at.chain.source);
        double rest = restOf(whole.directory(), source);
        if (rest <= 0) return;
        for (const Step& step : at.chain.steps) {
            if (!step.on) continue;
            if (step.with) return;
            if (step.kind->name == "levels") {
                const double count = numberOf(step, 0);
                const double edge = std::round(rest * count);
                const bool onEdge = std::abs(rest * count - edge) < close && edge > 0 && edge < count;
                if (onEdge) {
                    findings.push_back(about(at, {}, Severity::note, Stops::nothing,
                                             "its control rests between level " + text::plain(edge) +
                                                 " and level " + text::plain(edge + 1) + " of " +
                                                 text::plain(count),
                                             "use an odd number of levels, or place the rest inside one"));
                }
                return;
            }
            rest = settledPosition(std::span(&step, 1), rest);
        }
    });
}

}  // namespace mellow::checks
