// Points: a response drawn by hand.
//
// Points are joined straight, or by a curve that never swings past them: a monotone piecewise cubic Hermite
// (Fritsch and Butland's weighted harmonic mean of the neighbouring slopes), because a drawn swell must not
// dip where nobody drew a dip. Signal rules, section 2, "points, smooth", gives the slopes; the cubic between
// two points is the standard Hermite form.
#include <algorithm>
#include <array>
#include <cmath>

#include "core/steps/kinds.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

enum Join { straight, smooth };
constexpr std::array<std::string_view, 2> joins{"straight", "smooth"};

constexpr std::array<Field, 2> fields{{
    {"points",
     "Points",
     "",
     Field::Type::points,
     0,
     1,
     0,
     false,
     {},
     "Drag a point; double-click the line to add one."},
    {"join", "Join", "", Field::Type::choice, 0, 1, straight, false, joins, "How the points are joined."},
}};

using Points = std::vector<Point>;

double width(const Points& points, std::size_t i) {
    return points[i + 1].x - points[i].x;
}
double secant(const Points& points, std::size_t i) {
    return (points[i + 1].y - points[i].y) / width(points, i);
}

double endSlope(double outerWidth, double outerSecant, double innerWidth, double innerSecant) {
    const double slope =
        ((2 * outerWidth + innerWidth) * outerSecant - outerWidth * innerSecant) / (outerWidth + innerWidth);
    if (slope * outerSecant <= 0) return 0;
    if (outerSecant * innerSecant < 0 && std::abs(slope) > std::abs(3 * outerSecant)) return 3 * outerSecant;
    return slope;
}

double slopeAt(const Points& points, std::size_t i) {
    const std::size_t last = points.size() - 1;
    if (i == 0) return endSlope(width(points, 0), secant(points, 0), width(points, 1), secant(points, 1));
    if (i == last) {
        return endSlope(width(points, last - 1), secant(points, last - 1), width(points, last - 2),
                        secant(points, last - 2));
    }
    const double left = secant(points, i - 1);
    const double right = secant(points, i);
    if (left * right <= 0) return 0;
    const double w1 = 2 * width(points, i) + width(points, i - 1);
    const double w2 = width(points, i) + 2 * width(points, i - 1);
    return (w1 + w2) / (w1 / left + w2 / right);
}

double shape(const Step& step, double p) {
    const Points& points = pointsOf(step, 0);
    std::size_t i = 0;
    while (i + 2 < points.size() && p >= points[i + 1].x) ++i;
    const Point& from = points[i];
    const Point& to = points[i + 1];
    if (choiceOf(step, 1) == straight || points.size() == 2) {
        return from.y + (to.y - from.y) * (p - from.x) / (to.x - from.x);
    }
    const double h = to.x - from.x;
    const double t = (p - from.x) / h;
    const double t2 = t * t;
    const double t3 = t2 * t;
    return (2 * t3 - 3 * t2 + 1) * from.y + (t3 - 2 * t2 + t) * h * slopeAt(points, i) +
           (3 * t2 - 2 * t3) * to.y + (t3 - t2) * h * slopeAt(points, i + 1);
}

std::string phrase(const Step& step, const PhraseContext&) {
    return "drawn with " + std::to_string(pointsOf(step, 0).size()) + " points";
}

std::string flaw(const Step& step) {
    const Points& points = pointsOf(step, 0);
    if (points.size() < 2) return "a drawn response needs at least two points";
    if (points.front().x != 0 || points.back().x != 1)
        return "the first point must stand at 0 and the last at 1";
    const bool rises = std::adjacent_find(points.begin(), points.end(), [](const Point& a, const Point& b) {
                           return !(a.x < b.x);
                       }) == points.end();
    return rises ? std::string() : "each point must stand to the right of the one before it";
}

}  // namespace

const StepKind pointsStep = [] {
    StepKind kind{"points", "Drawn points", "A response that you draw, point by point.", fields};
    kind.shape = shape;
    kind.phrase = phrase;
    kind.flaw = flaw;
    kind.example = [] { return std::vector<FieldValue>{Points{{0, 0}, {0.25, 0.6}, {0.6, 0.4}, {1, 1}}, 0}; };
    return kind;
}();

}  // namespace mellow
