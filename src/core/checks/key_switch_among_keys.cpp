// A key switch on a key that is played: whoever plays the note changes the articulation too. It may lie in
// the instrument's own range, or in those of others that hear the same keys; it is told once, where the
// switch is.
#include <algorithm>
#include <array>
#include <map>
#include <set>

#include "core/checks/rules.h"
#include "core/midi/names.h"
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
    std::vector<std::string> names;
    for (const int key : keys) names.push_back(midi::keyName(key));
    return (keys.size() > 1 ? "keys " : "key ") + text::listed(names);
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

/// Places in the list of instruments that play some of an instrument's switches, itself among them.
std::vector<std::size_t> playersOf(const Whole& whole, std::size_t place, const std::set<int>& keys) {
    const auto& instruments = whole.ensemble().instruments;
    const Instrument& owner = instruments[place];
    std::vector<std::size_t> players;
    for (std::size_t i = 0; i < instruments.size(); ++i) {
        const Instrument& other = instruments[i];
        const bool hears =
            i == place || (other.on && other.pass.notes && hearTheSame(owner.input, other.input));
        if (hears && !inside(keys, playedBy(other)).empty()) players.push_back(i);
    }
    return players;
}

/// Keys that nobody plays who hears what the owner hears, and that switch nothing there: as many as are
/// wanted, next to one another below what is played, or above it; empty: there are none.
std::vector<int> freeKeys(const Whole& whole, std::size_t place, std::size_t count) {
    const auto& instruments = whole.ensemble().instruments;
    const Instrument& owner = instruments[place];
    std::array<bool, 128> taken{};
    for (std::size_t i = 0; i < instruments.size(); ++i) {
        const Instrument& other = instruments[i];
        if (i != place && (!other.on || !hearTheSame(owner.input, other.input))) continue;
        const Keys played = playedBy(other);
        for (int key = std::max(0, played.low); key <= std::min(midi::max7, played.high); ++key)
            taken.at(static_cast<std::size_t>(key)) = other.pass.notes || i == place;
        if (i == place) continue;
        for (const int key : switchesOf(other)) {
            if (key >= 0 && key <= midi::max7) taken.at(static_cast<std::size_t>(key)) = true;
        }
    }
    std::vector<int> keys;
    const auto fits = [&](int first) {
        for (int key = first; key < first + static_cast<int>(count); ++key) {
            const int sent = key + owner.input.transpose;
            if (key < 0 || key > midi::max7 || sent < 0 || sent > midi::max7) return false;
            if (taken.at(static_cast<std::size_t>(key))) return false;
        }
        return true;
    };
    const auto take = [&](int first) {
        for (int key = first; key < first + static_cast<int>(count); ++key) keys.push_back(key);
    };
    const int low = playedBy(owner).low;
    for (int first = low - static_cast<int>(count); first >= 0 && keys.empty(); --first) {
        if (fits(first)) take(first);
    }
    for (int first = low; first <= midi::max7 && keys.empty(); ++first) {
        if (fits(first)) take(first);
    }
    return keys;
}

/// All of an instrument's switches move to free keys, in their order; whatever chooses articulations by name,
/// such as the tiles of the desk, goes on choosing them.
std::optional<Mend> moveSwitches(const Whole& whole, std::size_t place, const std::set<int>& switches) {
    const std::vector<int> keys = freeKeys(whole, place, switches.size());
    if (keys.empty()) return std::nullopt;
    std::map<int, int> moved;
    for (const int key : switches) moved.emplace(key, keys[moved.size()]);
    return mendInstrument(
        whole.directory(), place,
        "Move the switches to " + midi::keyName(keys.front()) + (keys.size() > 1 ? " and up" : ""),
        [moved](Instrument& instrument) {
            const int transpose = instrument.input.transpose;
            for (Articulation& articulation : instrument.articulations) {
                for (Select& select : articulation.select) {
                    const auto to = moved.find(select.number - transpose);
                    if (select.kind == SelectKind::note && to != moved.end())
                        select.number = to->second + transpose;
                }
            }
        });
}

/// Everybody who plays the switches plays only the widest part of the range without them.
std::optional<Mend> keepOut(const Whole& whole, const std::vector<std::size_t>& players,
                            const std::set<int>& switches) {
    std::vector<std::pair<std::string, Keys>> ranges;
    for (const std::size_t player : players) {
        const Instrument& instrument = whole.ensemble().instruments[player];
        const auto rest = rangeWithout(playedBy(instrument), inside(switches, playedBy(instrument)));
        if (!rest) return std::nullopt;
        ranges.emplace_back(instrument.id, *rest);
    }
    const Keys& first = ranges.front().second;
    const std::string label =
        ranges.size() > 1 ? "Keep them out of what is played"
                          : "Play only " + midi::keyName(first.low) + " to " + midi::keyName(first.high);
    return Mend{label, [ranges](Ensemble& ensemble) {
                    for (const auto& [id, range] : ranges) {
                        Instrument* instrument = findById(ensemble.instruments, id);
                        if (instrument == nullptr) continue;
                        instrument->input.lowKey = range.low;
                        instrument->input.highKey = range.high;
                    }
                }};
}

/// One cause, one finding: where the switches are, whoever plays them.
void lookAtOne(const Whole& whole, std::size_t place, const std::set<int>& switches, Findings& findings) {
    const std::vector<std::size_t> players = playersOf(whole, place, switches);
    if (players.empty()) return;
    std::set<int> played;
    std::vector<std::string> others;
    for (const std::size_t player : players) {
        const Instrument& instrument = whole.ensemble().instruments[player];
        played.merge(inside(switches, playedBy(instrument)));
        if (player != place) others.push_back(nameOf(instrument));
    }
    const bool own = players.size() > others.size();
    constexpr std::size_t most = 3;
    if (others.size() > most) {
        const std::size_t more = others.size() - (most - 1);
        others.resize(most - 1);
        others.push_back(std::to_string(more) + " more");
    }
    if (own) others.insert(others.begin(), "it");
    const std::string verb = players.size() > 1 ? " play" : " plays";
    std::vector<Mend> mends;
    if (auto move = moveSwitches(whole, place, switches)) mends.push_back(std::move(*move));
    if (auto keep = keepOut(whole, players, switches)) mends.push_back(std::move(*keep));
    findings.push_back(about(place, Severity::note, Stops::nothing,
                             "its key switches on " + listed(played) + " lie among the keys that " +
                                 text::listed(others) + verb + ", so playing changes its articulation",
                             "move them, or keep them out of the range", std::move(mends)));
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
