// In order: what is new gets a record, circles say what they stop, chains are told of as they run or do not,
// and whole rules look. Then all findings are collected, given their places in words, sorted, and what two
// branches brought up in the same words is told once.
#include "core/checks/checker.h"

#include <algorithm>
#include <set>
#include <string_view>
#include <tuple>
#include <unordered_set>
#include <utility>

#include "core/checks/rules.h"

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
    bool stops = false;       ///< by itself, or switched off
    Digest digest;
};

/// What is known of an instrument, or of the shared chains.
struct Record {
    const Instrument* written = nullptr;  ///< in the ensemble that is kept; null: the shared chains
    std::vector<ChainRecord> chains;
    std::vector<bool> runs;  ///< by chain
    Findings wide;           ///< by what looks at all of an instrument
};

/// True when all of an instrument but its chains is the same.
bool sameFrame(const Instrument& a, const Instrument& b) {
    return a.id == b.id && a.name == b.name && a.on == b.on && a.input == b.input && a.output == b.output &&
           a.pass == b.pass && a.parameters == b.parameters;
}

/// Asks a rule, and marks what it finds as the rule's.
template<class Ask>
void ask(std::size_t rule, Findings& findings, Ask&& asks) {
    const std::size_t before = findings.size();
    asks(*rules()[rule]);
    for (std::size_t f = before; f < findings.size(); ++f) findings[f].rule = rule;
}

ChainRecord recordOf(const ChainAt& at) {
    ChainRecord record;
    for (std::size_t r = 0; r < rules().size(); ++r) {
        ask(r, record.stopping, [&](const Rule& rule) {
            if (rule.stops && rule.chain != nullptr) rule.chain(at, record.stopping);
        });
    }
    const auto stops = [](const Finding& finding) { return finding.stops == Stops::chain; };
    record.stops = !at.chain.on || std::any_of(record.stopping.begin(), record.stopping.end(), stops);
    record.digest = digestOf(at);
    return record;
}

/// What is to be told of a chain, unless that is known.
void tell(const ChainAt& at, bool runs, ChainRecord& record) {
    if (std::exchange(record.looked, true) && record.toldRunning == runs) return;
    record.toldRunning = runs;
    record.told.clear();
    for (std::size_t r = 0; r < rules().size(); ++r) {
        ask(r, record.told, [&](const Rule& rule) {
            const bool asked = rule.chain != nullptr && !rule.stops && (runs || rule.everyChain);
            if (asked) rule.chain(at, record.told);
        });
    }
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

auto order(const Finding& finding) {
    const auto rank = [](const std::optional<std::size_t>& index) { return index ? *index + 1 : 0; };
    // Shared chains come first, as they run first.
    return std::tuple{finding.severity == Severity::note, rank(finding.place.instrument),
                      rank(finding.place.chain), rank(finding.place.branch), finding.rule};
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

/// The place of a finding in words.
std::string wordsFor(const Place& place, const Directory& directory) {
    const Ensemble& ensemble = directory.ensemble();
    const Instrument* instrument = place.instrument ? &ensemble.instruments[*place.instrument] : nullptr;
    if (!place.chain) return nameAmong(ensemble.instruments, *instrument);
    const auto& chains = instrument != nullptr ? instrument->chains : ensemble.sharedChains;
    return checks::placeName({directory, instrument, chains[*place.chain], place}, place.branch);
}

}  // namespace

struct Checker::Memory {
    std::shared_ptr<const Ensemble> ensemble = std::make_shared<const Ensemble>();
    std::vector<Record> records;  ///< one an instrument
    Record shared;
    std::vector<std::vector<const Instrument*>> sharedTargets;  ///< by shared chain and branch
    bool doubled = false;                                       ///< several instruments have one id
    Findings findings;
};

namespace {

/// One look at an ensemble, which takes from memory what is still so and leaves there what is so now.
template<class Memory>
class Look : public checks::Whole {
 public:
    Look(Memory& memory, const Directory& directory) : Whole(directory), memory_(memory) {}

    void operator()() {
        const Ensemble& before = *memory_.ensemble;
        sameSurroundings_ =
            before.controllers == ensemble().controllers && before.tieLines == ensemble().tieLines;
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
        }
        memory_.shared.chains = std::move(records);
        memory_.sharedTargets = std::move(targets);
    }

    void lookAtInstruments() {
        std::vector<Record> records;
        const auto& instruments = ensemble().instruments;
        records.reserve(instruments.size());
        for (std::size_t i = 0; i < instruments.size(); ++i) {
            Record* earlier = sameSurroundings_ ? earlierRecord(i) : nullptr;
            const bool same = earlier != nullptr && earlier->written == &instruments[i];
            records.push_back(same ? std::move(*earlier) : renewed(i, earlier));
            if (earlier != nullptr) earlier->written = nullptr;  // It has been taken.
            if (!same || !sameShared_) records.back().wide = wideOf({directory(), instruments[i], i});
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
        return record;
    }

    static void runWhatStopsNothing(Record& record, bool on) {
        record.runs.resize(record.chains.size());
        for (std::size_t c = 0; c < record.chains.size(); ++c) record.runs[c] = on && !record.chains[c].stops;
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
        for (std::size_t c = 0; c < memory_.shared.chains.size(); ++c)
            tell(sharedAt(c), memory_.shared.runs[c], memory_.shared.chains[c]);
        for (std::size_t i = 0; i < memory_.records.size(); ++i) {
            Record& record = memory_.records[i];
            for (std::size_t c = 0; c < record.chains.size(); ++c) {
                ChainRecord& chain = record.chains[c];
                if (!chain.looked || chain.toldRunning != record.runs[c])
                    tell(chainAt(i, c), record.runs[c], chain);
            }
        }
    }

    void collect() {
        askWholeRules(false);
        collectFrom(memory_.shared, std::nullopt);
        for (std::size_t i = 0; i < memory_.records.size(); ++i) collectFrom(memory_.records[i], i);
        std::stable_sort(found_.begin(), found_.end(),
                         [](const Finding& a, const Finding& b) { return order(a) < order(b); });
        for (Finding& finding : found_) {
            if (finding.problem.where.empty()) finding.problem.where = wordsFor(finding.place, directory());
        }
        removeRepeats(found_);
        memory_.findings = std::move(found_);
    }

    void collectFrom(const Record& record, Owner owner) {
        found_.insert(found_.end(), record.wide.begin(), record.wide.end());
        for (std::size_t c = 0; c < record.chains.size(); ++c) {
            for (const Findings* findings : {&record.chains[c].stopping, &record.chains[c].told}) {
                for (const Finding& finding : *findings) {
                    found_.push_back(finding);
                    found_.back().place.instrument = owner;
                    found_.back().place.chain = c;
                }
            }
        }
    }

    Memory& memory_;
    bool sameSurroundings_ = false;
    bool sameShared_ = false;
    Findings found_;
};

}  // namespace

Checker::Checker() : memory_(std::make_unique<Memory>()) {}
Checker::~Checker() = default;

const Findings& Checker::check(std::shared_ptr<const Ensemble> ensemble) {
    const Directory directory = Directory::indexed(*ensemble);
    Look<Memory>{*memory_, directory}();
    memory_->ensemble = std::move(ensemble);
    return memory_->findings;
}

}  // namespace mellow
