// In order: what is new gets a record, circles say what they stop, chains are told of as they run or do not,
// and whole rules look. Then all findings are collected, given their places in words, sorted, and what two
// branches brought up in the same words is told once.
#include "core/checks/checker.h"

#include <algorithm>
#include <set>
#include <string_view>
#include <tuple>
#include <unordered_map>
#include <unordered_set>
#include <utility>

#include "core/checks/rules.h"
#include "core/model/change.h"

namespace mellow {

using checks::ChainAt;
using checks::Digest;
using checks::InstrumentAt;
using checks::Rule;
using checks::rules;

namespace {

/// What is known of a chain. What was found has no place in words yet, which may change while the chain
/// stays.
struct ChainRecord {
    Findings stopping;        ///< by what stops
    Findings told;            ///< by what only tells
    bool looked = false;      ///< told is worked out
    bool toldRunning = true;  ///< of a chain that runs
    StoppedChain stopped;     ///< by itself, or switched off
    Digest digest;
};

/// What is known of an instrument, or of the shared chains.
struct Record {
    const Instrument* written = nullptr;  ///< in the ensemble that is kept; null: the shared chains
    std::string name;                     ///< as people are told it
    std::vector<ChainRecord> chains;
    std::vector<bool> runs;  ///< by chain
    Findings wide;           ///< by what looks at all of an instrument
    Findings shown;          ///< all of it, in order, with places in words
    bool isStale = true;     ///< shown is not what it would be now
    bool hasMore = false;    ///< shown has findings of whole rules
    bool hearsPairs = false;
};

/// Asks a rule, and marks what it finds as the rule's.
template<class Ask>
void ask(std::size_t rule, Findings& findings, Ask&& asks) {
    const std::size_t before = findings.size();
    asks(*rules()[rule]);
    for (std::size_t f = before; f < findings.size(); ++f) findings[f].rule = rule;
}

/// Calls look(at) with the chain as it runs, without branches that are stopped.
template<class Look>
auto asItRuns(const ChainAt& at, const StoppedChain& stopped, Look&& look) {
    if (stopped.branches.empty()) return look(at);
    const Chain running = mellow::asItRuns(at.chain, stopped);
    return look(ChainAt{at.directory, at.instrument, running, at.place});
}

ChainRecord recordOf(const ChainAt& at) {
    ChainRecord record;
    for (std::size_t r = 0; r < rules().size(); ++r) {
        ask(r, record.stopping, [&](const Rule& rule) {
            if (rule.stops && rule.chain != nullptr) rule.chain(at, record.stopping);
        });
    }
    record.stopped.whole = !at.chain.on;
    for (const Finding& finding : record.stopping) record.stopped.add(finding);
    const auto digest = [](const ChainAt& running) { return digestOf(running); };
    record.digest = asItRuns(at, record.stopped, digest);
    return record;
}

bool leavesSome(const Chain& chain, const StoppedChain& stopped) {
    const Chain running = mellow::asItRuns(chain, stopped);
    return std::any_of(running.branches.begin(), running.branches.end(),
                       [](const Branch& branch) { return branch.on; });
}

/// What is to be told of a chain.
void tell(const ChainAt& at, bool runs, ChainRecord& record) {
    record.looked = true;
    record.toldRunning = runs;
    record.told.clear();
    // One all of whose branches are stopped has been told of.
    const bool playsOn = runs && (record.stopped.branches.empty() || leavesSome(at.chain, record.stopped));
    asItRuns(at, record.stopped, [&](const ChainAt& running) {
        for (std::size_t r = 0; r < rules().size(); ++r) {
            ask(r, record.told, [&](const Rule& rule) {
                if (rule.chain == nullptr || rule.stops) return;
                if (rule.everyChain) {
                    rule.chain(at, record.told);
                } else if (playsOn) {
                    rule.chain(running, record.told);
                }
            });
        }
    });
}

Findings wideOf(const InstrumentAt& at) {
    Findings wide;
    for (std::size_t r = 0; r < rules().size(); ++r) {
        ask(r, wide, [&](const Rule& rule) {
            if (rule.instrument != nullptr) rule.instrument(at, wide);
        });
    }
    return wide;
}

/// Marks what findings stop.
void stop(const Findings& findings, std::vector<Record>& records, Record& shared) {
    for (const Finding& finding : findings) {
        const Place& place = finding.place;
        Record& owner = place.instrument ? records[*place.instrument] : shared;
        if (finding.stops == Stops::chain && place.chain) owner.runs[*place.chain] = false;
        if (finding.stops == Stops::instrument) owner.runs.assign(owner.runs.size(), false);
    }
}

/// Within one owner: troubles first, each in document order, then in the order of rules.
auto order(const Finding& finding) {
    const auto rank = [](const std::optional<std::size_t>& index) { return index ? *index + 1 : 0; };
    return std::tuple{finding.severity == Severity::note, rank(finding.place.chain),
                      rank(finding.place.branch), finding.rule};
}

void sort(Findings& findings) {
    std::stable_sort(findings.begin(), findings.end(),
                     [](const Finding& a, const Finding& b) { return order(a) < order(b); });
}

/// What a rule found twice in one place (two branches that lead to one faulty parameter) is told once.
void removeRepeats(Findings& findings) {
    std::set<std::tuple<std::string_view, std::string_view>> seen;
    std::vector<bool> isNew(findings.size());
    for (std::size_t i = 0; i < findings.size(); ++i)
        isNew[i] = seen.insert({findings[i].problem.where, findings[i].problem.what}).second;
    std::size_t i = 0;
    std::erase_if(findings, [&](const Finding&) { return !isNew[i++]; });
}

bool hearsPairs(const Record& record) {
    return std::any_of(record.chains.begin(), record.chains.end(), [](const ChainRecord& chain) {
        return std::any_of(chain.digest.controls.begin(), chain.digest.controls.end(),
                           [](const auto& control) { return control.first == SourceKind::cc14; });
    });
}

/// The names of instruments as people are told them: with the id behind where several have one name.
std::vector<std::string> namesOf(const SharedList<Instrument>& instruments) {
    std::unordered_map<std::string_view, std::size_t> counts;
    for (const Instrument& instrument : instruments) ++counts[nameOf(instrument)];
    std::vector<std::string> names;
    names.reserve(instruments.size());
    for (const Instrument& instrument : instruments) {
        const std::string& name = nameOf(instrument);
        names.push_back(counts[name] > 1 ? name + " (" + instrument.id + ")" : name);
    }
    return names;
}

}  // namespace

struct Checker::Memory {
    std::shared_ptr<const Ensemble> ensemble = std::make_shared<const Ensemble>();
    std::vector<Record> records;  ///< one an instrument
    Record shared;
    std::vector<std::vector<const Instrument*>> sharedTargets;  ///< by shared chain and branch
    bool doubled = false;                                       ///< several instruments have one id
    Findings general;                                           ///< what belongs to no place
    FindingRefs findings;
};

namespace {

/// One look at an ensemble, which takes from memory what is still so and leaves there what is so now.
template<class Memory>
class Look : public checks::Whole {
 public:
    Look(Memory& memory, const Directory& directory) : Whole(directory), memory_(memory) {}

    void operator()() {
        const Ensemble& before = *memory_.ensemble;
        sameSurroundings_ = before.controllers == ensemble().controllers &&
                            before.tieLines == ensemble().tieLines && before.desk == ensemble().desk &&
                            before.handOrder == ensemble().handOrder;
        sameShared_ = before.sharedChains == ensemble().sharedChains && !doubledBefore();
        lookAtShared();
        lookAtInstruments();
        decideWhatRuns();
        tellOfChains();
        collect();
    }

    [[nodiscard]] const Digest& digest(Owner owner, std::size_t chain) const override {
        return recordOf(owner).chains[chain].digest;
    }
    [[nodiscard]] bool runs(Owner owner, std::size_t chain) const override {
        return recordOf(owner).runs[chain];
    }
    [[nodiscard]] bool somePairsAreHeard() const override {
        const auto hears = [](const Record& record) { return record.hearsPairs; };
        return memory_.shared.hearsPairs ||
               std::any_of(memory_.records.begin(), memory_.records.end(), hears);
    }

 private:
    /// True where shared chains lead to an id that several instruments have, or had: which of them is meant
    /// is a matter of their order.
    [[nodiscard]] bool doubledBefore() const {
        std::unordered_set<std::string_view> ids;
        for (const Instrument& instrument : ensemble().instruments) ids.insert(instrument.id);
        const bool doubled = ids.size() < ensemble().instruments.size();
        const bool was = std::exchange(memory_.doubled, doubled);
        return (doubled || was) && !ensemble().sharedChains.empty();
    }
    [[nodiscard]] const Record& recordOf(Owner owner) const {
        return owner ? memory_.records[*owner] : memory_.shared;
    }
    [[nodiscard]] ChainAt sharedAt(std::size_t chain) const {
        return {directory(), nullptr, ensemble().sharedChains[chain],
                Place{std::nullopt, chain, std::nullopt}};
    }
    [[nodiscard]] ChainAt chainAt(std::size_t instrument, std::size_t chain) const {
        const Instrument& owner = ensemble().instruments[instrument];
        return {directory(), &owner, owner.chains[chain], Place{instrument, chain, std::nullopt}};
    }

    /// A shared chain's record holds as long as the chain and the instruments that it leads to are the same.
    void lookAtShared() {
        const auto& before = memory_.ensemble->sharedChains;
        std::vector<std::vector<const Instrument*>> targets;
        std::vector<ChainRecord> records;
        for (std::size_t c = 0; c < ensemble().sharedChains.size(); ++c) {
            const ChainAt at = sharedAt(c);
            targets.emplace_back();
            for (const Branch& branch : at.chain.branches)
                targets.back().push_back(targetOf(at, branch).instrument);
            const bool known = sameSurroundings_ && c < before.size() && before[c] == at.chain &&
                               memory_.sharedTargets[c] == targets.back();
            records.push_back(known ? std::move(memory_.shared.chains[c]) : mellow::recordOf(at));
            if (!known) memory_.shared.isStale = true;
        }
        if (records.size() != memory_.shared.chains.size()) memory_.shared.isStale = true;
        memory_.shared.name = "Shared chains";
        memory_.shared.chains = std::move(records);
        memory_.shared.hearsPairs = hearsPairs(memory_.shared);
        memory_.sharedTargets = std::move(targets);
    }

    void lookAtInstruments() {
        std::vector<Record> records;
        const auto& instruments = ensemble().instruments;
        records.reserve(instruments.size());
        for (std::size_t i = 0; i < instruments.size(); ++i) {
            Record* earlier = sameSurroundings_ ? earlierRecord(i) : nullptr;
            const bool same = earlier != nullptr && earlier->written == &instruments[i];
            // What was told of a place has edits that go by it.
            const bool moved = earlier != nullptr && earlier != memory_.records.data() + i;
            records.push_back(same ? std::move(*earlier) : renewed(i, earlier));
            if (earlier != nullptr) earlier->written = nullptr;  // It has been taken.
            if (same && sameShared_ && !moved) continue;
            records.back().wide = wideOf({directory(), instruments[i], i});
            records.back().isStale = true;
        }
        memory_.records = std::move(records);
    }

    Record* earlierRecord(std::size_t i) {
        const std::string& id = ensemble().instruments[i].id;
        auto& records = memory_.records;
        const auto isIt = [&id](const Record& record) {
            return record.written != nullptr && record.written->id == id;
        };
        if (i < records.size() && isIt(records[i])) return &records[i];
        const auto found = std::find_if(records.begin(), records.end(), isIt);
        return found == records.end() ? nullptr : &*found;
    }

    /// The record of an instrument that was edited, or is new.
    Record renewed(std::size_t i, Record* earlier) {
        const Instrument& instrument = ensemble().instruments[i];
        Record record;
        record.written = &instrument;
        const bool comparable = earlier != nullptr && sameFrame(*earlier->written, instrument);
        for (std::size_t c = 0; c < instrument.chains.size(); ++c) {
            const bool known = comparable && c < earlier->chains.size() &&
                               earlier->written->chains[c] == instrument.chains[c];
            record.chains.push_back(known ? std::move(earlier->chains[c]) : mellow::recordOf(chainAt(i, c)));
        }
        record.hearsPairs = hearsPairs(record);
        return record;
    }

    static void runWhatStopsNothing(Record& record, bool on) {
        record.runs.resize(record.chains.size());
        for (std::size_t c = 0; c < record.chains.size(); ++c)
            record.runs[c] = on && !record.chains[c].stopped.whole;
    }

    void decideWhatRuns() {
        runWhatStopsNothing(memory_.shared, true);
        for (Record& record : memory_.records) runWhatStopsNothing(record, record.written->on);
        for (std::size_t i = 0; i < memory_.records.size(); ++i) {
            for (Finding& finding : memory_.records[i].wide) {
                if (finding.place.instrument) finding.place.instrument = i;  // It may have moved.
            }
            stop(memory_.records[i].wide, memory_.records, memory_.shared);
        }
        askWholeRules(true);
        stop(found_, memory_.records, memory_.shared);
    }

    void askWholeRules(bool thatStop) {
        for (std::size_t r = 0; r < rules().size(); ++r) {
            ask(r, found_, [&](const Rule& rule) {
                if (rule.whole != nullptr && rule.stops == thatStop) rule.whole(*this, found_);
            });
        }
    }

    void tellOfChains() {
        const auto tellOf = [](Record& record, auto&& at) {
            for (std::size_t c = 0; c < record.chains.size(); ++c) {
                ChainRecord& chain = record.chains[c];
                if (chain.looked && chain.toldRunning == record.runs[c]) continue;
                tell(at(c), record.runs[c], chain);
                record.isStale = true;
            }
        };
        tellOf(memory_.shared, [&](std::size_t c) { return sharedAt(c); });
        for (std::size_t i = 0; i < memory_.records.size(); ++i)
            tellOf(memory_.records[i], [&](std::size_t c) { return chainAt(i, c); });
    }

    /// What is shown of each owner stands until something about it is other than before; then all are put in
    /// a row, troubles first.
    void collect() {
        askWholeRules(false);
        giveNames();
        spreadWholeFindings();
        if (memory_.shared.isStale) refresh(memory_.shared, std::nullopt);
        for (std::size_t i = 0; i < memory_.records.size(); ++i) {
            if (memory_.records[i].isStale) refresh(memory_.records[i], i);
        }
        FindingRefs& all = memory_.findings;
        all.clear();
        for (const Severity severity : {Severity::trouble, Severity::note}) {
            const auto add = [&](const Findings& findings) {
                for (const Finding& finding : findings) {
                    if (finding.severity == severity) all.push_back(&finding);
                }
            };
            add(memory_.general);
            add(memory_.shared.shown);
            for (const Record& record : memory_.records) add(record.shown);
        }
    }

    void giveNames() {
        const std::vector<std::string> names = namesOf(ensemble().instruments);
        for (std::size_t i = 0; i < names.size(); ++i) {
            Record& record = memory_.records[i];
            if (record.name != names[i]) record.isStale = true;
            record.name = names[i];
        }
    }

    /// Gives each owner what whole rules, and what others' wide rules, found of it.
    void spreadWholeFindings() {
        memory_.general.clear();
        more_.assign(memory_.records.size() + 1, {});
        const auto give = [&](const Finding& finding) {
            if (!finding.place.instrument && !finding.place.chain) {
                memory_.general.push_back(finding);
            } else {
                more_[finding.place.instrument ? *finding.place.instrument + 1 : 0].push_back(finding);
            }
        };
        for (const Finding& finding : found_) give(finding);
        for (const Record& record : memory_.records) {
            for (const Finding& finding : record.wide) {
                if (!finding.place.instrument) give(finding);
            }
        }
        sort(memory_.general);
        removeRepeats(memory_.general);
        const auto noteMore = [](Record& record, const Findings& more) {
            if (!more.empty() || record.hasMore) record.isStale = true;
            record.hasMore = !more.empty();
        };
        noteMore(memory_.shared, more_[0]);
        for (std::size_t i = 0; i < memory_.records.size(); ++i) noteMore(memory_.records[i], more_[i + 1]);
    }

    void refresh(Record& record, Owner owner) {
        Findings& shown = record.shown;
        shown.clear();
        for (const Finding& finding : record.wide) {
            if (finding.place.instrument) shown.push_back(finding);
        }
        for (std::size_t c = 0; c < record.chains.size(); ++c) {
            for (const Findings* findings : {&record.chains[c].stopping, &record.chains[c].told}) {
                for (const Finding& finding : *findings) {
                    shown.push_back(finding);
                    shown.back().place.chain = c;
                }
            }
        }
        const Findings& more = more_[owner ? *owner + 1 : 0];
        shown.insert(shown.end(), more.begin(), more.end());
        const auto& chains = owner ? ensemble().instruments[*owner].chains : ensemble().sharedChains;
        for (Finding& finding : shown) {
            finding.place.instrument = owner;
            finding.problem.where = record.name;
            if (!finding.place.chain) continue;
            finding.problem.where += ", " + nameAmong(chains, chains[*finding.place.chain]);
            if (finding.place.branch)
                finding.problem.where += ", branch " + std::to_string(*finding.place.branch + 1);
        }
        sort(shown);
        removeRepeats(shown);
        record.isStale = false;
    }

    Memory& memory_;
    bool sameSurroundings_ = false;
    bool sameShared_ = false;
    Findings found_;              ///< by whole rules
    std::vector<Findings> more_;  ///< of those, by owner: the shared chains', then the instruments'
};

}  // namespace

Checker::Checker() : memory_(std::make_unique<Memory>()) {}
Checker::~Checker() = default;

const FindingRefs& Checker::check(std::shared_ptr<const Ensemble> ensemble) {
    const Directory directory = Directory::indexed(*ensemble);
    Look<Memory>{*memory_, directory}();
    memory_->ensemble = std::move(ensemble);
    return memory_->findings;
}

}  // namespace mellow
