// Where loudness should be over the travel of what moves: the line that one draws.
#pragma once

#include <optional>
#include <string_view>
#include <utility>
#include <vector>

#include "core/balance/curve.h"
#include "core/result.h"

namespace mellow::balance {

/// Where loudness should be over the hand's travel.
struct Goal {
    enum class Kind {
        flat,      ///< the same everywhere: at `level`, or where there is room
        line,      ///< straight between points
        asItIs,    ///< as it was measured before: for ceilings
        asAtAKey,  ///< as it is at `key`
    };
    Kind kind = Kind::flat;
    std::optional<double> level;                    ///< LUFS
    std::vector<std::pair<double, double>> points;  ///< position of the hand, rising, and LUFS
    int key = 60;
    bool operator==(const Goal&) const = default;

    /// Of a line; nothing before it has points.
    [[nodiscard]] std::optional<double> at(double position) const;
};
/// "flat", "flat:-23", "line:-38,-20" (from one end of the travel to the other), "line:0/-38,0.5/-30,1/-20".
/// Error: it is none of these.
Result<Goal> parseGoal(std::string_view words);

/// LU by which a curve is short of a goal at each of the goal's positions; below 0: it is louder; 0 where it
/// is too quiet to be measured.
std::vector<double> shortOf(const std::vector<std::pair<double, double>>& goal, const Curve& curve);

}  // namespace mellow::balance
