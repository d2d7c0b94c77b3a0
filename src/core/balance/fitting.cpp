#include "core/balance/fitting.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <tuple>

#include "core/steps/step.h"

namespace mellow::balance {

namespace {

constexpr double leastRange = 1;  // LU
constexpr double fine = 10'000;   // points are written in steps of a ten-thousandth
constexpr double hardly = 1e-9;   // LU

double between(double from, double to, double share) {
    return from + share * (to - from);
}

/// What is wanted over the trunk, each place once.
struct Wanted {
    std::vector<double> trunk;
    std::vector<double> level;          ///< by the law
    std::vector<double> most;           ///< what is sent may not be louder
    std::vector<double> q;              ///< the raw position for the level
    std::vector<LevelLaw::Span> spans;  ///< what will do as well
    std::vector<std::size_t> at;        ///< for each point that is fitted, its place here
};

/// What is measured again is not quite what was, which needs its share of the error: a value that is no
/// nearer than this is too far.
double tooFar(double allowed) {
    constexpr double most = 0.75;
    return most * allowed;
}

/// LU that what is sent may be off, where the nearest value is so far off.
double nearEnough(double nearest, const FitWish& wish) {
    // Where none is as near as was asked for, a line that takes the next one now and then is as good, and
    // needs fewer points.
    constexpr double share = 0.5;
    constexpr double little = 0.02;
    const bool isFar = nearest > tooFar(wish.allowed);
    return std::max(wish.within, nearest + (isFar ? share * wish.within : little));
}

/// levels: by the law, one for each point.
Wanted sorted(const LevelLaw& law, const std::vector<FitPoint>& points, const std::vector<double>& levels,
              const FitWish& wish) {
    std::vector<std::size_t> order(points.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(),
              [&](std::size_t one, std::size_t other) { return points[one].trunk < points[other].trunk; });
    Wanted all;
    all.at.resize(points.size());
    std::size_t same = 0;
    const double still = law.level(wish.still);
    for (const std::size_t i : order) {
        const double most = still + wish.ceiling - points[i].peak;
        const double x = std::round(points[i].trunk * fine) / fine;
        if (!all.trunk.empty() && all.trunk.back() == x) {
            ++same;  // the mean of those that come to the same
            all.level.back() += (levels[i] - all.level.back()) / static_cast<double>(same + 1);
            all.most.back() = std::min(all.most.back(), most);
            all.at[i] = all.trunk.size() - 1;
            continue;
        }
        same = 0;
        all.at[i] = all.trunk.size();
        all.trunk.push_back(x);
        all.level.push_back(levels[i]);
        all.most.push_back(most);
    }
    for (std::size_t i = 0; i < all.level.size(); ++i) {
        double& level = all.level[i];
        // Rounded it could be above the peak, so a value is taken that is below it.
        if (law.levelSent(law.positionFor(level)) > all.most[i]) level = law.atMost(all.most[i]);
        const LevelLaw::Span span = law.around(level, nearEnough(law.nearest(level), wish), all.most[i]);
        all.spans.push_back(span);
        all.q.push_back(std::clamp(law.positionFor(level), span.low, span.high));
    }
    return all;
}

/// A point of what is drawn: at a place, and where.
struct Node {
    std::size_t place = 0;
    double q = 0;
};

/// The fewest points between which straight lines go through all spans; of those, the nearest to what is
/// wanted.
class Fewest {
 public:
    explicit Fewest(const Wanted& all) : all_(all), best_(all.trunk.size() * choices) {
        for (std::size_t c = 0; c < choices; ++c) best_[c] = {0, away(0, c), 0};
        for (std::size_t place = 0; place + 1 < all_.trunk.size(); ++place) {
            for (std::size_t c = 0; c < choices; ++c) goOn(place, c);
        }
    }
    [[nodiscard]] std::vector<Node> nodes() const {
        const auto last = best_.end() - static_cast<std::ptrdiff_t>(choices);
        auto at = static_cast<std::size_t>(std::min_element(last, best_.end()) - best_.begin());
        std::vector<Node> nodes;
        while (true) {
            nodes.push_back({at / choices, height(at / choices, at % choices)});
            if (at < choices) break;
            at = best_[at].before;
        }
        std::reverse(nodes.begin(), nodes.end());
        return nodes;
    }

 private:
    /// What is wanted itself, and five heights of the span.
    static constexpr std::size_t choices = 6;

    struct Way {
        std::size_t lines = std::numeric_limits<std::size_t>::max();
        double away = 0;  ///< from what is wanted, all points together, in spans
        std::size_t before = 0;
        bool operator<(const Way& other) const {
            return std::tie(lines, away) < std::tie(other.lines, other.away);
        }
    };

    [[nodiscard]] double height(std::size_t place, std::size_t choice) const {
        if (choice == 0) return all_.q[place];
        const LevelLaw::Span& span = all_.spans[place];
        return between(span.low, span.high, static_cast<double>(choice - 1) / (choices - 2));
    }
    [[nodiscard]] double away(std::size_t place, std::size_t choice) const {
        const LevelLaw::Span& span = all_.spans[place];
        const double wide = std::max(span.high - span.low, 1 / fine);
        return std::abs(height(place, choice) - all_.q[place]) / wide;
    }

    /// To every point behind, as far as some slope goes through all that lies between.
    void goOn(std::size_t place, std::size_t choice) {
        const Way& here = best_[place * choices + choice];
        if (here.lines == std::numeric_limits<std::size_t>::max()) return;
        const double q = height(place, choice);
        double least = -std::numeric_limits<double>::infinity();
        double most = std::numeric_limits<double>::infinity();
        for (std::size_t to = place + 1; to < all_.trunk.size() && least <= most; ++to) {
            const double along = all_.trunk[to] - all_.trunk[place];
            for (std::size_t c = 0; c < choices; ++c) {
                const double slope = (height(to, c) - q) / along;
                const Way way{here.lines + 1, here.away + away(to, c), place * choices + choice};
                Way& there = best_[to * choices + c];
                if (slope >= least && slope <= most && way < there) there = way;
            }
            least = std::max(least, (all_.spans[to].low - q) / along);
            most = std::min(most, (all_.spans[to].high - q) / along);
        }
    }

    const Wanted& all_;
    std::vector<Way> best_;  ///< to each choice at each place
};

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
    const int about = valueFor(level);
    double best = std::numeric_limits<double>::infinity();
    for (int value = std::max(0, about - 1); value <= std::min(max_, about + 1); ++value)
        best = std::min(best, std::abs(levelOf(value) - level));
    return best;
}

double LevelLaw::atMost(double level) const {
    const int about = valueFor(level);
    double best = softest();
    for (int value = std::max(0, about - 1); value <= std::min(max_, about + 1); ++value) {
        if (levelOf(value) <= level + hardly) best = std::max(best, levelOf(value));
    }
    return best;
}

double LevelLaw::endFor(double q, bool above, const std::function<double(double)>& written) const {
    const int step = above ? 1 : -1;
    const int last = above ? max_ : 0;
    int value = encode(scale_, clampPosition(q), max_);
    while (true) {
        const double exact = decode(scale_, value, max_);
        const double at = written ? written(exact) : exact;
        if (value == last || (above ? at >= q : at <= q)) return at;
        value += step;
    }
}

LevelLaw::Span LevelLaw::around(double level, double within, double most) const {
    const auto isNear = [&](int value) {
        const double here = levelOf(value);
        return std::abs(here - level) <= within && here <= most + hardly;
    };
    auto [low, high] = std::minmax({valueFor(level - within), valueFor(level + within)});
    while (low < high && !isNear(low)) ++low;
    while (high > low && !isNear(high)) --high;
    if (!isNear(low)) low = high = valueFor(level);
    // Half-way to the next values something else is sent; a point is rounded when it is written.
    const double below = low > 0 ? decode(scale_, low - 0.5, max_) : 0;
    const double above = high < max_ ? decode(scale_, high + 0.5, max_) : 1;
    const double margin = std::min(2 / fine, (above - below) / 4);
    return {below + margin, above - margin};
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

Fit drawn(const LevelLaw& law, const Wanted& all, const std::vector<Node>& nodes,
          const std::function<double(double)>& written) {
    Fit fit;
    const auto [low, high] = std::minmax_element(
        nodes.begin(), nodes.end(), [](const Node& one, const Node& other) { return one.q < other.q; });
    fit.low = law.endFor(low->q, false, written);
    fit.high = law.endFor(high->q, true, written);
    const double reach = fit.high - fit.low;
    const auto y = [&](const Node& node) {
        return reach > 0 ? std::round(clampPosition((node.q - fit.low) / reach) * fine) / fine : 0;
    };
    if (all.trunk.front() > 0) fit.points.push_back({0, y(nodes.front())});
    for (const Node& node : nodes) fit.points.push_back({all.trunk[node.place], y(node)});
    if (fit.points.back().x < 1) fit.points.push_back({1, fit.points.back().y});
    return fit;
}

/// What is left at a point. wanted, drawn: levels, as it is wanted there and as it can be drawn.
std::pair<Lack, double> lackOf(const LevelLaw& law, double wanted, double drawn, double left, double allowed,
                               bool isHeldDown) {
    constexpr double little = 0.05;  // LU
    if (std::abs(left) > little) return {Lack::room, left};
    if (wanted - drawn > little && isHeldDown) return {Lack::room, wanted - drawn};
    constexpr double half = 0.5;
    if (std::abs(wanted - drawn) > allowed * half) return {Lack::joined, wanted - drawn};
    const double nearest = law.nearest(drawn);
    if (nearest > tooFar(allowed)) return {Lack::steps, nearest};
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
    const Wanted all = sorted(law, points, levels, wish);
    Fit fitted = drawn(law, all, Fewest(all).nodes(), wish.written);
    for (std::size_t i = 0; i < points.size(); ++i) {
        const double level = all.level[all.at[i]];
        const bool isHeldDown = levels[i] > all.most[all.at[i]] - wish.allowed;
        const auto [lack, much] = lackOf(law, levels[i], level, left[i], wish.allowed, isHeldDown);
        fitted.lacks.push_back(lack);
        fitted.left.push_back(much);
    }
    return fitted;
}

double worst(const std::vector<double>& errors, const std::vector<Lack>& lacks) {
    double most = 0;
    for (std::size_t i = 0; i < errors.size(); ++i) {
        if (lacks.empty() || lacks[i] == Lack::none) most = std::max(most, std::abs(errors[i]));
    }
    return most;
}

Step pointsStep(std::vector<Point> points) {
    Step step = makeStep(*findStepKind("points"));
    step.values[0] = std::move(points);
    return step;
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
