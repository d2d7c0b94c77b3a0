// The list of step kinds. A new kind is a file beside this one and a line here.
#include "core/steps/kinds.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>
#include <utility>

#include "core/model/scale.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

const std::array<const StepKind*, 17> kinds{
    &windowStep,   &reverseStep, &bendStep,    &sCurveStep,  &pointsStep, &restAtStep,
    &deadZoneStep, &levelsStep,  &gateStep,    &latchStep,   &holdStep,   &smoothStep,
    &scaleStep,    &limitStep,   &combineStep, &formulaStep, &thinStep,
};

}  // namespace

std::span<const StepKind* const> stepKinds() {
    return kinds;
}

const StepKind* findStepKind(std::string_view name) {
    const auto found =
        std::find_if(kinds.begin(), kinds.end(), [name](auto* kind) { return kind->name == name; });
    return found == kinds.end() ? nullptr : *found;
}

Step makeStep(const StepKind& kind) {
    Step step;
    step.kind = &kind;
    step.values = startOf(kind.fields);
    if (kind.namesSource) step.with = makeSource(SourceKind::cc);
    return step;
}

void prepare(std::vector<Step>& steps) {
    for (Step& step : steps) {
        if (step.kind->prepare != nullptr) step.prepared.made = step.kind->prepare(step);
    }
}

double numberOf(const Step& step, std::size_t field) {
    return *std::get_if<double>(&step.values[field]);
}
int choiceOf(const Step& step, std::size_t field) {
    return *std::get_if<int>(&step.values[field]);
}
const std::vector<Point>& pointsOf(const Step& step, std::size_t field) {
    return *std::get_if<std::vector<Point>>(&step.values[field]);
}

const std::vector<std::string>& namesOf(const Step& step, std::size_t field) {
    return *std::get_if<std::vector<std::string>>(&step.values[field]);
}

const std::string& textOf(const Step& step, std::size_t field) {
    return *std::get_if<std::string>(&step.values[field]);
}

std::string placeText(double p, const PhraseContext& context) {
    if (context.sourceMax > 0) return text::plain(std::round(p * context.sourceMax));
    return text::plain(std::round(p * 1000) / 10) + " %";
}

double shapePosition(const Step& step, double p) {
    return clampPosition(step.kind->shape(step, p));
}

void shapePositions(const Step& step, std::span<double> positions) {
    if (step.kind->shapeAll == nullptr) {
        for (double& p : positions) p = step.kind->shape(step, p);
    } else {
        step.kind->shapeAll(step, positions);
    }
    for (double& p : positions) p = clampPosition(p);
}

double settledPosition(std::span<const Step> steps, double p, double other) {
    for (const Step& step : steps) {
        if (!step.on) continue;
        if (step.kind->namesSource && other >= 0) {
            StepState state;
            state.other = std::exchange(other, -1);
            step.kind->take(step, state, p, 0);
            p = clampPosition(state.output);
        }
        if (step.kind->shape != nullptr) p = shapePosition(step, p);
        if (step.kind->settled != nullptr) p = clampPosition(step.kind->settled(step, p));
    }
    return p;
}

std::vector<Step> stepsThatAreOn(const std::vector<Step>& steps) {
    std::vector<Step> on;
    std::copy_if(steps.begin(), steps.end(), std::back_inserter(on),
                 [](const Step& step) { return step.on; });
    return on;
}

std::string flawOf(const Step& step) {
    std::string flaw = flawOf(step.kind->fields, step.values);
    if (!flaw.empty()) return flaw;
    return step.kind->flaw != nullptr ? step.kind->flaw(step) : std::string();
}

}  // namespace mellow
