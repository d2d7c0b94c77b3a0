#include "core/steps/example.h"

#include <cmath>
#include <numbers>

#include "core/model/scale.h"

namespace mellow {

namespace {

constexpr Microseconds gestureLasts = 600'000;
constexpr Microseconds grid = 1000;
constexpr double cues = 5;  // notes that begin during the gesture

Step prepared(const Step& step) {
    std::vector<Step> ready{step};
    prepare(ready);
    return std::move(ready.front());
}

/// A hand that goes up and down twice, at a share of the gesture.
double hand(double share) {
    return 0.5 - 0.5 * std::cos(share * 4 * std::numbers::pi);
}

double through(const Step& step, double p) {
    if (step.kind->take == nullptr || step.kind->settled != nullptr)
        return settledPosition(std::span(&step, 1), p);
    StepState state;
    state.other = 0.5;
    step.kind->take(step, state, p, 0);
    return clampPosition(state.output);
}

void overTime(const Step& step, std::span<const Step> behind, std::size_t count, StepExample& example) {
    StepState state;
    Microseconds ticked = 0;
    int cued = 0;
    for (std::size_t i = 0; i < count; ++i) {
        const double share = static_cast<double>(i) / static_cast<double>(count - 1);
        const auto now = static_cast<Microseconds>(share * static_cast<double>(gestureLasts));
        for (; ticked + grid <= now && step.kind->tick != nullptr; ticked += grid)
            step.kind->tick(step, state, ticked + grid);
        if (step.kind->hear != nullptr && share * cues >= cued + 0.5) {
            ++cued;
            step.kind->hear(step, state, Cue::noteOn);
        }
        example.before.push_back(settledPosition(behind, hand(share)));
        step.kind->take(step, state, example.before.back(), now);
        example.after.push_back(clampPosition(state.output));
    }
}

}  // namespace

StepExample exampleOf(const StepKind& kind, std::span<const Step> behind, std::size_t count) {
    Step step = makeStep(kind);
    if (kind.example != nullptr) step.values = kind.example();
    return exampleOf(step, behind, count);
}

StepExample exampleOf(const Step& asIs, std::span<const Step> behind, std::size_t count) {
    const Step step = prepared(asIs);
    const StepKind& kind = *step.kind;
    StepExample example;
    const bool isStateless = kind.shape != nullptr || kind.take == nullptr || kind.namesSource;
    example.overTime = !isStateless && (kind.recalls || kind.settled == nullptr);
    if (example.overTime) {
        overTime(step, behind, count, example);
        return example;
    }
    for (std::size_t i = 0; i < count; ++i) {
        const double p = static_cast<double>(i) / static_cast<double>(count - 1);
        example.before.push_back(settledPosition(behind, p));
        example.after.push_back(through(step, example.before.back()));
    }
    return example;
}

}  // namespace mellow
