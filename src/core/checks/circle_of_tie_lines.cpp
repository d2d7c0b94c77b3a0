// Chains that move one another in a circle by tie lines. There is no order in which they could run, so none
// of them does.
#include <algorithm>
#include <map>
#include <string_view>
#include <unordered_map>

#include "core/checks/rules.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::checks {

namespace {

struct Knot {
    ChainAt at;
    std::vector<std::string> writes;
    std::vector<std::string> reads;
    std::vector<std::size_t> followers;  ///< those that read what it writes
};

std::vector<Knot> knotsOf(const Whole& whole) {
    std::vector<Knot> knots;
    forEachChain(whole.directory(), [&](const ChainAt& at) {
        if (!at.chain.on || (at.instrument != nullptr && !at.instrument->on)) return;
        const Digest& digest = whole.digest(at.place.instrument, *at.place.chain);
        if (!digest.writes.empty() && !digest.reads.empty())
            knots.push_back({at, digest.writes, digest.reads, {}});
    });
    std::unordered_map<std::string_view, std::vector<std::size_t>> readers;
    for (std::size_t k = 0; k < knots.size(); ++k) {
        for (const std::string& id : knots[k].reads) readers[id].push_back(k);
    }
    for (Knot& knot : knots) {
        for (const std::string& id : knot.writes) {
            const auto found = readers.find(id);
            if (found != readers.end())
                knot.followers.insert(knot.followers.end(), found->second.begin(), found->second.end());
        }
    }
    return knots;
}

/// Numbers the groups of knots that reach one another, by walking forward and then backward (Kosaraju and
/// Sharir, 1981): two knots are in one circle exactly when they have the same number.
std::vector<std::size_t> groupsOf(const std::vector<Knot>& knots) {
    const std::size_t none = knots.size();
    std::vector<std::vector<std::size_t>> leaders(knots.size());
    for (std::size_t k = 0; k < knots.size(); ++k) {
        for (const std::size_t follower : knots[k].followers) leaders[follower].push_back(k);
    }
    std::vector<std::size_t> finished;
    std::vector<bool> seen(knots.size(), false);
    std::vector<std::pair<std::size_t, std::size_t>> way;  // a knot, and its next follower
    for (std::size_t start = 0; start < knots.size(); ++start) {
        if (!seen[start]) way.emplace_back(start, 0);
        seen[start] = true;
        while (!way.empty()) {
            auto& [knot, next] = way.back();
            if (next == knots[knot].followers.size()) {
                finished.push_back(knot);
                way.pop_back();
                continue;
            }
            const std::size_t follower = knots[knot].followers[next++];
            if (!seen[follower]) way.emplace_back(follower, 0);
            seen[follower] = true;
        }
    }
    std::vector<std::size_t> group(knots.size(), none);
    for (auto root = finished.rbegin(); root != finished.rend(); ++root) {
        std::vector<std::size_t> toVisit;
        if (group[*root] == none) toVisit.push_back(*root);
        while (!toVisit.empty()) {
            const std::size_t knot = toVisit.back();
            toVisit.pop_back();
            if (group[knot] != none) continue;
            group[knot] = *root;
            toVisit.insert(toVisit.end(), leaders[knot].begin(), leaders[knot].end());
        }
    }
    return group;
}

/// A way from a knot back to itself among those of its group, as places in order; empty when there is none.
std::vector<std::size_t> circleThrough(const std::vector<Knot>& knots, const std::vector<std::size_t>& group,
                                       std::size_t start) {
    std::map<std::size_t, std::size_t> cameFrom;
    std::vector<std::size_t> toVisit{start};
    for (std::size_t i = 0; i < toVisit.size(); ++i) {
        for (const std::size_t next : knots[toVisit[i]].followers) {
            if (next == start) {
                std::vector<std::size_t> circle;
                for (std::size_t at = toVisit[i]; at != start; at = cameFrom.at(at)) circle.push_back(at);
                circle.push_back(start);
                std::reverse(circle.begin(), circle.end());
                return circle;
            }
            if (group[next] == group[start] && cameFrom.try_emplace(next, toVisit[i]).second)
                toVisit.push_back(next);
        }
    }
    return {};
}

void look(const Whole& whole, Findings& findings) {
    if (whole.ensemble().tieLines.empty()) return;
    constexpr std::size_t tellable = 20;
    const std::vector<Knot> knots = knotsOf(whole);
    const std::vector<std::size_t> group = groupsOf(knots);
    std::vector<std::size_t> sizes(knots.size(), 0);
    for (const std::size_t each : group) ++sizes[each];
    for (std::size_t k = 0; k < knots.size(); ++k) {
        const auto tell = [&](std::string what) {
            findings.push_back(about(knots[k].at, {}, Severity::trouble, Stops::chain, std::move(what),
                                     "let one of them read something else", {switchOff(knots[k].at)}));
        };
        const std::size_t size = sizes[group[k]];
        if (size > tellable) {
            const auto& followers = knots[k].followers;
            const auto next = std::find_if(followers.begin(), followers.end(),
                                           [&](std::size_t each) { return group[each] == group[k]; });
            tell("its tie lines go in a circle with those of " + std::to_string(size - 1) +
                 " other chains, " + text::quoted(nameOf(knots[*next].at.chain)) + " next");
            continue;
        }
        const auto circle = circleThrough(knots, group, k);
        if (circle.empty()) continue;
        std::vector<std::string> names;
        names.reserve(circle.size());
        for (const std::size_t each : circle) names.push_back(text::quoted(nameOf(knots[each].at.chain)));
        tell(circle.size() == 1 ? "it reads the tie line that it writes"
                                : "its tie lines go in a circle: " + text::listed(names));
    }
}

}  // namespace

extern const Rule circleOfTieLines{.whole = look, .stops = true};

}  // namespace mellow::checks
