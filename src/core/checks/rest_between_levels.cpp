// A control that springs back to its middle comes to rest on the edge between two levels, so that the least
// tremble chooses between them.
#include <cmath>

#include "core/checks/rules.h"
#include "core/text/numbers.h"

namespace mellow::checks {

namespace {

void look(const ChainAt& at, Findings& findings) {
    constexpr double close = 1e-9;
    const Source source = resolved(at.directory, at.chain.source);
    double rest = restOf(at.directory, source);
    if (rest <= 0) return;
    for (std::size_t s = 0; s < at.chain.steps.size(); ++s) {
        const Step& step = at.chain.steps[s];
        if (!step.on) continue;
        if (step.with) return;
        if (step.kind->name != "levels") {
            rest = settledPosition(std::span(&step, 1), rest);
            continue;
        }
        const double count = numberOf(step, 0);
        const double edge = std::round(rest * count);
        const bool onEdge = std::abs(rest * count - edge) < close && edge > 0 && edge < count;
        if (!onEdge) return;
        findings.push_back(about(at, {}, Severity::note, Stops::nothing,
                                 "its control rests between level " + text::plain(edge) + " and level " +
                                     text::plain(edge + 1) + " of " + text::plain(count),
                                 "use an odd number of levels, or place the rest inside one",
                                 {mendChain(at, "Use one level more", [s, count](Chain& chain) {
                                     const bool there =
                                         s < chain.steps.size() && chain.steps[s].kind->name == "levels";
                                     if (there) chain.steps[s].values[0] = count + 1;
                                 })}));
        return;
    }
}

}  // namespace

extern const Rule restBetweenLevels{.chain = look};

}  // namespace mellow::checks
