// One formula a kind, in the words of the table of section 2, told apart by the name that documents use.
// Formulas are not read here but known.
#include "reference/steps.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <span>

#include "reference/arithmetic.h"

namespace mellow::reference {

namespace {

std::size_t placeOfKey(std::span<const Field> fields, std::string_view key) {
    std::size_t i = 0;
    while (fields[i].key != key) ++i;
    return i;
}

const std::vector<Point>& pointsIn(const Step& step) {
    return std::get<std::vector<Point>>(step.values[placeOfKey(step.kind->fields, "points")]);
}

const std::string& textIn(const Step& step) {
    return std::get<std::string>(step.values[placeOfKey(step.kind->fields, "text")]);
}

double exponent(const Step& step) {
    return std::pow(8, number(step, "amount"));
}

/// The slope of the smooth curve at point i (the rules' paragraph below the table).
double slope(const std::vector<Point>& points, std::size_t i) {
    const std::size_t last = points.size() - 1;
    const auto h = [&](std::size_t k) { return points[k + 1].x - points[k].x; };
    const auto m = [&](std::size_t k) { return (points[k + 1].y - points[k].y) / h(k); };
    if (i == 0 || i == last) {
        const std::size_t outer = i == 0 ? 0 : last - 1;
        const std::size_t inner = i == 0 ? 1 : last - 2;
        const double h0 = h(outer);
        const double h1 = h(inner);
        const double m0 = m(outer);
        const double m1 = m(inner);
        const double d = ((2 * h0 + h1) * m0 - h0 * m1) / (h0 + h1);
        if (d == 0 || m0 == 0 || (d > 0) != (m0 > 0)) return 0;
        if (m0 * m1 < 0 && std::fabs(d) > std::fabs(3 * m0)) return 3 * m0;
        return d;
    }
    if (m(i - 1) * m(i) <= 0) return 0;
    const double w1 = 2 * h(i) + h(i - 1);
    const double w2 = h(i) + 2 * h(i - 1);
    return (w1 + w2) / (w1 / m(i - 1) + w2 / m(i));
}

double drawn(const Step& step, double p) {
    const auto& points = pointsIn(step);
    std::size_t i = points.size() - 2;
    while (i > 0 && p < points[i].x) --i;
    const Point& a = points[i];
    const Point& b = points[i + 1];
    if (choice(step, "join") == "straight" || points.size() == 2)
        return a.y + (b.y - a.y) * (p - a.x) / (b.x - a.x);
    const double h = b.x - a.x;
    const double t = (p - a.x) / h;
    return (2 * (t * t * t) - 3 * (t * t) + 1) * a.y + (t * t * t - 2 * (t * t) + t) * h * slope(points, i) +
           (3 * (t * t) - 2 * (t * t * t)) * b.y + (t * t * t - t * t) * h * slope(points, i + 1);
}

double combined(std::string_view how, double p, double q) {
    if (how == "add") return p + q;
    if (how == "multiply") return p * q;
    if (how == "highest") return p > q ? p : q;
    if (how == "lowest") return p < q ? p : q;
    if (how == "average") return (p + q) / 2;
    if (how == "difference") return p - q;
    return 0.5 + (p - q) / 2;
}

/// A formula that tests use, and what it means; nullptr: it cannot be read.
struct KnownFormula {
    const char* text;
    double (*value)(double x);
};

constexpr double noNumber = std::numeric_limits<double>::quiet_NaN();

constexpr std::array<KnownFormula, 7> formulas{{
    {"x^2", [](double x) { return x * x; }},
    {"sqrt(x-0.3)", [](double x) { return std::sqrt(x - 0.3); }},
    {"sqrt(x-0.5)", [](double x) { return std::sqrt(x - 0.5); }},
    {"0.5+0.5*sin(6.28*x)", [](double x) { return 0.5 + 0.5 * std::sin(6.28 * x); }},
    {"x>0.5 ? 1-x : 0/0", [](double x) { return x > 0.5 ? 1 - x : noNumber; }},
    {"1/x-1", [](double x) { return 1 / x - 1; }},
    {"x y", nullptr},
}};

const KnownFormula* formulaOf(const Step& step) {
    const auto found = std::find_if(formulas.begin(), formulas.end(),
                                    [&](const KnownFormula& each) { return textIn(step) == each.text; });
    return found == formulas.end() || found->value == nullptr ? nullptr : &*found;
}

}  // namespace

double number(const Step& step, std::string_view key) {
    return std::get<double>(step.values[placeOfKey(step.kind->fields, key)]);
}
double number(const Source& source, std::string_view key) {
    return std::get<double>(source.values[placeOfKey(row(source.kind).fields, key)]);
}
std::string_view choice(const Step& step, std::string_view key) {
    const std::size_t at = placeOfKey(step.kind->fields, key);
    return step.kind->fields[at].choices[static_cast<std::size_t>(std::get<int>(step.values[at]))];
}
std::string_view choice(const Source& source, std::string_view key) {
    const auto fields = row(source.kind).fields;
    const std::size_t at = placeOfKey(fields, key);
    return fields[at].choices[static_cast<std::size_t>(std::get<int>(source.values[at]))];
}

bool remembers(const Step& step) {
    const std::string_view kind = step.kind->name;
    return kind == "levels" || kind == "gate" || kind == "latch" || kind == "hold" || kind == "smooth" ||
           kind == "combine" || kind == "formula" || kind == "thin";
}

double shape(const Step& step, double p) {
    const std::string_view kind = step.kind->name;
    if (kind == "window") {
        const double low = number(step, "low");
        const double high = number(step, "high");
        if (low == high) return p >= low ? 1 : 0;
        return clamped((p - low) / (high - low));
    }
    if (kind == "reverse") return 1 - p;
    if (kind == "bend") return clamped(std::pow(p, exponent(step)));
    if (kind == "sCurve") {
        if (p < 0.5) return clamped(0.5 * std::pow(2 * p, exponent(step)));
        return clamped(1 - 0.5 * std::pow(2 - 2 * p, exponent(step)));
    }
    if (kind == "points") return clamped(drawn(step, p));
    if (kind == "restAt")
        return clamped(std::pow(p, std::log(number(step, "becomes")) / std::log(number(step, "at"))));
    if (kind == "deadZone") {
        const double c = number(step, "centre");
        const double half = number(step, "width") / 2;
        if (std::fabs(p - c) <= half) return c;
        if (p < c) return clamped(p * c / (c - half));
        return clamped(c + (p - c - half) * (1 - c) / (1 - c - half));
    }
    if (kind == "limit") {
        if (p < number(step, "low")) p = number(step, "low");
        if (p > number(step, "high")) p = number(step, "high");
        return clamped(p);
    }
    return clamped(number(step, "times") * p + number(step, "plus"));
}

void take(const Step& step, Memory& memory, double p, std::int64_t now) {
    const std::string_view kind = step.kind->name;
    const bool first = !memory.started;
    const double before = first ? 0 : memory.input;
    memory.started = true;
    if (kind == "levels") {
        const double n = number(step, "count");
        const double h = number(step, "hysteresis");
        const double k = std::floor(memory.result * (n - 1) + 0.5);
        if (first || p * n >= k + 1 + h || p * n < k - h)
            memory.result = std::min(n - 1, std::floor(p * n)) / (n - 1);
    } else if (kind == "gate") {
        const double t = number(step, "threshold");
        if (p >= t) memory.result = 1;
        if (p < (first ? t : t - number(step, "hysteresis"))) memory.result = 0;
    } else if (kind == "latch") {
        if (before < 0.5 && p >= 0.5) memory.result = 1 - memory.result;
    } else if (kind == "hold") {
        if (first) memory.result = p;
    } else if (kind == "combine") {
        memory.result = clamped(combined(choice(step, "how"), p, memory.other));
    } else if (kind == "formula") {
        const double value = formulaOf(step)->value(p);
        if (!std::isnan(value)) memory.result = clamped(value);
    } else if (kind == "smooth") {
        const double tau = number(step, p > memory.result ? "rise" : "fall");
        if (first || tau == 0) memory.result = p;
    } else if (kind == "thin") {
        const bool differs = std::fabs(p - memory.result) >= number(step, "change");
        if (!first && !differs && p != 0 && p != 1) {
            memory.waiting = false;
            return;
        }
        const auto passed = static_cast<double>(now - memory.since);
        memory.waiting = !first && passed < number(step, "gap") * 1000;
        if (!memory.waiting) {
            memory.result = p;
            memory.since = now;
        }
    }
    memory.input = p;
}

void tick(const Step& step, Memory& memory, std::int64_t now) {
    if (!memory.started) return;
    if (step.kind->name == "thin") {
        if (!memory.waiting || static_cast<double>(now - memory.since) < number(step, "gap") * 1000) return;
        memory.result = memory.input;
        memory.since = now;
        memory.waiting = false;
    }
    if (step.kind->name != "smooth" || memory.result == memory.input) return;
    const double x = memory.input;
    const double y = memory.result;
    const double tau = number(step, x > y ? "rise" : "fall");
    if (tau == 0) {
        memory.result = x;
    } else if (choice(step, "shape") == "constant") {
        const double by = 1 / tau;
        memory.result = std::fabs(x - y) <= by ? x : x > y ? y + by : y - by;
    } else {
        memory.result = y + (x - y) * (1 - std::exp(-1 / tau));
        if (std::fabs(x - memory.result) <= 1.0 / 32768) memory.result = x;
    }
}

bool isMoving(const Step& step, const Memory& memory) {
    if (step.kind->name == "thin") return memory.waiting;
    return step.kind->name == "smooth" && memory.started && memory.result != memory.input;
}

void letThrough(const Step& step, Memory& memory, bool byNote) {
    if (step.kind->name != "hold" || !memory.started) return;
    if (byNote == (choice(step, "until") == "noteOn")) memory.result = memory.input;
}

bool isSound(const Step& step) {
    const std::string_view kind = step.kind->name;
    const auto within = [&](const char* key, double low, double high) {
        return number(step, key) >= low && number(step, key) <= high;
    };
    if (kind == "bend" || kind == "sCurve") return within("amount", -1, 1);
    if (kind == "restAt") {
        const auto inside = [&](const char* key) { return number(step, key) > 0 && number(step, key) < 1; };
        return inside("at") && inside("becomes");
    }
    if (kind == "deadZone") return within("centre", 0, 1) && number(step, "width") >= 0;
    if (kind == "levels") {
        const double n = number(step, "count");
        return n == std::floor(n) && n >= 2 && n <= 128 && number(step, "hysteresis") >= 0;
    }
    if (kind == "gate") return number(step, "hysteresis") >= 0;
    if (kind == "limit") return number(step, "low") <= number(step, "high");
    if (kind == "smooth") return number(step, "rise") >= 0 && number(step, "fall") >= 0;
    if (kind == "thin") return number(step, "change") >= 0 && number(step, "gap") >= 0;
    if (kind == "formula") return formulaOf(step) != nullptr;
    if (kind == "points") {
        const auto& points = pointsIn(step);
        if (points.size() < 2 || points.front().x != 0 || points.back().x != 1) return false;
        for (std::size_t i = 1; i < points.size(); ++i) {
            if (points[i].x <= points[i - 1].x) return false;
        }
    }
    return true;
}

}  // namespace mellow::reference
