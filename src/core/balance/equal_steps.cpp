#include "core/balance/equal_steps.h"

#include <algorithm>
#include <cmath>

#include "core/balance/trunk.h"
#include "core/model/scale.h"
#include "core/steps/step.h"
#include "core/text/printable.h"

namespace mellow::balance {

namespace {

/// The level at a share of the way between two, in equal steps.
double levelBetween(double low, double high, double share, LoudnessScale scale) {
    if (scale == LoudnessScale::lu) return low + share * (high - low);
    constexpr double doubling = 10;  // LU
    const double from = std::exp2(low / doubling);
    const double to = std::exp2(high / doubling);
    return doubling * std::log2(from + share * (to - from));
}

double offGoal(const Curve& curve, const std::vector<std::pair<double, double>>& goal) {
    const std::vector<CurvePoint> mean = meanOf(curve);
    double off = 0;
    for (const auto& [position, level] : goal) {
        if (const auto here = loudnessAt(mean, position)) off = std::max(off, std::abs(*here - level));
    }
    return off;
}

Step pointsStep(const Fit& fit) {
    std::vector<Point> points = fit.points;
    constexpr double fine = 10'000;
    for (Point& each : points) each.y = std::round((fit.low + each.y * (fit.high - fit.low)) * fine) / fine;
    Step step = makeStep(*findStepKind("points"));
    step.values[0] = std::move(points);
    return step;
}

}  // namespace

Result<Levelled> equalSteps(const Ensemble& ensemble, const EqualWish& wish, const Measure& measure) {
    Levelled result;
    result.ensemble = ensemble;
    Instrument* instrument = findById(result.ensemble.instruments, wish.plan.instrument);
    if (instrument == nullptr)
        return Problem{text::quoted(wish.plan.instrument), "there is no instrument with this id",
                       "say one that the ensemble has"};
    result.chain = wish.chain.empty() ? chainMovedBy(ensemble, *instrument, wish.plan) : wish.chain;
    Chain* chain = findById(instrument->chains, result.chain);
    if (chain == nullptr || isKeys(wish.plan.motion))
        return Problem{nameOf(*instrument), "no chain is moved that could be bent",
                       "choose a control that a chain of the instrument has at its head"};
    auto before = measure(ensemble, wish.plan, "as it is");
    if (!before) return before.problem();
    result.before = std::move(*before);
    const std::vector<CurvePoint> mean = meanOf(result.before);
    // Positions and not what is sent are bent, so that nothing is rounded.
    auto law = LevelLaw::of(mean, midi::max14);
    if (!law)
        return Problem{nameOf(*chain), "along it loudness changes too little to make steps of",
                       "choose what makes the instrument louder"};
    double low = 0;
    double high = law->loudest();
    const double top =
        *std::max_element(mean.begin(), mean.end(), [](const auto& one, const auto& other) {
             constexpr double nothing = -1000;
             return one.heard.loudness.value_or(nothing) < other.heard.loudness.value_or(nothing);
         })->heard.loudness;
    low = law->softest();
    const bool falls = law->positionFor(low) > law->positionFor(high);
    std::vector<FitPoint> points;
    for (const CurvePoint& each : mean) {
        const double share = falls ? 1 - each.position : each.position;
        const double level = levelBetween(top + low, top + high, share, wish.scale);
        points.push_back({each.position, top, -std::numeric_limits<double>::infinity(), level});
        result.goal.emplace_back(each.position, level);
    }
    constexpr double spare = 0.6;
    const Fit fitted = fit(
        *law, points,
        {law->positionFor(high), wish.within * spare, wish.within, std::numeric_limits<double>::infinity()});
    chain->steps.insert(chain->steps.begin(), pointsStep(fitted));
    auto after = measure(result.ensemble, wish.plan, "what comes of it");
    if (!after) return after.problem();
    result.after = std::move(*after);
    result.offBefore = offGoal(result.before, result.goal);
    result.off = offGoal(result.after, result.goal);
    result.points = fitted.points.size();
    result.branch = -1;
    result.peak = readoutOf(meanOf(result.after)).peak;
    return result;
}

}  // namespace mellow::balance
