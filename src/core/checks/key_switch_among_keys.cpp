// A key switch on a key that is played: whoever plays the note changes the articulation too. It may lie in
// the instrument's own range, or in that of another that hears the same keys.
#include <algorithm>
#include <set>

#include "core/checks/rules.h"
#include "core/text/numbers.h"

namespace mellow::checks {

namespace {

/// Keys as a hand plays them.
struct Keys {
    int low;
    int high;
    [[nodiscard]] bool has(int key) const { return key >= low && key <= high; }
};

/// Those that an instrument takes and can play.
Keys playedBy(const Instrument& instrument) {
    const Input& input = instrument.input;
    return {std::max({input.lowKey, 0, -input.transpose}),
            std::min({input.highKey, midi::max7, midi::max7 - input.transpose})};
}

/// The keys that a hand would press for an instrument's key switches.
std::set<int> switchesOf(const Instrument& instrument) {
    std::set<int> keys;
    for (const Articulation& articulation : instrument.articulations) {
        for (const Select& select : articulation.select) {
            if (select.kind == SelectKind::note && flawOf(select).empty())
                keys.insert(select.number - instrument.input.transpose);
        }
    }
    return keys;
}

std::string listed(const std::set<int>& keys) {
    std::vector<std::string> numbers;
    for (const int key : keys) numbers.push_back(std::to_string(key));
    return (keys.size() > 1 ? "keys " : "key ") + text::listed(numbers);
}

/// The widest part of a range without some keys of it, if that is any.
std::optional<Keys> rangeWithout(const Keys& range, const std::set<int>& keys) {
    std::optional<Keys> widest;
    int from = range.low;
    const auto offer = [&](int to) {
        if (to >= from && (!widest || to - from > widest->high - widest->low)) widest = Keys{from, to};
    };
    for (const int key : keys) {
        offer(key - 1);
        from = key + 1;
    }
    offer(range.high);
    return widest;
}

std::vector<Mend> cures(const Directory& directory, std::size_t place, const std::set<int>& keys) {
    const auto rest = rangeWithout(playedBy(directory.ensemble().instruments[place]), keys);
    if (!rest) return {};
    return {mendInstrument(
        directory, place, "Play only keys " + std::to_string(rest->low) + " to " + std::to_string(rest->high),
        [rest](Instrument& instrument) {
            instrument.input.lowKey = rest->low;
            instrument.input.highKey = rest->high;
        })};
}

/// Those keys that a range has.
std::set<int> inside(const std::set<int>& keys, const Keys& range) {
    std::set<int> found;
    std::copy_if(keys.begin(), keys.end(), std::inserter(found, found.end()),
                 [&range](int key) { return range.has(key); });
    return found;
}

bool hearTheSame(const Input& one, const Input& other) {
    const bool samePort = one.port == anyPort || other.port == anyPort || one.port == other.port;
    return samePort && (!one.channel || !other.channel || one.channel == other.channel);
}

void lookAtOne(const Whole& whole, std::size_t place, const std::set<int>& keys, Findings& findings) {
    const auto& instruments = whole.ensemble().instruments;
    const Instrument& owner = instruments[place];
    if (const auto own = inside(keys, playedBy(owner)); !own.empty())
        findings.push_back(about(place, Severity::note, Stops::nothing,
                                 "its key switches on " + listed(own) +
                                     " lie among the keys that it plays, which change its articulation",
                                 "keep them out of its range", cures(whole.directory(), place, own)));
    for (std::size_t i = 0; i < instruments.size(); ++i) {
        const Instrument& other = instruments[i];
        if (i == place || !other.on || !other.pass.notes || !hearTheSame(owner.input, other.input)) continue;
        const auto theirs = inside(keys, playedBy(other));
        if (theirs.empty()) continue;
        findings.push_back(about(i, Severity::note, Stops::nothing,
                                 listed(theirs) + ", by which " + nameOf(owner) +
                                     " is told its articulation, " + (theirs.size() > 1 ? "are" : "is") +
                                     " played here too, from the same input",
                                 "keep them out of its range", cures(whole.directory(), i, theirs)));
    }
}

void look(const Whole& whole, Findings& findings) {
    const auto& instruments = whole.ensemble().instruments;
    for (std::size_t i = 0; i < instruments.size(); ++i) {
        if (!instruments[i].on || instruments[i].articulations.empty()) continue;
        const auto keys = switchesOf(instruments[i]);
        if (!keys.empty()) lookAtOne(whole, i, keys, findings);
    }
}

}  // namespace

extern const Rule keySwitchAmongKeys{.whole = look};

}  // namespace mellow::checks
