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
    return branch.window->outside == Outside::rest ? std::optional(nearestChoice(branch, branch.restRaw))
                                                   : std::nullopt;
}

std::optional<int> settledValue(const BranchBody& branch, double position) {
    if (!branch.on) return std::nullopt;
    const auto p = throughWindow(branch, position);
    if (p) return valueWithinReach(branch, reached(branch, settledPosition(branch.steps, *p)));
    return branch.window->outside == Outside::rest ? std::optional(restValue(branch)) : std::nullopt;
}

namespace {

/// A mixed parameter's value is nobody's reach alone; labels and numbers by OSC are not rounded to a number.
bool hasEnds(const Parameter& parameter) {
    const MessageKind kind = parameter.message.kind;
    return parameter.display.law != Law::choices && parameter.mix == Mix::latest &&
           kind != MessageKind::osc && kind != MessageKind::articulation && kind != MessageKind::note;
}

ReachEnds endsBetween(Scale scale, int max, double fromRaw, double toRaw) {
    constexpr double tolerance = 1e-6;
    const double from = encodeExactly(scale, clampPosition(fromRaw), max);
    const double to = encodeExactly(scale, clampPosition(toRaw), max);
    return {static_cast<int>(std::ceil(std::min(from, to) - tolerance)),
            static_cast<int>(std::floor(std::max(from, to) + tolerance))};
}

void setEnds(BranchBody& branch) {
    const ReachEnds ends = endsBetween(branch.scale, branch.max, branch.fromRaw, branch.toRaw);
    if (ends.lowest > ends.highest) return;
    // A velocity of 0 would be a note-off.
    const int least = branch.kind == MessageKind::velocity ? 1 : 0;
    branch.lowestValue = std::max(ends.lowest, least);
    branch.highestValue = std::max(ends.highest, least);
}

}  // namespace

std::optional<ReachEnds> endsOf(const Parameter& parameter, const Branch& branch) {
    if (!hasEnds(parameter)) return std::nullopt;
    const Range range = rangeOf(parameter);
    const auto from = rawPosition(range, branch.low);
    const auto to = rawPosition(range, branch.high);
    if (!from || !to) return std::nullopt;
    return endsBetween(scaleOf(parameter), maxOf(parameter), *from, *to);
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
    if (hasEnds(parameter)) setEnds(prepared);
    prepared.window = branch.window ? &*branch.window : nullptr;
    prepared.on = branch.on;
    if (branch.on) prepared.steps = StepRun(branch.steps);
    return prepared;
}

BranchBody prepareBranch(const Target& target, const Branch& branch) {
    if (!target.exists()) {
        BranchBody leadsNowhere;
        leadsNowhere.on = false;
        return leadsNowhere;
    }
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
