#include "core/engine/order.h"

#include <algorithm>
#include <map>

#include "core/model/resolve.h"

namespace mellow::engine {

std::vector<std::string> tieLinesWritten(const Chain& chain) {
    std::vector<std::string> ids;
    for (const Branch& branch : chain.branches) {
        const auto line = tieLineOf(branch.target);
        if (branch.on && line) ids.push_back(*line);
    }
    return ids;
}

std::vector<std::string> tieLinesRead(const Chain& chain) {
    std::vector<std::string> ids;
    forEachSource(chain, [&ids](const Source& source) {
        if (source.kind == SourceKind::tieLine) ids.push_back(source.tieLine);
    });
    return ids;
}

std::vector<std::size_t> runningOrder(const std::vector<Chain>& chains, const std::vector<bool>& runs) {
    std::vector<std::size_t> left;
    std::map<std::string, int> writersLeft;
    for (std::size_t c = 0; c < chains.size(); ++c) {
        if (!runs[c]) continue;
        left.push_back(c);
        for (const std::string& id : tieLinesWritten(chains[c])) ++writersLeft[id];
    }
    if (writersLeft.empty()) return left;
    std::vector<std::size_t> order;
    const auto isFree = [&](std::size_t c) {
        const auto written = tieLinesWritten(chains[c]);
        const auto waits = [&](const std::string& id) {
            const auto own = std::count(written.begin(), written.end(), id);
            const auto found = writersLeft.find(id);
            return found != writersLeft.end() && found->second > own;
        };
        const auto read = tieLinesRead(chains[c]);
        return std::none_of(read.begin(), read.end(), waits);
    };
    while (!left.empty()) {
        auto next = std::find_if(left.begin(), left.end(), isFree);
        if (next == left.end()) next = left.begin();
        for (const std::string& id : tieLinesWritten(chains[*next])) --writersLeft[id];
        order.push_back(*next);
        left.erase(next);
    }
    return order;
}

}  // namespace mellow::engine
