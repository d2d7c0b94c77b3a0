// The list of step kinds. A new kind is a file beside this one and a line here.
#include "core/steps/kinds.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>

#include "core/model/scale.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

constexpr StepKind notYet(std::string_view name, std::string_view label) {
    StepKind kind{};
    kind.name = name;
    kind.label = label;
    kind.available = false;
    return kind;
}

constexpr std::array<StepKind, 2> later{{
    notYet("combine", "Combine"),
    notYet("formula", "Formula"),
}};

const std::array<const StepKind*, 16> kinds{
    &windowStep, &reverseStep, &bendStep, &sCurveStep, &pointsStep, &restAtStep, &deadZoneStep, &levelsStep,
    &gateStep,   &latchStep,   &holdStep, &smoothStep, &scaleStep,  &thinStep,   &later[0],     &later[1],
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
    Step step{&kind, {}, {}, true};
    for (const Field& field : kind.fields) {
        switch (field.type) {
            case Field::Type::number:
            case Field::Type::whole:
                step.values.emplace_back(field.start);
                break;
            case Field::Type::names:
                step.values.emplace_back(std::vector<std::string>{});
                break;
            case Field::Type::choice:
                step.values.emplace_back(static_cast<int>(field.start));
                break;
            case Field::Type::points:
                step.values.emplace_back(std::vector<Point>{{0, 0}, {1, 1}});
                break;
        }
    }
    return step;
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

std::string placeText(double p, const PhraseContext& context) {
    if (context.sourceMax > 0) return text::plain(std::round(p * context.sourceMax));
    return text::plain(std::round(p * 1000) / 10) + " %";
}

double shapePosition(const Step& step, double p) {
    return clampPosition(step.kind->shape(step, p));
}

double settledPosition(std::span<const Step> steps, double p) {
    for (const Step& step : steps) {
        if (!step.on) continue;
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
    for (std::size_t i = 0; i < step.kind->fields.size(); ++i) {
        const Field& field = step.kind->fields[i];
        const bool whole = field.type == Field::Type::whole;
        if (!field.strict || (!whole && field.type != Field::Type::number)) continue;
        const double value = numberOf(step, i);
        if (whole && value != std::floor(value))
            return text::lowered(field.label) + " " + text::plain(value) + " is no whole number";
        if (value >= field.low && value <= field.high) continue;
        return text::lowered(field.label) + " " + text::plain(value) + " is outside " +
               text::plain(field.low) + " to " + text::plain(field.high);
    }
    return step.kind->flaw != nullptr ? step.kind->flaw(step) : std::string();
}

}  // namespace mellow
