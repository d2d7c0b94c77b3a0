// What is worked out beforehand, and the way through a window.
#include "core/reach/branch.h"

#include <algorithm>

namespace mellow {

StepRun::StepRun(const std::vector<Step>& written) : steps_(written) {
    const auto asItIs = [](const Step& step) { return step.on && step.kind->prepare == nullptr; };
    if (std::all_of(written.begin(), written.end(), asItIs)) return;
    made_ = stepsThatAreOn(written);
    prepare(made_);
    steps_ = made_;
}

std::optional<double> throughWindow(const BranchBody& branch, double p) {
    if (branch.window == nullptr) return p;
    const double low = branch.window->low;
    const double high = branch.window->high;
    const bool inside = p >= std::min(low, high) && p <= std::max(low, high);
    if (!inside && branch.window->outside != Outside::clamp) return std::nullopt;
    if (low == high) return p >= low ? 1.0 : 0.0;
    return clampPosition((p - low) / (high - low));
}

std::optional<double> settledReach(const BranchBody& branch, double position) {
    if (!branch.on) return std::nullopt;
    const auto p = throughWindow(branch, position);
    if (p) return reached(branch, settledPosition(branch.steps, *p));
    return branch.window->outside == Outside::rest ? std::optional(branch.restRaw) : std::nullopt;
}

BranchBody prepareBranch(const Parameter& parameter, const Branch& branch) {
    BranchBody prepared;
    prepared.range = rangeOf(parameter);
    const Range& range = prepared.range;
    prepared.kind = parameter.message.kind;
    prepared.number = parameter.message.number;
    prepared.velocity = std::clamp(parameter.message.velocity, 1, midi::max7);
    prepared.bank = parameter.message.bank;
    prepared.repeats = parameter.repeats;
    prepared.mix = parameter.mix;
    prepared.scale = scaleOf(parameter);
    prepared.max = maxOf(parameter);
    prepared.choices = range.law == Law::choices ? static_cast<int>(range.choices.size()) : 0;
    prepared.fromRaw = rawPosition(range, branch.low).value_or(0);
    prepared.toRaw = rawPosition(range, branch.high).value_or(0);
    prepared.restRaw = restPosition(parameter);
    prepared.window = branch.window ? &*branch.window : nullptr;
    prepared.on = branch.on;
    if (branch.on) prepared.steps = StepRun(branch.steps);
    return prepared;
}

BranchBody prepareBranch(const Target& target, const Branch& branch) {
    if (target.parameter != nullptr) return prepareBranch(*target.parameter, branch);
    Parameter asParameter;
    if (target.hand != nullptr) {
        asParameter.message.kind = MessageKind::articulation;
        asParameter.display.law = Law::choices;
        asParameter.display.choices = target.hand->handOrder;
    } else {
        asParameter.display.low = 0;
        asParameter.display.high = 1;
        asParameter.rest = target.tieLine->rest;
    }
    return prepareBranch(asParameter, branch);
}

}  // namespace mellow
