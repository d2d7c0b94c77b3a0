#include "core/balance/fitting.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace mellow::balance {

namespace {

constexpr double leastRange = 1;  // LU
constexpr double fine = 10'000;   // points are written in steps of a ten-thousandth

double between(double from, double to, double share) {
    return from + share * (to - from);
}

/// What is wanted over the trunk, each place once.
struct Wanted {
    std::vector<double> trunk;
    std::vector<double> level;    ///< by the law
    std::vector<double> q;        ///< the raw position for it
    std::vector<double> within;   ///< LU that a line may be off there
    std::vector<std::size_t> at;  ///< for each point that is fitted, its place here
};

/// levels: by the law, one for each point.
Wanted sorted(const LevelLaw& law, const std::vector<FitPoint>& points, const std::vector<double>& levels,
              double within) {
    std::vector<std::size_t> order(points.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(),
              [&](std::size_t one, std::size_t other) { return points[one].trunk < points[other].trunk; });
    Wanted all;
    all.at.resize(points.size());
    std::size_t same = 0;
    for (const std::size_t i : order) {
        const double x = std::round(points[i].trunk * fine) / fine;
        if (!all.trunk.empty() && all.trunk.back() == x) {
            ++same;  // the mean of those that come to the same
            all.level.back() += (levels[i] - all.level.back()) / static_cast<double>(same + 1);
            all.at[i] = all.trunk.size() - 1;
            continue;
        }
        same = 0;
        all.at[i] = all.trunk.size();
        all.trunk.push_back(x);
        all.level.push_back(levels[i]);
    }
    for (const double level : all.level) {
        all.q.push_back(law.positionFor(level));
        constexpr double hardly = 0.02;  // LU
        all.within.push_back(std::max(within, law.nearest(level) + hardly));
    }
    return all;
}

/// Whether a straight line between two of them stays within an error, in LU, of those between.
bool isStraight(const LevelLaw& law, const Wanted& all, std::size_t first, std::size_t last) {
    for (std::size_t i = first + 1; i < last; ++i) {
        const double share = (all.trunk[i] - all.trunk[first]) / (all.trunk[last] - all.trunk[first]);
        const double drawn = law.levelSent(between(all.q[first], all.q[last], share));
        if (std::abs(drawn - all.level[i]) > all.within[i]) return false;
    }
    return true;
}

/// The places of the fewest between which straight lines will do.
std::vector<std::size_t> fewest(const LevelLaw& law, const Wanted& all) {
    const std::size_t count = all.trunk.size();
    std::vector<std::size_t> lines(count, count);  // that lead to a place
    std::vector<std::size_t> before(count, 0);
    lines[0] = 0;
    for (std::size_t from = 0; from + 1 < count; ++from) {
        for (std::size_t to = from + 1; to < count; ++to) {
            if (lines[from] + 1 >= lines[to] || !isStraight(law, all, from, to)) continue;
            lines[to] = lines[from] + 1;
            before[to] = from;
        }
    }
    std::vector<std::size_t> places;
    for (std::size_t at = count - 1; at != 0; at = before[at]) places.push_back(at);
    places.push_back(0);
    std::reverse(places.begin(), places.end());
    return places;
}

/// How much louder, and how much softer (below 0), a position can be made.
struct Room {
    double up;
    double down;
};
Room roomOf(const LevelLaw& law, const FitPoint& point, const FitWish& wish) {
    const double still = law.level(wish.still);
    return {std::min(law.loudest() - still, wish.ceiling - point.peak), law.softest() - still};
}

}  // namespace

Result<LevelLaw> LevelLaw::of(const std::vector<CurvePoint>& points, int max, Scale scale) {
    LevelLaw law;
    law.max_ = max;
    law.scale_ = scale;
    std::vector<const CurvePoint*> heard;
    for (const CurvePoint& each : points) {
        if (each.heard.loudness) heard.push_back(&each);
    }
    const Problem still{"The parameter", "it does not change the level",
                        "choose volume, expression, a gain or whatever makes the instrument louder"};
    if (heard.size() < 2)
        return Problem{"The parameter", "too little is heard along it to know what it does",
                       "choose another, or a key and velocity at which the instrument sounds"};
    law.falls_ = *heard.back()->heard.loudness < *heard.front()->heard.loudness;
    if (law.falls_) std::reverse(heard.begin(), heard.end());
    double loudest = *heard.front()->heard.loudness;
    law.peak_ = heard.front()->heard.peak;
    for (const CurvePoint* each : heard) {
        // What is no louder than one before it adds nothing.
        if (!law.steps_.empty() && *each->heard.loudness <= loudest) continue;
        loudest = *each->heard.loudness;
        law.peak_ = each->heard.peak;
        law.steps_.push_back({loudest, each->position});
    }
    for (Stand& each : law.steps_) each.level -= loudest;
    if (law.loudest() - law.softest() < leastRange) return still;
    return law;
}

double LevelLaw::level(double q) const {
    const double sign = falls_ ? -1 : 1;
    const auto behind = std::partition_point(steps_.begin(), steps_.end(),
                                             [&](const Stand& each) { return sign * each.q < sign * q; });
    if (behind == steps_.begin()) return steps_.front().level;
    if (behind == steps_.end()) return steps_.back().level;
    const Stand& before = *std::prev(behind);
    return between(before.level, behind->level, (q - before.q) / (behind->q - before.q));
}

double LevelLaw::nearest(double level) const {
    const int below = encode(scale_, clampPosition(positionFor(level)), max_);
    double best = std::numeric_limits<double>::infinity();
    for (int value = std::max(0, below - 1); value <= std::min(max_, below + 1); ++value)
        best = std::min(best, std::abs(this->level(decode(scale_, value, max_)) - level));
    return best;
}

double LevelLaw::positionFor(double level) const {
    const auto behind = std::partition_point(steps_.begin(), steps_.end(),
                                             [level](const Stand& each) { return each.level < level; });
    if (behind == steps_.begin()) return steps_.front().q;
    if (behind == steps_.end()) return steps_.back().q;
    const Stand& before = *std::prev(behind);
    return between(before.q, behind->q, (level - before.level) / (behind->level - before.level));
}

namespace {

Fit drawn(const Wanted& all, const std::vector<std::size_t>& places) {
    Fit fit;
    const auto [low, high] = std::minmax_element(all.q.begin(), all.q.end());
    fit.low = *low;
    fit.high = *high;
    const double reach = fit.high - fit.low;
    const auto y = [&](std::size_t place) {
        return reach > 0 ? std::round((all.q[place] - fit.low) / reach * fine) / fine : 0;
    };
    if (all.trunk.front() > 0) fit.points.push_back({0, y(0)});
    for (const std::size_t place : places) fit.points.push_back({all.trunk[place], y(place)});
    if (fit.points.back().x < 1) fit.points.push_back({1, fit.points.back().y});
    return fit;
}

/// What is left at a point. wanted, drawn: levels, as it is wanted there and as it can be drawn.
std::pair<Lack, double> lackOf(const LevelLaw& law, double wanted, double drawn, double left,
                               double allowed) {
    constexpr double hardly = 0.05;  // LU
    if (std::abs(left) > hardly) return {Lack::room, left};
    // What is measured again is not quite what was, which needs its share of the error.
    constexpr double most = 0.75;
    constexpr double half = 0.5;
    if (std::abs(wanted - drawn) > allowed * half) return {Lack::joined, wanted - drawn};
    const double nearest = law.nearest(drawn);
    if (nearest > allowed * most) return {Lack::steps, nearest};
    return {Lack::none, 0};
}

}  // namespace

Fit fit(const LevelLaw& law, const std::vector<FitPoint>& points, const FitWish& wish) {
    std::vector<double> levels;
    std::vector<double> left;
    const double still = law.level(wish.still);
    for (const FitPoint& point : points) {
        const double more = point.goal - point.have;
        const Room room = roomOf(law, point, wish);
        const double possible = std::clamp(more, std::min(room.down, room.up), room.up);
        levels.push_back(still + possible);
        left.push_back(more - possible);
    }
    const Wanted all = sorted(law, points, levels, wish.within);
    Fit fitted = drawn(all, fewest(law, all));
    for (std::size_t i = 0; i < points.size(); ++i) {
        const auto [lack, much] = lackOf(law, levels[i], all.level[all.at[i]], left[i], wish.allowed);
        fitted.lacks.push_back(lack);
        fitted.left.push_back(much);
    }
    return fitted;
}

double flatLevel(const LevelLaw& law, const std::vector<FitPoint>& points, const FitWish& wish) {
    double mean = 0;
    double lowestTop = std::numeric_limits<double>::infinity();
    double highestBottom = -lowestTop;
    for (const FitPoint& point : points) {
        const Room room = roomOf(law, point, wish);
        mean += point.have / static_cast<double>(points.size());
        lowestTop = std::min(lowestTop, point.have + room.up);
        highestBottom = std::max(highestBottom, point.have + room.down);
    }
    if (highestBottom > lowestTop) return (highestBottom + lowestTop) / 2;
    return std::clamp(mean, highestBottom, lowestTop);
}

}  // namespace mellow::balance
