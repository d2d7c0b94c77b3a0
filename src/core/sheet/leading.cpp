#include "core/sheet/leading.h"

#include <algorithm>
#include <functional>
#include <map>
#include <set>

#include "core/checks/check.h"
#include "core/midi/message_key.h"
#include "core/model/desk.h"
#include "core/model/resolve.h"

namespace mellow::sheet {

namespace {

/// Which of a chain's branches a source of it moves.
struct Mover {
    const Instrument* owner = nullptr;
    const Chain* chain = nullptr;
    int branch = -1;  ///< −1: all
    Source source;    ///< resolved
};

/// The chains of an ensemble as they run: who moves them, and where their branches lead.
class Running {
 public:
    explicit Running(const Ensemble& ensemble) : ensemble_(ensemble), stopped_(stoppedBy(ensemble)) {
        for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
            const Instrument& owner = std::as_const(ensemble.instruments)[i];
            if (stopped_.instruments[i]) continue;
            for (std::size_t c = 0; c < owner.chains.size(); ++c)
                add(&owner, owner.chains[c], stopped_.chains[i][c]);
        }
        for (std::size_t c = 0; c < ensemble.sharedChains.size(); ++c)
            add(nullptr, ensemble.sharedChains[c], stopped_.shared[c]);
    }

    [[nodiscard]] const std::vector<Mover>& movers() const { return movers_; }
    /// The branches of a mover that run, as rows.
    [[nodiscard]] std::vector<Assignment> rowsOf(const Mover& mover) const {
        std::vector<Assignment> rows;
        const std::set<std::size_t>& stopped = stoppedBranches_.at(mover.chain);
        for (std::size_t b = 0; b < mover.chain->branches.size(); ++b) {
            const Branch& branch = mover.chain->branches[b];
            if (!branch.on || stopped.contains(b) ||
                (mover.branch >= 0 && mover.branch != static_cast<int>(b)))
                continue;
            Assignment row;
            row.owner = mover.owner;
            row.chain = mover.chain;
            row.branch = static_cast<int>(b);
            row.target = targetOf(ensemble_, mover.owner, branch.target);
            if (row.target.exists()) rows.push_back(row);
        }
        return rows;
    }

 private:
    [[nodiscard]] bool sleeps(const Instrument* owner, const Chain& chain) const {
        if (owner == nullptr || chain.active != Active::inHand || !ensemble_.inHand) return false;
        return std::find(ensemble_.inHand->begin(), ensemble_.inHand->end(), owner->id) ==
               ensemble_.inHand->end();
    }

    void add(const Instrument* owner, const Chain& chain, const StoppedChain& stopped) {
        if (!chain.on || stopped.whole || sleeps(owner, chain)) return;
        stoppedBranches_[&chain] = {stopped.branches.begin(), stopped.branches.end()};
        const auto mover = [&](const Source& source, int branch) {
            movers_.push_back({owner, &chain, branch, resolved(ensemble_, source)});
        };
        const auto ofSteps = [&](const std::vector<Step>& steps, int branch) {
            for (const Step& step : steps) {
                if (step.on && step.with) mover(*step.with, branch);
            }
        };
        mover(chain.source, -1);
        ofSteps(chain.steps, -1);
        for (std::size_t b = 0; b < chain.branches.size(); ++b)
            ofSteps(chain.branches[b].steps, static_cast<int>(b));
        if (chain.fan.mode == FanMode::chosen && chain.fan.by) mover(*chain.fan.by, -1);
    }

    const Ensemble& ensemble_;
    Stopped stopped_;
    std::vector<Mover> movers_;
    std::map<const Chain*, std::set<std::size_t>> stoppedBranches_;
};

/// Walks on from rows through the tie lines that they write.
class Walk {
 public:
    explicit Walk(const Ensemble& ensemble) : running_(ensemble) {}

    /// Takes in what a kind of source moves.
    void take(const std::function<bool(const Mover&)>& moved, int from) {
        for (const Mover& mover : running_.movers()) {
            if (!moved(mover)) continue;
            for (const Assignment& row : running_.rowsOf(mover)) reach(row, from);
        }
    }
    void reach(const Assignment& row, int from) {
        if (!seen_.emplace(row.chain, row.branch).second) return;
        all_.push_back({idOf(row), from});
        lines_.push_back(row.target.tieLine == nullptr ? std::string() : row.target.tieLine->id);
    }
    std::vector<Reached> end() {
        for (std::size_t i = 0; i < all_.size(); ++i) {
            if (lines_[i].empty()) continue;
            const std::string line = lines_[i];
            take(
                [&line](const Mover& mover) {
                    return mover.source.kind == SourceKind::tieLine && mover.source.tieLine == line;
                },
                static_cast<int>(i));
        }
        return std::move(all_);
    }

 private:
    Running running_;
    std::set<std::pair<const Chain*, int>> seen_;
    std::vector<Reached> all_;
    std::vector<std::string> lines_;  ///< the tie line that each writes, or nothing
};

/// Whether an instrument's own filters let a message through to its chains.
bool passesFilter(const Instrument* owner, const Source& source, midi::Bytes message, int& note) {
    note = message.size() > 1 ? message[1] : 0;
    const int channel = midi::channelOf(message) + 1;
    if (source.channel && *source.channel != channel) return false;
    if (owner == nullptr) return true;
    if (owner->input.channel && *owner->input.channel != channel) return false;
    if (!midi::concernsKey(midi::keyOf(message))) return true;
    const bool inside = note >= owner->input.lowKey && note <= owner->input.highKey;
    note += owner->input.transpose;
    if (note < 0 || note > midi::max7) return false;
    const bool struck = midi::isNoteOn(message);
    return inside &&
           (!struck || (message[2] >= owner->input.lowVelocity && message[2] <= owner->input.highVelocity));
}

}  // namespace

std::string wholeTarget(const Assignment& row) {
    if (row.target.parameter != nullptr && row.target.instrument != nullptr)
        return row.target.instrument->id + "/" + row.target.parameter->id;
    if (row.target.tieLine != nullptr) return std::string(tieLineTarget) + row.target.tieLine->id;
    return row.target.hand != nullptr ? std::string(handTarget) : std::string();
}

bool isMovedBy(const Ensemble& ensemble, const Instrument* owner, const Source& source, const Cause& cause) {
    if (cause.message.empty()) {
        if (source.kind == SourceKind::desk) {
            const DeskElement* element = Directory(ensemble).deskElement(elementOf(source));
            return element != nullptr && addressOf(*element, axisOf(source)) == cause.address;
        }
        return source.kind == SourceKind::osc && textOf(source, 0) == cause.address &&
               isHeardFrom(ensemble, owner, source, cause.port);
    }
    const midi::Bytes message(cause.message);
    const SourceRow& kind = row(source.kind);
    if (kind.hears == nullptr || kind.origin == Origin::generator ||
        !isHeardFrom(ensemble, owner, source, cause.port))
        return false;
    int note = 0;
    if (!passesFilter(owner, source, message, note)) return false;
    const std::size_t key = midi::keyOf(message);
    const MessageKeys keys = kind.hears(source);
    if (std::find(keys.begin(), keys.end(), key) == keys.end()) return false;
    // Which key a source means the engine alone looks at.
    if (kind.value == nullptr) {
        const bool isOfOneKey = kind.numbered && midi::concernsKey(key) && source.number != anyNumber;
        return !isOfOneKey || source.number == note;
    }
    return kind.value(source, message, note) >= 0;
}

std::vector<Reached> leadsTo(const Ensemble& ensemble, const Cause& cause) {
    Walk walk(ensemble);
    walk.take([&](const Mover& mover) { return isMovedBy(ensemble, mover.owner, mover.source, cause); }, -1);
    return walk.end();
}

std::vector<Reached> leadsTo(const Ensemble& ensemble, const AssignmentId& row) {
    Walk walk(ensemble);
    if (const auto first = assignmentAt(ensemble, row)) walk.reach(*first, -1);
    return walk.end();
}

std::vector<Reached> comesFrom(const Ensemble& ensemble, std::string_view target) {
    const Running running(ensemble);
    std::vector<Reached> all;
    std::set<std::pair<const Chain*, int>> seen;
    std::set<std::string> asked;
    /// Rows that lead to a target, and then those that lead to the tie lines that move these.
    const std::function<void(const std::string&, int)> walk = [&](const std::string& wanted, int from) {
        if (!asked.insert(wanted).second) return;
        const std::size_t first = all.size();
        std::vector<std::pair<const Chain*, int>> found;
        for (const Mover& mover : running.movers()) {
            for (const Assignment& row : running.rowsOf(mover)) {
                if (wholeTarget(row) != wanted || !seen.emplace(row.chain, row.branch).second) continue;
                all.push_back({idOf(row), from});
                found.emplace_back(row.chain, row.branch);
            }
        }
        for (std::size_t i = 0; i < found.size(); ++i) {
            for (const Mover& mover : running.movers()) {
                const bool moves =
                    mover.chain == found[i].first && (mover.branch < 0 || mover.branch == found[i].second);
                if (moves && mover.source.kind == SourceKind::tieLine)
                    walk(std::string(tieLineTarget) + mover.source.tieLine, static_cast<int>(first + i));
            }
        }
    };
    walk(std::string(target), -1);
    return all;
}

}  // namespace mellow::sheet
