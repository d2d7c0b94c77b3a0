#include "core/describe/difference.h"

#include <algorithm>

#include "core/text/numbers.h"

namespace mellow::describe {

namespace {

using Lines = std::vector<std::string>;

/// Tells of things with ids that came, went, or are other than before. changed(was, is) says how, or nothing.
template<class List, class Changed>
void compare(const List& before, const List& after, const std::string& where, Lines& lines,
             Changed&& changed) {
    for (const auto& is : after) {
        const auto* was = findById(before, is.id);
        if (was == nullptr) {
            lines.push_back(where + nameOf(is) + " is new");
        } else if (!(*was == is)) {
            changed(*was, is);
        }
    }
    for (const auto& was : before) {
        if (findById(after, was.id) == nullptr) lines.push_back(where + nameOf(was) + " is gone");
    }
}

void compareChains(const std::vector<Chain>& before, const std::vector<Chain>& after,
                   const std::string& where, Lines& lines) {
    compare(before, after, where, lines, [&](const Chain& was, const Chain& is) {
        Chain same = is;
        same.on = was.on;
        const bool onlySwitched = same == was;
        lines.push_back(where + nameOf(is) + (!onlySwitched ? " is other" : is.on ? " is on" : " is off"));
    });
}

/// Whether an instrument differs beside its chains and parameters.
bool otherFrame(const Instrument& was, Instrument is) {
    is.chains = was.chains;
    is.parameters = was.parameters;
    return !(is == was);
}

void compareInstruments(const Instrument& was, const Instrument& is, Lines& lines) {
    const std::size_t before = lines.size();
    const std::string where = nameOf(is) + ": ";
    compareChains(was.chains, is.chains, where, lines);
    compare(was.parameters, is.parameters, where, lines, [&](const Parameter&, const Parameter& parameter) {
        lines.push_back(where + nameOf(parameter) + " is other");
    });
    if (otherFrame(was, is)) lines.push_back(where + "its input, output or name");
    if (lines.size() == before) lines.push_back(where + "another order");
}

}  // namespace

std::vector<std::string> differences(const Ensemble& before, const Ensemble& after) {
    Lines lines;
    if (before.title != after.title) lines.push_back("the title was \"" + before.title + "\"");
    compare(before.instruments, after.instruments, "", lines,
            [&](const Instrument& was, const Instrument& is) { compareInstruments(was, is, lines); });
    compareChains(before.sharedChains, after.sharedChains, "Shared: ", lines);
    const auto other = [&lines](const auto&, const auto& is) { lines.push_back(nameOf(is) + " is other"); };
    compare(before.controllers, after.controllers, "", lines, other);
    compare(before.tieLines, after.tieLines, "", lines, other);
    if (before.inHand != after.inHand) lines.emplace_back("who is in hand");
    if (!(before.tempo == after.tempo)) lines.emplace_back("the tempo");
    if (lines.empty() && !(before == after))
        lines.emplace_back("the order, or what this version does not know");
    return lines;
}

std::string differenceInShort(const Ensemble& before, const Ensemble& after) {
    constexpr std::size_t most = 3;
    Lines lines = differences(before, after);
    const std::size_t more = lines.size() - std::min(lines.size(), most);
    lines.resize(lines.size() - more);
    if (more > 0) lines.push_back(std::to_string(more) + " more");
    std::string all;
    for (const std::string& line : lines) all += (all.empty() ? "" : " · ") + line;
    return all;
}

}  // namespace mellow::describe
