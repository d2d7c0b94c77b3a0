#include "core/reuse/matching.h"

#include <algorithm>
#include <cctype>
#include <set>

namespace mellow::reuse {

namespace {

/// Names alike to a person: letters and digits, whatever their case.
std::string folded(std::string_view name) {
    std::string letters;
    for (const char c : name) {
        const auto byte = static_cast<unsigned char>(c);
        if (byte >= 0x80 || std::isalnum(byte) != 0) letters += static_cast<char>(std::tolower(byte));
    }
    return letters;
}

template<class Thing>
bool sameName(const Thing& one, const Thing& other) {
    return folded(nameOf(one)) == folded(nameOf(other));
}

bool sameMessage(const Message& one, const Message& other) {
    return one.kind == other.kind && one.number == other.number && one.address == other.address &&
           one.bank == other.bank;
}

template<class Thing>
By likeness(const Thing& one, const Thing& other) {
    const bool name = sameName(one, other);
    const bool message = sameMessage(one.message, other.message);
    return name && message ? By::both : name ? By::name : message ? By::message : By::nothing;
}

template<class Thing>
Matches match(const std::vector<Thing>& wanted, const std::vector<Thing>& there) {
    Matches matches;
    for (const Thing& thing : wanted) matches.push_back({thing.id, std::nullopt, true, By::nothing});
    std::set<std::string> taken;
    for (const By by : {By::both, By::name, By::message}) {
        for (std::size_t i = 0; i < wanted.size(); ++i) {
            if (matches[i].to) continue;
            const auto found = std::find_if(there.begin(), there.end(), [&](const Thing& other) {
                return !taken.contains(other.id) && likeness(wanted[i], other) == by;
            });
            if (found == there.end()) continue;
            matches[i] = {wanted[i].id, found->id, false, by};
            taken.insert(found->id);
        }
    }
    return matches;
}

}  // namespace

Matches matchParameters(const std::vector<Parameter>& wanted, const std::vector<Parameter>& there) {
    return match(wanted, there);
}

Matches matchControls(const std::vector<ControllerControl>& wanted,
                      const std::vector<ControllerControl>& there) {
    return match(wanted, there);
}

const Match* find(const Matches& matches, std::string_view from) {
    const auto found = std::find_if(matches.begin(), matches.end(),
                                    [from](const Match& match) { return match.from == from; });
    return found == matches.end() ? nullptr : &*found;
}

bool isComplete(const Matches& matches) {
    return std::all_of(matches.begin(), matches.end(),
                       [](const Match& match) { return match.to.has_value(); });
}

}  // namespace mellow::reuse
