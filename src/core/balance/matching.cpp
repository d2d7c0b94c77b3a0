#include "core/balance/matching.h"

#include "core/balance/trunk.h"
#include "core/model/resolve.h"

namespace mellow::balance {

std::string volumeOf(const Instrument& instrument) {
    constexpr int volume = 7;
    for (const Parameter* each : levelParameters(instrument)) {
        const MessageKind kind = each->message.kind;
        const bool isControl = kind == MessageKind::cc || kind == MessageKind::cc14;
        if (isControl && each->message.number == volume) return each->id;
    }
    return "cc 7";
}

LevelWish wishFor(const Ensemble& ensemble, LevelWish wish, const std::string& instrument) {
    if (instrument == wish.plan.instrument) return wish;
    const Instrument& its = *findById(ensemble.instruments, instrument);
    wish.chain.clear();
    wish.plan.instrument = instrument;
    wish.plan.keys = usualKeys(its, wish.plan.motion);
    const std::string chain = chainMovedBy(ensemble, its, wish.plan);
    wish.plan.settle = settleFor(findById(its.chains, chain));
    wish.parameter = volumeOf(its);
    return wish;
}

Result<Goal> goalFrom(const Curve& curve) {
    Goal goal;
    goal.kind = Goal::Kind::line;
    for (const CurvePoint& each : meanOf(curve)) {
        if (each.heard.loudness) goal.points.emplace_back(each.position, *each.heard.loudness);
    }
    if (goal.points.size() >= 2) return goal;
    return Problem{curve.instrumentName, "it is too quiet along this to be followed",
                   "follow another, or measure at another key or velocity"};
}

Result<Matched> match(const Ensemble& ensemble, const LevelWish& wish, const std::vector<std::string>& others,
                      const Measure& measure) {
    const auto curve = measure(ensemble, wish.plan, "the one that leads");
    if (!curve) return curve.problem();
    const auto goal = goalFrom(*curve);
    if (!goal) return goal.problem();
    Matched matched;
    for (const std::string& each : others) {
        if (findById(ensemble.instruments, each) == nullptr) continue;
        LevelWish its = wishFor(ensemble, wish, each);
        its.goal = *goal;
        auto levelled = level(ensemble, its, measure);
        if (levelled)
            matched.levelled.emplace_back(std::move(*levelled), std::move(its));
        else
            matched.troubles.push_back(levelled.problem().sentence());
    }
    return matched;
}

}  // namespace mellow::balance
