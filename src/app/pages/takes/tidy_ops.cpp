// Numbers are those that a musician thinks in: milliseconds, steps of the control, per cent.
#include "app/pages/takes/tidy_ops.h"

#include <QCoreApplication>
#include <array>
#include <cmath>

namespace mellow::app {

namespace {

QString tr(const char* text) {
    return QCoreApplication::translate("TidyOps", text);
}

constexpr double milli = 1000;  // µs
/// Steps of a control of 7 bits, in a lane's own values.
double inLane(const LaneStretch& stretch, double steps) {
    return steps * stretch.lane->highest / midi::max7;
}

}  // namespace

std::span<const TidyOp> tidyOps() {
    using Values = std::span<const double>;
    using Edits = std::vector<LaneEdit>;
    using Numbers = std::vector<TidyNumber>;
    static const std::array ops{
        TidyOp{"smooth", [] { return tr("Smooth"); },
               [] { return tr("Takes the jitters out of a swell; its ends stay as they are"); },
               [] {
                   return Numbers{{tr("over"), QStringLiteral("ms"), 10, 5000, 200, 10}};
               },
               [](const Take&, const LaneStretch& s, Values v) {
                   return Edits{smoothed(s, std::llround(v[0] * milli))};
               }},
        TidyOp{
            "thin", [] { return tr("Thin"); },
            [] { return tr("Leaves the fewest events that stay this near to what was played"); },
            [] {
                return Numbers{{tr("within"), QString(), 0, 32, 1, 1}};
            },
            [](const Take&, const LaneStretch& s, Values v) { return Edits{thinned(s, inLane(s, v[0]))}; }},
        TidyOp{"scale", [] { return tr("Scale"); },
               [] { return tr("Scales and shifts, in value and in time"); },
               [] {
                   return Numbers{{tr("values ×"), QStringLiteral("%"), -400, 400, 100, 1},
                                  {tr("around"), QString(), 0, 127, 64, 1},
                                  {tr("then +"), QString(), -127, 127, 0, 1},
                                  {tr("time ×"), QStringLiteral("%"), 1, 1000, 100, 1},
                                  {tr("later by"), QStringLiteral("ms"), -3600000, 3600000, 0, 10}};
               },
               [](const Take& take, const LaneStretch& s, Values v) {
                   Scaling scaling;
                   scaling.factor = v[0] / 100;
                   scaling.pivot = inLane(s, v[1]);
                   scaling.shift = inLane(s, v[2]);
                   scaling.timeFactor = v[3] / 100;
                   scaling.later = std::llround(v[4] * milli);
                   return scaled(take, s, scaling);
               }},
        TidyOp{"clip", [] { return tr("Floor and ceiling"); },
               [] { return tr("Lifts what lies below the floor, and lowers what lies above the ceiling"); },
               [] {
                   return Numbers{{tr("floor"), QString(), 0, 127, 0, 1},
                                  {tr("ceiling"), QString(), 0, 127, 127, 1}};
               },
               [](const Take&, const LaneStretch& s, Values v) {
                   return Edits{clipped(s, inLane(s, v[0]), inLane(s, v[1]))};
               }},
        TidyOp{"repeat", [] { return tr("Repeat"); },
               [] { return tr("Puts the selection behind itself, over what is there"); },
               [] {
                   return Numbers{{tr("times"), QString(), 1, 64, 1, 1, true}};
               },
               [](const Take& take, const LaneStretch& s, Values v) {
                   return Edits{repeated(take, s, static_cast<int>(v[0]))};
               }},
    };
    return ops;
}

}  // namespace mellow::app
