// Chains that move one another in a circle by tie lines. There is no order in which they could run, so none
// of them does.
#include <algorithm>

#include "core/checks/rules.h"
#include "core/text/numbers.h"

namespace mellow::checks {

namespace {

struct Knot {
    ChainAt at;
    std::vector<std::string> writes;
    std::vector<std::string> reads;
    std::vector<std::size_t> followers;  ///< those that read what it writes
};

std::vector<Knot> knotsOf(const Ensemble& ensemble) {
    std::vector<Knot> knots;
    forEachChain(ensemble, [&](const ChainAt& at) {
        if (!at.chain.on || (at.instrument != nullptr && !at.instrument->on)) return;
        Knot knot{at, tieLinesWritten(at.chain), tieLinesRead(at.chain), {}};
        if (!knot.writes.empty() && !knot.reads.empty()) knots.push_back(std::move(knot));
    });
    for (Knot& knot : knots) {
        for (std::size_t k = 0; k < knots.size(); ++k) {
            const auto reads = [&](const std::string& id) {
                return std::find(knots[k].reads.begin(), knots[k].reads.end(), id) != knots[k].reads.end();
            };
            if (std::any_of(knot.writes.begin(), knot.writes.end(), reads)) knot.followers.push_back(k);
        }
    }
    return knots;
}

/// A way from a knot back to itself, as places in order; empty when there is none.
std::vector<std::size_t> circleThrough(const std::vector<Knot>& knots, std::size_t start) {
    std::vector<std::size_t> cameFrom(knots.size(), knots.size());
    std::vector<std::size_t> toVisit{start};
    for (std::size_t i = 0; i < toVisit.size(); ++i) {
        for (const std::size_t next : knots[toVisit[i]].followers) {
            if (next == start) {
                std::vector<std::size_t> circle;
                for (std::size_t at = toVisit[i]; at != start; at = cameFrom[at]) circle.push_back(at);
                circle.push_back(start);
                std::reverse(circle.begin(), circle.end());
                return circle;
            }
            if (cameFrom[next] != knots.size()) continue;
            cameFrom[next] = toVisit[i];
            toVisit.push_back(next);
        }
    }
    return {};
}

}  // namespace

void circleOfTieLines(const Ensemble& ensemble, Findings& findings) {
    if (ensemble.tieLines.empty()) return;
    const std::vector<Knot> knots = knotsOf(ensemble);
    for (std::size_t k = 0; k < knots.size(); ++k) {
        const auto circle = circleThrough(knots, k);
        if (circle.empty()) continue;
        std::vector<std::string> names;
        names.reserve(circle.size());
        for (const std::size_t each : circle) names.push_back("\"" + nameOf(knots[each].at.chain) + "\"");
        const std::string what = circle.size() == 1 ? "it reads the tie line that it writes"
                                                    : "its tie lines go in a circle: " + text::listed(names);
        findings.push_back(about(knots[k].at, {}, Severity::trouble, Stops::chain, what,
                                 "let one of them read something else"));
    }
}

}  // namespace mellow::checks
