// Taking chains through their steps, from an ear to the targets (signal rules, sections 2 to 4).
//
// A chain that is moved by its source runs from the start; by a `combine`, from there on with the present
// value before it; by the clock or a cue, from the first step whose output changed. All three are one walk:
// a value is taken along or there is none yet, and a step that moves by itself begins one.
#include <algorithm>
#include <utility>

#include "core/engine/playing/engine.h"

namespace mellow::engine {

namespace {

/// Takes a value through steps, memory and all; nothing when none came and no step moved.
std::optional<double> through(std::span<const Step> steps, StepState* states, std::optional<double> p,
                              Moment moment) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const StepKind& kind = *steps[i].kind;
        if (!kind.remembers()) {
            if (p) p = shapePosition(steps[i], *p);
            continue;
        }
        StepState& state = states[i];
        const double before = state.output;
        const bool joins = !p && state.stirred && state.started;
        if (joins) p = state.input;
        if (p) kind.take(steps[i], state, *p, moment.time);
        if (moment.cue != Cue::none && state.started && kind.hear != nullptr)
            kind.hear(steps[i], state, moment.cue);
        if (moment.tick && state.moving) kind.tick(steps[i], state, moment.time);
        if (p || state.output != before) p = clampPosition(state.output);
    }
    return p;
}

/// Takes a value through steps while nothing else happens.
double through(std::span<const Step> steps, StepState* states, double p, Time now) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const StepKind& kind = *steps[i].kind;
        if (kind.take == nullptr) {
            p = shapePosition(steps[i], p);
        } else {
            kind.take(steps[i], states[i], p, now);
            p = clampPosition(states[i].output);
        }
    }
    return p;
}

}  // namespace

/// The only chain that a message moves takes its value.
void Engine::runAlone(std::uint32_t index, int raw, const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    EarState& ear = state().ears[chain.firstEar];
    ++serial_;
    state().chains[index].back = false;
    ear.raw = raw;
    ear.position = placeOf(plan().ears[chain.firstEar], raw);
    ear.spoken = true;
    state().chainLive[index].raw.store(raw, std::memory_order_relaxed);
    if (chain.way == Way::straight) {
        state().chains[index].spoken = true;
        return chain.places != nullptr ? runStraight(index, chain.places[raw], chain.firstLive, sink)
                                       : runStraight(index, ear.position, 0, sink);
    }
    cue_ = Cue::none;
    defers_ = mixes_;
    state().chains[index].moved = true;
    runChain(index, sink);
    if (defers_) flush(sink);
    defers_ = false;
}

/// Takes a chain from a place before one of its trunk's steps to its targets, where nothing waits on the way.
void Engine::runStraight(std::uint32_t index, double place, std::size_t from, const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    StepState* states = state().steps.data();
    const double p = through(chain.steps().subspan(from), states + chain.firstState + from, place, now_);
    state().chainLive[index].result.store(static_cast<float>(p), std::memory_order_relaxed);
    for (std::uint32_t b = chain.firstBranch; b < chain.firstBranch + chain.branchCount; ++b) {
        const PlanBranch& branch = plan().branches[b];
        const BranchBody& body = *branch.body;
        double q = body.restRaw;
        const auto inside = body.window == nullptr ? std::optional(p) : throughWindow(body, p);
        if (inside) {
            q = spread(body, through(body.steps, states + branch.firstState, *inside, now_));
            if (branch.mix == none) q = nearestChoice(body, q);
        } else if (body.window->outside == Outside::silent) {
            continue;
        }
        state().branchLive[b].value.store(static_cast<float>(q), std::memory_order_relaxed);
        if (branch.mix != none) {
            state().mixed[b] = q;
            if (!branch.endsMix) continue;
            q = mixedReach(b);
        }
        if (inside && branch.mix == none) {
            sendReach(b, q, sink);
        } else {
            sendPosition(b, q, sink);
        }
    }
    if (chain.ticks) updateMoving(index);
}

/// A marked chain has its turn.
void Engine::runChain(std::uint32_t index, const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    ChainState& chainState = state().chains[index];
    const EarState& ear = state().ears[chain.firstEar];
    bool moved = std::exchange(chainState.moved, false);
    const bool stirred = std::exchange(chainState.stirred, false);
    const Moment moment{now_, ticking_, std::exchange(chainState.hears, false) ? cue_ : Cue::none};
    if (isAsleep(chain)) return settleCombines(chain);  // Its instrument left the hand in this event.
    if (!chain.isEvaluated()) {
        if (!moved) return;
        if (ear.raw >= 0) return lookUp(index, ear.raw, sink);
        return sendBetween(chain, ear.position, sink);
    }
    if (lateRun_ && isLate(index)) moved = true;
    if (chainState.back) {
        moved = moved || stirred || goesOnByItself(chain, moment);
        chainState.back = !moved;
    }
    if (!moved && stirred) prime(index);
    chainState.spoken = chainState.spoken || moved || stirred;
    if (!moved) {
        goOn(index, std::nullopt, chain.firstLive, moment, sink);
    } else if (chain.places != nullptr && ear.raw >= 0 &&
               plan().ears[chain.firstEar].handover == Handover::jump) {
        goOn(index, chain.places[ear.raw], chain.firstLive, moment, sink);
    } else {
        goOn(index, ear.position, 0, moment, sink);
    }
    settleCombines(chain);
    updateMoving(index);
}

/// True where the clock or a cue would change what some step comes to.
bool Engine::goesOnByItself(const PlanChain& chain, Moment moment) const {
    const auto changes = [&](std::span<const Step> steps, std::uint32_t firstState) {
        for (std::size_t i = 0; i < steps.size(); ++i) {
            const StepKind& kind = *steps[i].kind;
            if (!kind.remembers()) continue;
            const StepState& now = program_->state.steps[firstState + i];
            StepState then = now;
            if (moment.cue != Cue::none && then.started && kind.hear != nullptr)
                kind.hear(steps[i], then, moment.cue);
            if (moment.tick && then.moving) kind.tick(steps[i], then, moment.time);
            if (then.output != now.output) return true;
        }
        return false;
    };
    if (changes(chain.steps(), chain.firstState)) return true;
    for (std::uint32_t i = 0; i < chain.branchCount; ++i) {
        const PlanBranch& branch = plan().branches[chain.firstBranch + i];
        if (branch.on && feeds(chain, i) && changes(branch.body->steps, branch.firstState)) return true;
    }
    return false;
}

/// What second sources said in this event has been heard.
void Engine::settleCombines(const PlanChain& chain) {
    for (std::uint32_t e = chain.firstEar + 1; e < chain.firstEar + chain.earCount; ++e) {
        if (plan().ears[e].role == Role::combine) state().steps[plan().ears[e].step].stirred = false;
    }
}

namespace {

/// The first step that a second source stirred, or the number of steps.
std::size_t firstStirred(std::span<const Step> steps, const StepState* states) {
    std::size_t i = 0;
    while (i < steps.size() && !states[i].stirred) ++i;
    return i;
}

/// The present value behind steps, for a value before them; to those that remember and have had no input it
/// is their first.
double presentBehind(std::span<const Step> steps, StepState* states, double p, Time now) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const StepKind& kind = *steps[i].kind;
        if (kind.remembers() && !states[i].started) kind.take(steps[i], states[i], p, now);
        p = kind.remembers() ? clampPosition(states[i].output) : shapePosition(steps[i], p);
    }
    return p;
}

}  // namespace

/// The present value before a step of a chain's trunk.
double Engine::trunkBefore(std::uint32_t index, std::size_t step) {
    const PlanChain& chain = plan().chains[index];
    return presentBehind(chain.steps().first(step), state().steps.data() + chain.firstState,
                         state().ears[chain.firstEar].position, now_);
}

/// A second source has spoken. A combine to which nothing has come yet starts from the present value before
/// it, and so do the steps on the way there; nothing else is moved.
void Engine::prime(std::uint32_t index) {
    const PlanChain& chain = plan().chains[index];
    StepState* states = state().steps.data();
    const std::size_t stirred = firstStirred(chain.steps(), states + chain.firstState);
    if (stirred < chain.steps().size()) {
        StepState& combine = states[chain.firstState + stirred];
        if (!combine.started) combine.input = trunkBefore(index, stirred);
        combine.started = true;
        return;
    }
    for (std::uint32_t i = 0; i < chain.branchCount; ++i) {
        const PlanBranch& branch = plan().branches[chain.firstBranch + i];
        if (!branch.on || !feeds(chain, i)) continue;
        const std::span<const Step> steps = branch.body->steps;
        const std::size_t first = firstStirred(steps, states + branch.firstState);
        if (first == steps.size() || states[branch.firstState + first].started) continue;
        const auto entering = throughWindow(*branch.body, trunkBefore(index, chain.steps().size()));
        if (!entering) continue;
        StepState& combine = states[branch.firstState + first];
        combine.input = presentBehind(steps.first(first), states + branch.firstState, *entering, now_);
        combine.started = true;
    }
}

/// Takes a chain on from a step of its trunk, with a value that came there or without.
void Engine::goOn(std::uint32_t index, std::optional<double> position, std::size_t from, Moment moment,
                  const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    position = through(chain.steps().subspan(from), state().steps.data() + chain.firstState + from, position,
                       moment);
    if (position)
        state().chainLive[index].result.store(static_cast<float>(*position), std::memory_order_relaxed);
    showSteps(index);
    runBranches(index, position, moment, sink);
}

/// Leaves for the window which of the trunk's steps stand above the middle, and what the first second source
/// says.
void Engine::showSteps(std::uint32_t index) {
    const PlanChain& chain = plan().chains[index];
    constexpr std::size_t shown = 32;
    std::uint32_t up = 0;
    float other = -1;
    for (std::size_t i = 0; i < std::min(chain.steps().size(), shown); ++i) {
        const StepState& step = state().steps[chain.firstState + i];
        if (chain.steps()[i].kind->namesSource && other < 0) other = static_cast<float>(step.other);
        if (chain.steps()[i].kind->remembers() && step.started && step.output >= 0.5) up |= 1U << i;
    }
    state().chainLive[index].stepsUp.store(up, std::memory_order_relaxed);
    state().chainLive[index].other.store(other, std::memory_order_relaxed);
}

/// True when a branch of a chain, by its place in it, is one that the fan feeds now.
bool Engine::feeds(const PlanChain& chain, std::uint32_t branch) const {
    if (!chain.chosen) return true;
    const double q = program_->state.ears[chain.firstEar + chain.earCount - 1].position;
    return branch == chosenBranch(chain, q);
}

void Engine::runBranches(std::uint32_t index, std::optional<double> position, Moment moment,
                         const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    for (std::uint32_t i = 0; i < chain.branchCount; ++i) {
        const std::uint32_t b = chain.firstBranch + i;
        const PlanBranch& branch = plan().branches[b];
        if (!branch.on || !feeds(chain, i)) continue;
        std::optional<double> p;
        bool rests = false;
        if (position) {
            p = throughWindow(*branch.body, *position);
            rests = !p && branch.body->window->outside == Outside::rest;
        }
        p = through(branch.body->steps, state().steps.data() + branch.firstState, p, moment);
        if (rests) {
            produce(b, branch.body->restRaw, true, sink);
        } else if (p) {
            produce(b, branch.mix == none ? reached(*branch.body, *p) : spread(*branch.body, *p), false,
                    sink);
        }
    }
}

/// What a branch comes to goes to its target: at once, or at the end of the event.
/// rests: it is the target's rest, which may lie outside the reach.
void Engine::produce(std::uint32_t b, double q, bool rests, const Sink& sink) {
    const PlanBranch& branch = plan().branches[b];
    state().branchLive[b].value.store(static_cast<float>(q), std::memory_order_relaxed);
    if (branch.tieLine != none) return writeTieLine(branch.tieLine, q);
    if (branch.hand) return chooseHand(static_cast<std::size_t>(labelAt(*branch.body, q)), sink);
    if (branch.mix != none) {
        state().mixed[b] = q;
        return defer({Deferred::What::mix, b, 0, 0}, sink);
    }
    if (defers_) return defer({rests ? Deferred::What::rest : Deferred::What::reach, b, 0, q}, sink);
    if (rests) return sendPosition(b, q, sink);
    sendReach(b, q, sink);
}

void Engine::writeTieLine(std::uint32_t line, double q) {
    state().tieLines[line] = q;
    for (const std::uint32_t e : plan().tieLines[line].ears) {
        if (!isAsleep(plan().chains[plan().ears[e].chain])) speak(e, q);
    }
}

void Engine::updateMoving(std::uint32_t index) {
    const PlanChain& chain = plan().chains[index];
    const auto anyMoves = [this](std::uint32_t first, std::size_t count) {
        const auto* states = state().steps.data() + first;
        return std::any_of(states, states + count, [](const StepState& s) { return s.moving; });
    };
    bool moving = anyMoves(chain.firstState, chain.steps().size());
    for (std::uint32_t i = 0; !moving && i < chain.branchCount; ++i) {
        const PlanBranch& branch = plan().branches[chain.firstBranch + i];
        moving = feeds(chain, i) && anyMoves(branch.firstState, branch.body->steps.size());
    }
    moving = moving && !isAsleep(chain);
    ChainState& chainState = state().chains[index];
    if (moving && !chainState.moving) ++movingChains_;
    if (!moving && chainState.moving) --movingChains_;
    chainState.moving = moving;
}

}  // namespace mellow::engine
