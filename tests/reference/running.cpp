// From positions to what branches produce (sections 2 to 4): chains that are due run in their turn, through
// the trunk and the branches that are fed.
#include "reference/interpreter.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "reference/arithmetic.h"
#include "reference/messages.h"

namespace mellow::reference {

namespace {

/// Walks steps from the first. A value has come from above or not; a step that a second source stirred, or
/// whose output changes, starts one.
void walk(const std::vector<Step>& steps, std::vector<Memory>& memory, std::optional<double>& p, bool tick,
          std::int64_t now, std::optional<bool> cueByNote) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const Step& step = steps[i];
        if (!remembers(step)) {
            if (p) p = shape(step, *p);
            continue;
        }
        Memory& state = memory[i];
        const double before = state.result;
        if (!p && state.stirred && state.started) p = state.input;
        if (p) take(step, state, *p, now);
        if (cueByNote) letThrough(step, state, *cueByNote);
        if (tick) reference::tick(step, state, now);
        if (p || state.result != before) p = state.result;
    }
}

/// The present value behind the first `count` steps; those that have had no input take this as their first.
double present(const std::vector<Step>& steps, std::vector<Memory>& memory, std::size_t count, double p,
               std::int64_t now) {
    for (std::size_t i = 0; i < count; ++i) {
        if (!remembers(steps[i])) {
            p = shape(steps[i], p);
            continue;
        }
        if (!memory[i].started) take(steps[i], memory[i], p, now);
        p = memory[i].result;
    }
    return p;
}

std::size_t firstStirred(const std::vector<Memory>& memory) {
    std::size_t i = 0;
    while (i < memory.size() && !memory[i].stirred) ++i;
    return i;
}

/// Where a branch's window puts a position; nothing when it is outside and the window does not clamp.
std::optional<double> through(const std::optional<BranchWindow>& window, double p) {
    if (!window) return p;
    const double low = window->low;
    const double high = window->high;
    const bool inside = p >= std::min(low, high) && p <= std::max(low, high);
    if (!inside && window->outside != Outside::clamp) return std::nullopt;
    if (low == high) return p >= low ? 1 : 0;
    return clamped((p - low) / (high - low));
}

}  // namespace

/// Chains and what instruments pass on, each in its turn; then everything is sent.
void Interpreter::play(const std::vector<const Instrument*>& passers) {
    sendings_.clear();
    spreadLate();
    for (turn_ = 0; turn_ < running_.turns.size(); ++turn_) {
        const Turn& turn = running_.turns[turn_];
        if (turn.chain != nullptr && late_.contains(turn.chain)) continue;
        if (turn.chain == nullptr) {
            if (std::find(passers.begin(), passers.end(), turn.instrument) == passers.end()) continue;
            if (!inHand(*turn.instrument) && !isOff(bytes_)) continue;
            Sending passing;
            passing.passer = turn.instrument;
            passing.inHand = inHand(*turn.instrument);
            sendings_.push_back(passing);
            continue;
        }
        const auto due = due_.find(idOf(turn.instrument, *turn.chain));
        if (due == due_.end()) continue;
        const Due why = due->second;
        due_.erase(due);
        if (!sleeps(turn.instrument, *turn.chain)) runChain(turn.instrument, *turn.chain, why);
        settleCombines(turn.instrument, *turn.chain);
    }
    if (!bytes_.empty() && isOff(bytes_)) {
        Sending answer;
        answer.answers = true;
        sendings_.push_back(answer);
    }
    // Behind all that the off lets pass, those that waited for it, whole.
    for (turn_ = 0; turn_ < running_.turns.size(); ++turn_) {
        const Turn& turn = running_.turns[turn_];
        if (turn.chain == nullptr || !late_.contains(turn.chain)) continue;
        const auto due = due_.find(idOf(turn.instrument, *turn.chain));
        if (due == due_.end()) continue;
        Due why = due->second;
        due_.erase(due);
        why.source = true;
        if (!sleeps(turn.instrument, *turn.chain)) runChain(turn.instrument, *turn.chain, why);
        settleCombines(turn.instrument, *turn.chain);
    }
    late_.clear();
    due_.clear();
    sendAll();
}

/// Chains that follow tie lines which a waiting chain writes wait with it.
void Interpreter::spreadLate() {
    for (bool more = true; more;) {
        more = false;
        forEachChain([&](const Instrument* writer, const Chain& chain) {
            if (!late_.contains(&chain)) return;
            for (const Branch& branch : chain.branches) {
                const End end = endOf(ensemble_, writer, branch.target);
                if (end.tieLine == nullptr || !branch.on) continue;
                forEachChain([&](const Instrument*, const Chain& reader) {
                    forEachEar(reader, [&](const Ear&, const Source& source) {
                        if (source.kind == SourceKind::tieLine && source.tieLine == end.tieLine->id)
                            more = late_.insert(&reader).second || more;
                    });
                });
            }
        });
    }
}

void Interpreter::runChain(const Instrument* instrument, const Chain& chain, const Due& why) {
    ChainMemory& memory = memoryOf(instrument, chain);
    Due due = why;
    if (memory.back) {
        // What came back into hand runs from the first step, by whatever it is that runs it.
        bool changes = false;
        const auto look = [&](const std::vector<Step>& steps, const std::vector<Memory>& states) {
            for (std::size_t i = 0; i < steps.size(); ++i) {
                Memory then = states[i];
                if (due.cue && cue_ != Cue::none) letThrough(steps[i], then, cue_ == Cue::noteOn);
                if (due.tick) reference::tick(steps[i], then, now_);
                changes = changes || then.result != states[i].result;
            }
        };
        look(chain.steps, memory.trunk);
        for (std::size_t b = 0; b < chain.branches.size(); ++b) {
            const bool runs = leadsSomewhere(instrument, chain.branches[b]) && feeds(instrument, chain, b);
            if (runs) look(chain.branches[b].steps, memory.branches[b]);
        }
        due.source = due.source || due.combine || changes;
        memory.back = !due.source;
    }
    if (!due.source && due.combine) startCombines(instrument, chain);
    memory.spoken = memory.spoken || due.source || due.combine;
    const Cue cue = due.cue ? cue_ : Cue::none;
    std::optional<double> position;
    if (due.source) position = memory.ears[{}].position;
    const auto byNote = cue == Cue::none ? std::nullopt : std::optional(cue == Cue::noteOn);
    walk(chain.steps, memory.trunk, position, due.tick, now_, byNote);
    for (std::size_t b = 0; b < chain.branches.size(); ++b) {
        if (feeds(instrument, chain, b)) runBranch(instrument, chain, b, position, due.tick, cue);
    }
}

void Interpreter::settleCombines(const Instrument* instrument, const Chain& chain) {
    ChainMemory& memory = memoryOf(instrument, chain);
    for (Memory& state : memory.trunk) state.stirred = false;
    for (auto& branch : memory.branches) {
        for (Memory& state : branch) state.stirred = false;
    }
}

/// A combine to which nothing has come starts from the present value before it.
void Interpreter::startCombines(const Instrument* instrument, const Chain& chain) {
    ChainMemory& memory = memoryOf(instrument, chain);
    const double p = memory.ears[{}].position;
    const std::size_t inTrunk = firstStirred(memory.trunk);
    if (inTrunk < memory.trunk.size()) {
        Memory& combine = memory.trunk[inTrunk];
        if (!combine.started) combine.input = present(chain.steps, memory.trunk, inTrunk, p, now_);
        combine.started = true;
        return;
    }
    for (std::size_t b = 0; b < chain.branches.size(); ++b) {
        const Branch& branch = chain.branches[b];
        auto& states = memory.branches[b];
        const std::size_t inBranch = firstStirred(states);
        const bool starts = inBranch < states.size() && !states[inBranch].started;
        if (!starts || !feeds(instrument, chain, b) || !leadsSomewhere(instrument, branch)) continue;
        const auto entering =
            through(branch.window, present(chain.steps, memory.trunk, chain.steps.size(), p, now_));
        if (!entering) continue;
        states[inBranch].input = present(branch.steps, states, inBranch, *entering, now_);
        states[inBranch].started = true;
    }
}

bool Interpreter::feeds(const Instrument* instrument, const Chain& chain, std::size_t branch) {
    if (chain.fan.mode == FanMode::all) return true;
    const auto count = static_cast<int>(chain.branches.size());
    const double q = memoryOf(instrument, chain).ears[{Ear::For::chooser, -1, 0}].position;
    return static_cast<int>(branch) == std::min(count - 1, static_cast<int>(std::floor(q * count)));
}

/// A branch that is off, or leads to an instrument that is, does nothing at all.
bool Interpreter::leadsSomewhere(const Instrument* instrument, const Branch& branch) const {
    const End end = endOf(ensemble_, instrument, branch.target);
    return branch.on && (end.instrument == nullptr || runs(*end.instrument));
}

void Interpreter::runBranch(const Instrument* instrument, const Chain& chain, std::size_t b,
                            std::optional<double> p, bool tick, Cue cue) {
    const Branch& branch = chain.branches[b];
    if (!leadsSomewhere(instrument, branch)) return;
    const End end = endOf(ensemble_, instrument, branch.target);
    bool resting = false;
    if (p) {
        p = through(branch.window, *p);
        resting = !p && branch.window->outside == Outside::rest;
    }
    const auto byNote = cue == Cue::none ? std::nullopt : std::optional(cue == Cue::noteOn);
    walk(branch.steps, memoryOf(instrument, chain).branches[b], p, tick, now_, byNote);
    if (resting) {
        const double rest = end.parameter != nullptr ? restPosition(*end.parameter)
                            : end.tieLine != nullptr ? clamped(end.tieLine->rest)
                                                     : 0;
        return produce(instrument, chain, b, rest, std::nullopt);
    }
    if (!p) return;
    const auto position = [&end](const Level& level) {
        if (end.tieLine != nullptr) return std::get<double>(level);
        return end.hand != nullptr ? *entryPosition(*end.hand, level) : *rawPosition(*end.parameter, level);
    };
    const double low = position(branch.low);
    const double high = position(branch.high);
    produce(instrument, chain, b, clamped(low + *p * (high - low)), std::pair(clamped(low), clamped(high)));
}

void Interpreter::produce(const Instrument* instrument, const Chain& chain, std::size_t b, double q,
                          std::optional<Reach> reach) {
    memoryOf(instrument, chain).produced[b] = q;
    const End end = endOf(ensemble_, instrument, chain.branches[b].target);
    if (end.hand != nullptr) {
        const auto last = static_cast<double>(end.hand->size() - 1);
        return chooseHand(*end.hand, static_cast<std::size_t>(std::floor(q * last + 0.5)));
    }
    if (end.tieLine == nullptr) {
        Sending sending;
        sending.instrument = end.instrument;
        sending.parameter = end.parameter;
        sending.q = q;
        sending.reach = reach;
        sendings_.push_back(sending);
        return;
    }
    lines_[end.tieLine->id] = q;
    forEachChain([&](const Instrument* owner, const Chain& reader) {
        if (sleeps(owner, reader)) return;
        forEachEar(reader, [&](const Ear& ear, const Source& source) {
            if (source.kind == SourceKind::tieLine && source.tieLine == end.tieLine->id)
                speak(owner, reader, ear, q);
        });
    });
}

}  // namespace mellow::reference
