#include "core/compare/compare.h"

#include <algorithm>
#include <deque>
#include <memory>
#include <set>
#include <type_traits>
#include <unordered_map>

#include "core/compare/words.h"
#include "core/describe/sentence.h"
#include "core/model/alike.h"
#include "core/model/ensemble_keys.h"
#include "core/model/resolve.h"
#include "core/steps/step.h"
#include "core/text/numbers.h"

namespace mellow::compare {

namespace {

/// Finds a thing in an ensemble; nullptr where it is no more.
template<class Thing>
using Find = std::function<Thing*(Ensemble&)>;

constexpr const char* becomes = " → ";

template<class T>
struct IsList : std::false_type {};
template<class T>
struct IsList<std::vector<T>> : std::true_type {
    using Element = T;
};
template<class T>
struct IsList<SharedList<T>> : std::true_type {
    using Element = T;
};
template<class T>
struct IsOptional : std::false_type {};
template<class T>
struct IsOptional<std::optional<T>> : std::true_type {};

template<class T>
concept Identified = requires(const T& thing) {
    thing.id;
    thing.name;
};
template<class List>
concept IdentifiedList = IsList<List>::value && Identified<typename IsList<List>::Element>;

/// How the things of a list are known again: by id, and branches by what they lead to, the how manieth time.
template<class Thing>
std::string keyOf(const Thing& thing) {
    if constexpr (std::is_same_v<Thing, Branch>) {
        return thing.target;
    } else {
        return thing.id;
    }
}

template<class List>
std::vector<std::string> keysOf(const List& list) {
    std::vector<std::string> keys;
    std::map<std::string, int> seen;
    for (const auto& each : list) {
        const std::string key = keyOf(each);
        keys.push_back(key + "\n" + std::to_string(seen[key]++));
    }
    return keys;
}

/// Where each key stands; a key that is nowhere stands behind all.
class Places {
 public:
    explicit Places(const std::vector<std::string>& keys) : size_(keys.size()) {
        for (std::size_t i = 0; i < keys.size(); ++i) places_.emplace(keys[i], i);
    }
    template<class List>
    static Places of(const List& list) {
        return Places(keysOf(list));
    }
    [[nodiscard]] std::size_t at(const std::string& key) const {
        const auto found = places_.find(key);
        return found == places_.end() ? size_ : found->second;
    }
    [[nodiscard]] bool has(const std::string& key) const { return places_.contains(key); }

 private:
    std::unordered_map<std::string, std::size_t> places_;
    std::size_t size_;
};

/// The thing of a key in a list that may be changed.
template<class List>
auto* thingOf(List& list, const std::string& key) {
    const std::size_t place = Places::of(std::as_const(list)).at(key);
    using Pointer = decltype(&list[place]);
    return place < list.size() ? &list[place] : Pointer{};
}

class Comparer {
 public:
    Comparer(const Ensemble& before, const Ensemble& after) : before_(before), after_(after) {}

    std::vector<Difference> compareAll() {
        group_ = "Ensemble";
        const Find<Ensemble> whole = [](Ensemble& ensemble) { return &ensemble; };
        thing(before_, after_, whole, "");
        joinMoved();
        return std::move(all_);
    }

 private:
    void say(Kind kind, std::string words, std::function<void(Ensemble&)> take) {
        all_.push_back({kind, group_, std::move(words), std::move(take)});
    }

    /// Walks through a described thing, key by key.
    template<Described Thing>
    void thing(const Thing& was, const Thing& is, const Find<Thing>& find, const std::string& before) {
        if (was == is) return;
        forEachKey<Thing>([&](const auto& key) { this->key(was, is, find, before, key); });
        if constexpr (requires { was.extras; }) {
            if (was.extras != is.extras) {
                say(Kind::changed, before + "what this version does not know",
                    [find, extras = is.extras](Ensemble& to) {
                        if (Thing* at = find(to)) at->extras = extras;
                    });
            }
        }
    }

    template<class Thing>
    void key(const Thing& was, const Thing& is, const Find<Thing>& find, const std::string& before,
             const PairKey<Thing>& key) {
        if (was.*key.first == is.*key.first && was.*key.second == is.*key.second) return;
        const auto words = [&key](const Thing& thing) {
            return valueWords(std::array<int, 2>{thing.*key.first, thing.*key.second});
        };
        say(Kind::changed, before + keyWords(key.name) + " " + words(was) + becomes + words(is),
            [find, key, first = is.*key.first, second = is.*key.second](Ensemble& to) {
                Thing* at = find(to);
                if (at == nullptr) return;
                at->*key.first = first;
                at->*key.second = second;
            });
    }

    template<class Thing, class Member>
    void key(const Thing& was, const Thing& is, const Find<Thing>& find, const std::string& before,
             const Key<Thing, Member>& key) {
        const Member& a = was.*key.member;
        const Member& b = is.*key.member;
        if (a == b) return;
        const Find<Member> inside = [find, member = key.member](Ensemble& to) -> Member* {
            Thing* at = find(to);
            return at == nullptr ? nullptr : &(at->*member);
        };
        if constexpr (std::is_same_v<Thing, Ensemble>) {
            group_ = groupOf(key.name);
            owner_.clear();
        }
        if constexpr (std::is_same_v<Member, std::vector<Branch>>) {
            branches(a, b, inside, before);
        } else if constexpr (std::is_same_v<Member, std::vector<Step>>) {
            steps(a, b, inside, before);
        } else if constexpr (IdentifiedList<Member>) {
            list(a, b, inside, before);
        } else if constexpr (Described<Member> && !std::is_same_v<Member, Message> &&
                             !std::is_same_v<Member, BranchWindow> && !std::is_same_v<Member, Fan>) {
            thing(a, b, inside, key.name == "desk" ? before : before + keyWords(key.name) + " ");
        } else {
            if constexpr (std::is_same_v<Thing, Branch>) {
                // Both ends are one thing to say, at the first that differs.
                if (key.name == "low") return reach(was, is, find, before);
                if (key.name == "high") return was.low == is.low ? reach(was, is, find, before) : void();
            }
            say(Kind::changed, before + sentence(key, a, b), [inside, b](Ensemble& to) {
                if (Member* at = inside(to)) *at = b;
            });
        }
    }

    /// What is said of a value that is another.
    template<class Thing, class Member>
    std::string sentence(const Key<Thing, Member>& key, const Member& a, const Member& b) {
        const std::string name = keyWords(key.name);
        if constexpr (std::is_same_v<Member, bool>) {
            if (key.name == "on") return b ? "switched on" : "switched off";
        }
        if (key.name == "name") return "is called " + words(key, b);
        const std::string first = words(key, a);
        const std::string second = words(key, b);
        return first == second ? name + " is other" : name + " " + first + becomes + second;
    }

    template<class Thing, class Member, class Value>
    std::string words(const Key<Thing, Member>& key, const Value& value) {
        if constexpr (IsOptional<Value>::value) {
            return value ? words(key, *value) : std::string("nothing said");
        } else if constexpr (std::is_same_v<Value, Source>) {
            return describe::sourceName(after_, value);
        } else if constexpr (std::is_same_v<Value, Fan>) {
            return value.mode == FanMode::chosen && value.by
                       ? "chosen by " + describe::sourceName(after_, *value.by)
                       : std::string("all");
        } else if constexpr (std::is_enum_v<Value>) {
            return enumeratorWords(key.words, value);
        } else {
            return valueWords(value);
        }
    }

    void reach(const Branch& was, const Branch& is, const Find<Branch>& find, const std::string& before) {
        say(Kind::changed, before + reachWords(before_, was) + becomes + reachWords(after_, is),
            [find, low = is.low, high = is.high](Ensemble& to) {
                Branch* at = find(to);
                if (at == nullptr) return;
                at->low = low;
                at->high = high;
            });
    }
    [[nodiscard]] std::string reachWords(const Ensemble& ensemble, const Branch& branch) const {
        const Instrument* owner = owner_.empty() ? nullptr : findById(ensemble.instruments, owner_);
        const Target target = targetOf(ensemble, owner, branch.target);
        return target.exists() ? describe::reachWords(ensemble, target, branch)
                               : valueWords(branch.low) + text::dash + valueWords(branch.high);
    }
    [[nodiscard]] std::string targetName(const Ensemble& ensemble, const Branch& branch) const {
        const Instrument* owner = owner_.empty() ? nullptr : findById(ensemble.instruments, owner_);
        const Target target = targetOf(ensemble, owner, branch.target);
        return target.exists() ? mellow::nameOf(target, owner == nullptr) : branch.target;
    }

    template<class Thing>
    [[nodiscard]] std::string nameIn(const Ensemble& ensemble, const Thing& thing) const {
        if constexpr (std::is_same_v<Thing, Branch>) {
            return targetName(ensemble, thing);
        } else {
            (void)ensemble;
            return mellow::nameOf(thing);
        }
    }

    /// A list of things that are known again.
    template<class List>
    void list(const List& was, const List& is, const Find<List>& find, const std::string& before) {
        using Thing = typename List::value_type;
        const std::vector<std::string> wasKeys = keysOf(was);
        const std::vector<std::string> isKeys = keysOf(is);
        const Places wasPlaces(wasKeys);
        const Places isPlaces(isKeys);
        const auto within = [&](const Ensemble& ensemble, const Thing& thing, const std::string& verb) {
            return before + nameIn(ensemble, thing) + verb;
        };
        // From the end, so that of things with one key the others keep their count.
        for (std::size_t i = was.size(); i-- > 0;) {
            if (isPlaces.has(wasKeys[i])) continue;
            remember(Kind::removed, was[i]);
            say(Kind::removed, within(before_, was[i], " is gone"), [find, key = wasKeys[i]](Ensemble& to) {
                List* at = find(to);
                if (at == nullptr) return;
                const std::size_t place = Places::of(std::as_const(*at)).at(key);
                if (place < at->size()) at->erase(at->begin() + static_cast<std::ptrdiff_t>(place));
            });
        }
        for (std::size_t i = 0; i < is.size(); ++i) {
            const std::size_t there = wasPlaces.at(isKeys[i]);
            if (there < was.size()) {
                enter(is[i]);
                const Find<Thing> inside = [find, key = isKeys[i]](Ensemble& to) -> Thing* {
                    List* at = find(to);
                    return at == nullptr ? nullptr : thingOf(*at, key);
                };
                thing(std::as_const(was)[there], is[i], inside, beforeOf(std::as_const(was)[there], before));
                continue;
            }
            leave<Thing>();
            remember(Kind::added, is[i]);
            say(Kind::added, within(after_, is[i], " is new"),
                [find, made = is[i], behind = i == 0 ? std::string() : isKeys[i - 1],
                 key = isKeys[i]](Ensemble& to) {
                    List* at = find(to);
                    if (at == nullptr) return;
                    const Places places = Places::of(std::as_const(*at));
                    if (places.has(key)) return;
                    const std::size_t place = behind.empty() ? 0 : places.at(behind) + 1;
                    at->insert(at->begin() + static_cast<std::ptrdiff_t>(std::min(place, at->size())), made);
                });
        }
        leave<Thing>();
        order(wasKeys, isKeys, find, before);
    }

    /// Another order of what both have.
    template<class List>
    void order(std::vector<std::string> was, std::vector<std::string> is, const Find<List>& find,
               const std::string& before) {
        const std::vector<std::string> wanted = is;
        const Places had(was);
        const Places has(is);
        std::erase_if(was, [&](const std::string& key) { return !has.has(key); });
        std::erase_if(is, [&](const std::string& key) { return !had.has(key); });
        if (was == is) return;
        say(Kind::moved, before + "another order", [find, wanted](Ensemble& to) {
            List* at = find(to);
            if (at == nullptr) return;
            const std::vector<std::string> keys = keysOf(std::as_const(*at));
            const Places ranked(wanted);
            std::vector<std::size_t> places(keys.size());
            for (std::size_t i = 0; i < places.size(); ++i) places[i] = i;
            // What is in no place of the other stays behind what stood before it.
            std::vector<std::size_t> ranks;
            std::size_t last = 0;
            for (const std::string& key : keys) {
                const std::size_t place = ranked.at(key);
                last = place < wanted.size() ? place : last;
                ranks.push_back(last);
            }
            std::stable_sort(places.begin(), places.end(),
                             [&ranks](std::size_t a, std::size_t b) { return ranks[a] < ranks[b]; });
            List sorted;
            for (const std::size_t place : places) {
                if constexpr (requires { sorted.share(*at, place); }) {
                    sorted.share(*at, place);
                } else {
                    sorted.push_back(std::move((*at)[place]));
                }
            }
            *at = std::move(sorted);
        });
    }

    /// Branches are known by what they lead to, unless as many stand there as before and some lead elsewhere.
    void branches(const std::vector<Branch>& was, const std::vector<Branch>& is,
                  const Find<std::vector<Branch>>& find, const std::string& before) {
        std::vector<std::string> wasKeys = keysOf(was);
        std::vector<std::string> isKeys = keysOf(is);
        std::sort(wasKeys.begin(), wasKeys.end());
        std::sort(isKeys.begin(), isKeys.end());
        if (was.size() != is.size() || wasKeys == isKeys) return list(was, is, find, before);
        for (std::size_t i = 0; i < is.size(); ++i) {
            const Find<Branch> inside = [find, i](Ensemble& to) -> Branch* {
                std::vector<Branch>* at = find(to);
                return at == nullptr || i >= at->size() ? nullptr : &(*at)[i];
            };
            thing(was[i], is[i], inside, before + nameIn(after_, is[i]) + " ");
        }
    }

    /// Steps of the same kinds in the same order are compared one by one; others are another way altogether.
    void steps(const std::vector<Step>& was, const std::vector<Step>& is, const Find<std::vector<Step>>& find,
               const std::string& before) {
        const auto sameKind = [](const Step& a, const Step& b) { return a.kind == b.kind; };
        if (!std::equal(was.begin(), was.end(), is.begin(), is.end(), sameKind)) {
            const auto words = [](const std::vector<Step>& all) {
                std::string said;
                for (const Step& step : all)
                    said += (said.empty() ? "" : ", ") + describe::stepLabel(step, 0);
                return said.empty() ? std::string("no steps") : said;
            };
            return say(Kind::changed, before + words(was) + becomes + words(is), [find, is](Ensemble& to) {
                if (std::vector<Step>* at = find(to)) *at = is;
            });
        }
        for (std::size_t i = 0; i < is.size(); ++i) {
            if (was[i] == is[i]) continue;
            std::string a = stepWords(was[i], is[i]);
            std::string b = stepWords(is[i], was[i]);
            if (was[i].with != is[i].with) {
                a += (a.empty() ? "" : ", ") + secondWords(before_, was[i]);
                b += (b.empty() ? "" : ", ") + secondWords(after_, is[i]);
            }
            const std::string label(is[i].kind->label);
            say(Kind::changed, before + label + (a == b ? std::string(" is other") : " " + a + becomes + b),
                [find, i, step = is[i]](Ensemble& to) {
                    std::vector<Step>* at = find(to);
                    if (at != nullptr && i < at->size() && (*at)[i].kind == step.kind) (*at)[i] = step;
                });
        }
    }
    static std::string secondWords(const Ensemble& ensemble, const Step& step) {
        return step.with ? "with " + describe::sourceName(ensemble, *step.with) : "with nothing";
    }

    static std::string groupOf(std::string_view key) {
        static const std::map<std::string_view, std::string> groups{{"controllers", "Controllers"},
                                                                    {"tieLines", "Tie lines"},
                                                                    {"sharedChains", "Shared chains"},
                                                                    {"sections", "Sections"},
                                                                    {"takes", "Takes"},
                                                                    {"measurements", "Measurements"},
                                                                    {"desk", "Desk"}};
        const auto found = groups.find(key);
        return found == groups.end() ? "Ensemble" : found->second;
    }

    /// What is said from now on is said of this thing.
    template<class Thing>
    void enter(const Thing& thing) {
        if constexpr (std::is_same_v<Thing, Instrument>) {
            group_ = mellow::nameOf(thing);
            owner_ = thing.id;
        }
    }
    /// What is said from now on is said of the ensemble, where this is one of its instruments.
    template<class Thing>
    void leave() {
        if constexpr (std::is_same_v<Thing, Instrument>) {
            group_ = "Ensemble";
            owner_.clear();
        }
    }
    template<class Thing>
    std::string beforeOf(const Thing& thing, const std::string& before) {
        if constexpr (std::is_same_v<Thing, Instrument>) {
            return before;
        } else if constexpr (std::is_same_v<Thing, Branch>) {
            return before + nameIn(after_, thing) + " ";
        } else {
            return before + mellow::nameOf(thing) + ": ";
        }
    }

    /// Chains that went and came, to see which of them only moved.
    struct Wandered {
        std::size_t difference;
        Kind kind;
        Chain chain;
    };
    template<class Thing>
    void remember(Kind kind, const Thing& thing) {
        if constexpr (std::is_same_v<Thing, Chain>) wandered_.push_back({all_.size(), kind, thing});
    }

    /// A chain that is gone in one place and the same in another has moved there, or has another name.
    void joinMoved() {
        std::unordered_map<std::size_t, std::deque<const Wandered*>> come;
        for (const Wandered& each : wandered_) {
            if (each.kind == Kind::added) come[digestOf(each.chain)].push_back(&each);
        }
        std::set<std::size_t> dropped;
        for (const Wandered& from : wandered_) {
            const auto among = come.find(digestOf(from.chain));
            if (from.kind != Kind::removed || among == come.end()) continue;
            const auto to =
                std::find_if(among->second.begin(), among->second.end(),
                             [&](const Wandered* each) { return isAlike(each->chain, from.chain); });
            if (to == among->second.end()) continue;
            join(all_[from.difference], all_[(*to)->difference], from.chain, (*to)->chain);
            dropped.insert(from.difference);
            among->second.erase(to);
        }
        std::size_t place = 0;
        std::erase_if(all_, [&](const Difference&) { return dropped.contains(place++); });
    }
    static void join(const Difference& from, Difference& to, const Chain& was, const Chain& is) {
        const bool inside = from.group == to.group;
        to.words =
            mellow::nameOf(was) +
            (inside ? " is called " + mellow::nameOf(is)
                    : " has come from " + from.group +
                          (mellow::nameOf(was) == mellow::nameOf(is) ? "" : ", as " + mellow::nameOf(is)));
        to.kind = inside ? Kind::changed : Kind::moved;
        to.take = [leave = from.take, come = to.take](Ensemble& ensemble) {
            leave(ensemble);
            come(ensemble);
        };
    }

    const Ensemble& before_;
    const Ensemble& after_;
    std::string group_;
    std::string owner_;
    std::vector<Difference> all_;
    std::vector<Wandered> wandered_;
};

}  // namespace

std::vector<Difference> differences(const Ensemble& before, const Ensemble& after) {
    return Comparer(before, after).compareAll();
}

std::string inShort(const std::vector<Difference>& all) {
    constexpr std::size_t most = 3;
    std::string line;
    for (std::size_t i = 0; i < std::min(most, all.size()); ++i) {
        const bool whole = all[i].group == "Ensemble";
        line += (line.empty() ? "" : " · ") + (whole ? "" : all[i].group + ": ") + all[i].words;
    }
    if (all.size() > most) line += " · " + std::to_string(all.size() - most) + " more";
    return line;
}

std::string_view nameOf(Kind kind) {
    static constexpr std::array<std::string_view, 4> names{"added", "removed", "changed", "moved"};
    return names.at(static_cast<std::size_t>(kind));
}

}  // namespace mellow::compare
