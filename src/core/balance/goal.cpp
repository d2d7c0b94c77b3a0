#include "core/balance/goal.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <string>

#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::balance {

namespace {

std::optional<double> number(std::string_view words) {
    while (!words.empty() && words.front() == ' ') words.remove_prefix(1);
    if (words.starts_with(text::minus)) {
        const auto value = number(words.substr(std::string_view(text::minus).size()));
        return value ? std::optional(-*value) : std::nullopt;
    }
    double value = 0;
    const auto [end, error] = std::from_chars(words.data(), words.data() + words.size(), value);
    if (error != std::errc() || end != words.data() + words.size() || !std::isfinite(value))
        return std::nullopt;
    return value;
}

std::vector<std::string_view> split(std::string_view words, char at) {
    std::vector<std::string_view> parts;
    while (true) {
        const std::size_t end = words.find(at);
        parts.push_back(words.substr(0, end));
        if (end == std::string_view::npos) return parts;
        words.remove_prefix(end + 1);
    }
}

/// "0.5/-30", or "-30" for the place of its turn.
std::optional<std::pair<double, double>> goalPoint(std::string_view words, std::size_t turn,
                                                   std::size_t count) {
    const auto parts = split(words, '/');
    if (parts.size() > 2) return std::nullopt;
    const auto level = number(parts.back());
    const auto place = parts.size() == 2
                           ? number(parts.front())
                           : std::optional(static_cast<double>(turn) / static_cast<double>(count - 1));
    if (!level || !place || *place < 0 || *place > 1) return std::nullopt;
    return std::pair(*place, *level);
}

}  // namespace

std::optional<double> Goal::at(double position) const {
    if (points.empty()) return std::nullopt;
    const auto behind = std::find_if(points.begin(), points.end(),
                                     [position](const auto& each) { return each.first >= position; });
    if (behind == points.end()) return points.back().second;
    if (behind == points.begin()) return points.front().second;
    const auto& before = *std::prev(behind);
    return before.second +
           (position - before.first) / (behind->first - before.first) * (behind->second - before.second);
}

Result<Goal> parseGoal(std::string_view words) {
    const Problem none{text::quoted(std::string(words)), "this is no goal",
                       "say flat, flat:-23, or line:-38,-20 from one end of the travel to the other"};
    Goal goal;
    if (words == "flat") return goal;
    if (words.starts_with("flat:")) {
        goal.level = number(words.substr(5));
        return goal.level ? Result<Goal>(goal) : none;
    }
    if (!words.starts_with("line:")) return none;
    goal.kind = Goal::Kind::line;
    const auto parts = split(words.substr(5), ',');
    if (parts.size() < 2) return none;
    for (std::size_t i = 0; i < parts.size(); ++i) {
        const auto point = goalPoint(parts[i], i, parts.size());
        if (!point || (!goal.points.empty() && point->first <= goal.points.back().first)) return none;
        goal.points.push_back(*point);
    }
    return goal;
}

std::vector<double> shortOf(const std::vector<std::pair<double, double>>& goal, const Curve& curve) {
    const std::vector<CurvePoint> mean = meanOf(curve);
    std::vector<double> missing;
    missing.reserve(goal.size());
    for (const auto& [position, level] : goal) {
        const auto here = loudnessAt(mean, position);
        missing.push_back(here ? level - *here : 0);
    }
    return missing;
}

}  // namespace mellow::balance
