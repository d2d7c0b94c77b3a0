// All findings at once, and what the compiler asks: what does not run. The compiler asks the rules that stop
// what they find and no others, and only about what is not known from before.
#include "core/checks/check.h"

#include <algorithm>

#include "core/checks/checker.h"
#include "core/checks/rules.h"

namespace mellow {

Findings check(const Ensemble& ensemble) {
    Findings findings;
    Checker checker;
    // Not owned: it stays as long as the call.
    for (const Finding* finding : checker.check({std::shared_ptr<const Ensemble>(), &ensemble}))
        findings.push_back(*finding);
    return findings;
}

namespace {

using checks::ChainAt;
using checks::Rule;
using checks::rules;

/// All of an ensemble, for rules that stop: of digests only the tie lines, each until the next is asked for.
class Stopping : public checks::Whole {
 public:
    Stopping(const Directory& directory, const Stopped& stopped) : Whole(directory), stopped_(stopped) {}
    [[nodiscard]] const checks::Digest& digest(Owner owner, std::size_t chain) const override {
        const auto& chains = owner ? ensemble().instruments[*owner].chains : ensemble().sharedChains;
        const StoppedChain& stopped = (owner ? stopped_.chains[*owner] : stopped_.shared)[chain];
        if (stopped.branches.empty()) {
            digest_ = {tieLinesWritten(chains[chain]), tieLinesRead(chains[chain]), {}};
        } else {
            const Chain running = asItRuns(chains[chain], stopped);
            digest_ = {tieLinesWritten(running), tieLinesRead(running), {}};
        }
        return digest_;
    }
    [[nodiscard]] bool runs(Owner, std::size_t) const override { return true; }
    [[nodiscard]] bool somePairsAreHeard() const override { return true; }

 private:
    const Stopped& stopped_;
    mutable checks::Digest digest_;
};

void stop(Stopped& stopped, const Findings& findings) {
    for (const Finding& finding : findings) {
        const Place& place = finding.place;
        if (finding.stops == Stops::instrument) stopped.instruments[*place.instrument] = true;
        if (!place.chain) continue;
        StoppedChain& chain =
            (place.instrument ? stopped.chains[*place.instrument] : stopped.shared)[*place.chain];
        chain.add(finding);
    }
}

void askChain(const ChainAt& at, Findings& findings) {
    for (const Rule* rule : rules()) {
        if (rule->stops && rule->chain != nullptr) rule->chain(at, findings);
    }
}

}  // namespace

void StoppedChain::add(const Finding& finding) {
    if (finding.stops == Stops::chain) whole = true;
    if (finding.stops != Stops::branch || !finding.place.branch) return;
    const auto at = std::lower_bound(branches.begin(), branches.end(), *finding.place.branch);
    if (at == branches.end() || *at != *finding.place.branch) branches.insert(at, *finding.place.branch);
}

Chain asItRuns(Chain chain, const StoppedChain& stopped) {
    for (const std::size_t branch : stopped.branches) chain.branches[branch].on = false;
    return chain;
}

Stopped stoppedBy(const Directory& directory, const std::vector<const StoppedChains*>& known) {
    const Ensemble& ensemble = directory.ensemble();
    Stopped stopped;
    const auto off = [](const std::vector<Chain>& chains) {
        StoppedChains are(chains.size());
        std::transform(chains.begin(), chains.end(), are.begin(), [](const Chain& chain) {
            return StoppedChain{!chain.on, {}};
        });
        return are;
    };
    Findings findings;
    for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
        const Instrument& instrument = ensemble.instruments[i];
        stopped.instruments.push_back(!instrument.on);
        const bool isKnown = i < known.size() && known[i] != nullptr;
        stopped.chains.push_back(isKnown ? *known[i] : off(instrument.chains));
        if (isKnown) continue;
        for (const Rule* rule : rules()) {
            if (rule->stops && rule->instrument != nullptr)
                rule->instrument({directory, instrument, i}, findings);
        }
        for (std::size_t c = 0; c < instrument.chains.size(); ++c)
            askChain({directory, &instrument, instrument.chains[c], Place{i, c, std::nullopt}}, findings);
    }
    stopped.shared = off(ensemble.sharedChains);
    for (std::size_t c = 0; c < ensemble.sharedChains.size(); ++c)
        askChain({directory, nullptr, ensemble.sharedChains[c], Place{std::nullopt, c, std::nullopt}},
                 findings);
    stop(stopped, findings);
    stopped.alone = stopped.chains;
    findings.clear();
    for (const Rule* rule : rules()) {
        if (rule->stops && rule->whole != nullptr) rule->whole(Stopping(directory, stopped), findings);
    }
    stop(stopped, findings);
    return stopped;
}

}  // namespace mellow
