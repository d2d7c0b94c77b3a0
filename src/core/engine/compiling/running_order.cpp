// Chains come in document order. One whose tie lines all have been written is placed, and may free others
// that came before and wait; those are placed next, the earliest first, before the document goes on. An
// instrument's turn comes when its chains have come and none of them waits any more. So everything is looked
// at once, and the order is that of the document but for what waits.
#include "core/engine/compiling/running_order.h"

#include <functional>
#include <queue>

namespace mellow::engine {

namespace {

class Ordering {
 public:
    explicit Ordering(Plan& plan) : plan_(plan) {}

    void run() {
        countWriters();
        if (!findWaiting()) return;
        chainsLeft_.assign(plan_.parts.size(), 0);
        for (const PlanChain& chain : plan_.chains) {
            if (chain.part != none) ++chainsLeft_[chain.part];
        }
        plan_.turns.clear();
        std::uint32_t chain = 0;
        while (chain < plan_.chains.size() && plan_.chains[chain].part == none) comeTo(chain++);
        for (std::uint32_t part = 0; part < plan_.parts.size(); ++part) {
            while (chain < plan_.chains.size() && plan_.chains[chain].part == part) comeTo(chain++);
            turnsWaiting_.push(part);
            passOn();
        }
        plan_.ranks.resize(plan_.chains.size());
        for (std::uint32_t rank = 0; rank < plan_.order.size(); ++rank) plan_.ranks[plan_.order[rank]] = rank;
    }

 private:
    using Earliest = std::priority_queue<std::uint32_t, std::vector<std::uint32_t>, std::greater<>>;

    void countWriters() {
        writersLeft_.resize(plan_.numbering.tieLines.size());
        for (const PlanBranch& branch : plan_.branches) {
            if (branch.tieLine != none && branch.on) ++writersLeft_[branch.tieLine];
        }
    }

    /// True when a chain reads what a later one writes.
    bool findWaiting() {
        std::vector<std::uint32_t> lastWriter(writersLeft_.size(), 0);
        for (const PlanBranch& branch : plan_.branches) {
            if (branch.tieLine != none && branch.on) lastWriter[branch.tieLine] = branch.chain;
        }
        readers_.resize(writersLeft_.size());
        waitsFor_.resize(plan_.chains.size());
        bool any = false;
        for (const Ear& ear : plan_.ears) {
            if (ear.tieLine == none || writersLeft_[ear.tieLine] == 0) continue;
            any = any || lastWriter[ear.tieLine] > ear.chain;
            readers_[ear.tieLine].push_back(ear.chain);
            ++waitsFor_[ear.chain];
        }
        return any;
    }

    /// A chain's turn in document order has come.
    void comeTo(std::uint32_t chain) {
        if (waitsFor_[chain] > 0) {
            hasCome_[chain] = true;
            return;
        }
        place(chain);
        while (!freed_.empty()) {
            const std::uint32_t next = freed_.top();
            freed_.pop();
            place(next);
        }
        passOn();
    }

    void place(std::uint32_t chain) {
        plan_.order.push_back(chain);
        const PlanChain& placed = plan_.chains[chain];
        if (placed.part != none && --chainsLeft_[placed.part] == 0 && hasWaited_[placed.part])
            turnsWaiting_.push(placed.part);
        for (std::uint32_t b = placed.firstBranch; b < placed.firstBranch + placed.branchCount; ++b) {
            const PlanBranch& branch = plan_.branches[b];
            if (branch.tieLine == none || !branch.on || --writersLeft_[branch.tieLine] > 0) continue;
            for (const std::uint32_t reader : readers_[branch.tieLine]) {
                if (--waitsFor_[reader] == 0 && hasCome_[reader]) freed_.push(reader);
            }
        }
    }

    /// Instruments all of whose chains have been placed have their turn.
    void passOn() {
        while (!turnsWaiting_.empty()) {
            const std::uint32_t part = turnsWaiting_.top();
            turnsWaiting_.pop();
            if (chainsLeft_[part] > 0) {
                hasWaited_[part] = true;
                continue;
            }
            plan_.parts[part].endRank = static_cast<std::uint32_t>(plan_.order.size());
            plan_.turns.push_back(part);
        }
    }

    Plan& plan_;
    std::vector<std::uint32_t> writersLeft_;           ///< by tie line
    std::vector<std::vector<std::uint32_t>> readers_;  ///< by tie line: chains, once for each ear
    std::vector<std::uint32_t> waitsFor_;              ///< by chain: ears whose tie line is yet to be written
    std::vector<bool> hasCome_ = std::vector<bool>(plan_.chains.size());   ///< its turn came while it waited
    std::vector<std::uint32_t> chainsLeft_;                                ///< by part
    std::vector<bool> hasWaited_ = std::vector<bool>(plan_.parts.size());  ///< by part, likewise
    Earliest freed_;         ///< chains that waited and need wait no longer
    Earliest turnsWaiting_;  ///< parts that may pass on
};

}  // namespace

void findRunningOrder(Plan& plan) {
    Ordering(plan).run();
}

}  // namespace mellow::engine
