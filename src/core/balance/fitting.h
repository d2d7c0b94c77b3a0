// Fitting: which values a parameter must take along a chain's travel so that loudness follows a goal, drawn
// in as few points as will do.
//
// Two things are known. The parameter's own law, measured and not believed: how much louder or softer each of
// its values is. And how loud the instrument is at each position while the parameter stands still. So at each
// position the value is known that makes up the difference, as far as the parameter goes and below a peak.
// The error that is asked for is told in LU and not in the parameter's own values, so at each position there
// is a span of raw positions for which what is sent, rounded as it will be, is near enough: wide where a step
// of the parameter is hardly heard, and where it is heard much, that of its nearest value. What is drawn is
// the fewest straight lines that go through all spans, with a point at a position and anywhere in its span.
// From a point on the left a line goes on as long as there is a slope that all spans behind it allow, so all
// ways from all points cost n² trials for n positions.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/balance/curve.h"
#include "core/model/field.h"
#include "core/model/law.h"
#include "core/model/scale.h"
#include "core/model/step.h"

namespace mellow::balance {

/// What each value of a parameter does to loudness.
class LevelLaw {
 public:
    /// Of what was measured while the parameter alone moved. max: its highest raw value, on whose scale it is
    /// sent. Error: it changes the level by less than 1 LU, or nothing was heard.
    static Result<LevelLaw> of(const std::vector<CurvePoint>& points, int max = 127,
                               Scale scale = Scale::edge);

    /// LU, against where it is loudest; q: a raw position, 0 to 1.
    [[nodiscard]] double level(double q) const;
    /// The same of what is sent for it.
    [[nodiscard]] double levelSent(double q) const {
        return level(decode(scale_, encode(scale_, q, max_), max_));
    }
    /// How near to a level any value that can be sent comes, LU.
    [[nodiscard]] double nearest(double level) const;
    /// The level of the loudest value that can be sent and is no louder; the softest where all are.
    [[nodiscard]] double atMost(double level) const;
    /// The raw positions for which something is sent that is within an error of a level, LU, and no louder
    /// than `most`; where nothing is, those of the value that comes nearest.
    struct Span {
        double low;
        double high;
    };
    [[nodiscard]] Span around(double level, double within, double most) const;
    /// The raw position of a value that is not above, or not below, another position, written down.
    [[nodiscard]] double endFor(double q, bool above, const std::function<double(double)>& written) const;
    /// The raw position for a level; of one that it does not reach, its nearest.
    [[nodiscard]] double positionFor(double level) const;
    [[nodiscard]] double softest() const { return steps_.front().level; }
    [[nodiscard]] double loudest() const { return steps_.back().level; }
    /// The true peak where it is loudest, dB.
    [[nodiscard]] double highestPeak() const { return peak_; }

 private:
    struct Stand {
        double level;  ///< rising
        double q;
    };
    [[nodiscard]] double levelOf(int value) const { return level(decode(scale_, value, max_)); }
    [[nodiscard]] int valueFor(double level) const {
        return encode(scale_, clampPosition(positionFor(level)), max_);
    }

    std::vector<Stand> steps_;
    bool falls_ = false;  ///< louder at lower values
    double peak_ = 0;
    int max_ = 127;
    Scale scale_ = Scale::edge;
};

struct FitPoint {
    double trunk = 0;  ///< the position behind the chain's trunk
    double have = 0;   ///< LUFS while the parameter stands still
    double peak = 0;   ///< dB true peak, likewise
    double goal = 0;   ///< LUFS
};

struct FitWish {
    double still = 1;      ///< the raw position at which the parameter stood, 0 to 1
    double within = 0.5;   ///< LU
    double allowed = 0.5;  ///< LU from the goal, beyond which the parameter's values are too far apart
    double ceiling = -1;   ///< dB true peak
    /// Where an end of the reach comes to stand once it is written down, in whole numbers as a rule; nothing:
    /// where it is.
    std::function<double(double)> written = {};
};

/// Why something is left.
enum class Lack {
    none,
    room,    ///< the parameter ends there, or the peak is reached
    steps,   ///< its values are too far apart
    joined,  ///< the chain brings positions to one that want different levels
};

struct Fit {
    std::vector<Point> points;  ///< of a `points` step: x from 0 to 1, y over the reach
    double low = 0;             ///< the reach, as raw positions
    double high = 1;
    std::vector<double> left;  ///< LU that no value makes up, one for each of what was fitted; 0: it has room
    std::vector<Lack> lacks;   ///< likewise: why
};
/// points: at least one, in any order.
Fit fit(const LevelLaw& law, const std::vector<FitPoint>& points, const FitWish& wish);

/// The most by which anything is off that has room. errors: LU; lacks: one for each of them, or none: all
/// have room.
double worst(const std::vector<double>& errors, const std::vector<Lack>& lacks = {});

/// A curve as it stands in a chain.
Step pointsStep(std::vector<Point> points);

/// The level nearest to the mean that all positions have room for; where there is none that all have, the
/// one that leaves least.
double flatLevel(const LevelLaw& law, const std::vector<FitPoint>& points, const FitWish& wish);

}  // namespace mellow::balance
