#include "core/balance/equal_steps.h"

#include <algorithm>
#include <cmath>

#include "core/balance/trunk.h"
#include "core/model/scale.h"
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

/// As they are drawn, a curve's ends are those of what they stand in for.
std::vector<Point> drawn(const Fit& fit) {
    std::vector<Point> points = fit.points;
    constexpr double fine = 10'000;
    for (Point& each : points) each.y = std::round((fit.low + each.y * (fit.high - fit.low)) * fine) / fine;
    return points;
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
    const double low = law->softest();
    const double high = law->loudest();
    const double top = *loudestOf(mean)->heard.loudness;
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
    chain->steps.insert(chain->steps.begin(), pointsStep(drawn(fitted)));
    auto after = measure(result.ensemble, wish.plan, "what comes of it");
    if (!after) return after.problem();
    result.after = std::move(*after);
    result.offBefore = worst(shortOf(result.goal, result.before));
    result.off = worst(shortOf(result.goal, result.after));
    result.points = fitted.points.size();
    result.peak = readoutOf(meanOf(result.after)).peak;
    return result;
}

}  // namespace mellow::balance
