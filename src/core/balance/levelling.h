// Levelling: a branch is fitted to a chain so that loudness follows a goal while the chain does whatever else
// it does.
//
// What comes of it is an ordinary branch with a `points` step, to be seen and changed like any other. Nothing
// is believed that can be measured: the parameter's own law, where the chain's trunk brings each position of
// the hand, and at the end the result, which is fitted again by what it is still off. Measuring is somebody
// else's: it is asked for sweeps, and gives curves, whether they come of the practice rack or of what a
// composer uses.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/balance/curve.h"
#include "core/balance/fitting.h"
#include "core/balance/goal.h"

namespace mellow::balance {

struct LevelWish {
    std::string chain;  ///< id; empty: the first that what is moved moves, or a new one
    SweepPlan plan;
    std::string parameter;  ///< id, or a message, "cc 7", of a parameter that is to be made
    Goal goal;
    double within = 0.5;  ///< LU
    double ceiling = -1;  ///< dB true peak, never above
    /// At how many positions the parameter's own law is measured: all that a control has, unless each is
    /// waited for and heard. 2..128.
    int lawPositions = mostPositions;
};

/// Measures a sweep of an ensemble's instrument. what: what is measured, for people.
using Measure =
    std::function<Result<Curve>(const Ensemble& ensemble, const SweepPlan& plan, const std::string& what)>;

/// A stretch of the hand's travel where the goal cannot be reached.
struct NoRoom {
    double from = 0;  ///< positions of the hand
    double to = 0;
    double left = 0;  ///< LU missing at worst; below 0: too loud
    Lack why = Lack::room;
    bool operator==(const NoRoom&) const = default;
};

/// Peaks that differ by no more are alike, dB: what is measured again is not quite what was.
inline constexpr double alikePeaks = 0.1;

struct Levelled {
    Ensemble ensemble;          ///< with the branch
    std::string chain;          ///< id
    std::optional<int> branch;  ///< its place; nothing: the chain is bent at its beginning
    std::string parameter;      ///< id
    Curve before;
    Curve after;
    std::vector<std::pair<double, double>> goal;  ///< position and LUFS, one for each measured position
    std::vector<NoRoom> noRoom;
    std::vector<std::string> others;  ///< chains, by name, that move the parameter too when they are moved
    std::size_t reached = 0;          ///< so many positions have room
    double offBefore = 0;             ///< LU from the goal at worst, where there is room
    double off = 0;
    double peak = 0;         ///< dB true peak afterwards
    std::size_t points = 0;  ///< drawn
};

/// Error: nothing of those names; a chain that feeds one branch at a time; a parameter that another chain
/// moves, or that does not change the level; whatever measure() says.
Result<Levelled> level(const Ensemble& ensemble, const LevelWish& wish, const Measure& measure);

/// What was done, in sentences.
std::vector<std::string> sentencesOf(const Levelled& levelled, const LevelWish& wish);
/// Where there is no room, in sentences.
std::vector<std::string> roomSentences(const Levelled& levelled, const LevelWish& wish);

/// Whether a level can be set by a message: a value that stays, and is no choice.
bool canSetLevel(const Message& message);
/// Parameters of an instrument that a level could be set by, those first whose names or numbers say so.
std::vector<const Parameter*> levelParameters(const Instrument& instrument);

}  // namespace mellow::balance
