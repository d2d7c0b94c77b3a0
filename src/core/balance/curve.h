// What was measured: loudness, true peak and brightness over the travel of what moved, a line for each key.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/balance/meter.h"
#include "core/balance/sweep.h"

namespace mellow::balance {

struct CurvePoint {
    double position = 0;  ///< of what moved, 0 to 1
    Heard heard;
    bool operator==(const CurvePoint&) const = default;
};

struct KeyCurve {
    int key = 60;
    std::vector<CurvePoint> points;  ///< by position, rising
    bool operator==(const KeyCurve&) const = default;
};

/// A measurement. Of a sweep over the keys themselves there is one line, and its positions are keys.
struct Curve {
    std::string instrument;      ///< its id when it was measured
    std::string instrumentName;  ///< for people
    std::string moved;           ///< as printMotion() has it
    std::string movedName;       ///< for people
    std::string heardFrom;       ///< for people: "Practice rack", an output's name, a file's
    std::string measured;        ///< when, as ISO 8601 in universal time
    std::string state;         ///< how the instrument was (core/store/instrument_state.h); empty: nobody said
    int rate = 0;              ///< frames a second
    int velocity = 90;         ///< 1..127; of a sweep over velocities without meaning
    std::int64_t settle = 0;   ///< left out behind a key's going down, microseconds
    std::int64_t hold = 0;     ///< measured, microseconds
    std::int64_t missing = 0;  ///< frames that may be lost, where it was recorded
    std::vector<KeyCurve> keys;
    bool operator==(const Curve&) const = default;
};

/// Measures each segment of a sweep in its sound. offset: the frame of the sound at which the sweep begins.
/// The curve is without its names.
Curve curveOf(const std::vector<Segment>& segments, bool overKeys, const Sound& sound, std::int64_t offset);

/// Loudness at a position between those that were measured, in LUFS; nothing where one beside it is too
/// quiet.
std::optional<double> loudnessAt(const std::vector<CurvePoint>& points, double position);
/// One line for all keys: their mean in LU, the highest peak, the mean centroid. Where a key is too quiet the
/// mean is too.
std::vector<CurvePoint> meanOf(const Curve& curve);

/// The first of those that are loudest; nullptr: all are too quiet.
const CurvePoint* loudestOf(const std::vector<CurvePoint>& points);

/// A curve in five numbers.
struct Readout {
    std::optional<double> rest;  ///< LUFS, at the lowest position
    std::optional<double> half;
    std::optional<double> full;
    double range = 0;   ///< LU between its loudest and its softest that can be heard
    double bump = 0;    ///< LU: the most by which it goes against its own direction
    double bumpAt = 0;  ///< the position at which that ends
    double peak = -std::numeric_limits<double>::infinity();  ///< dB true peak, the highest
    std::size_t quiet = 0;                                   ///< so many positions are too quiet
    std::size_t dying = 0;                                   ///< and at so many the sound dies away
    bool operator==(const Readout&) const = default;
};
Readout readoutOf(const std::vector<CurvePoint>& points);

/// What a person should know of a curve before believing it: nothing was heard, it dies away while it is
/// held, it clips. Each a sentence without its full stop.
std::vector<std::string> doubtsAbout(const Curve& curve);

/// As a file of JSON, and back. Error: it is no measurement.
std::string printCurve(const Curve& curve);
Result<Curve> readCurve(std::string_view text);
/// As a table: position, key, LUFS, peak, centroid.
std::string printCsv(const Curve& curve);

}  // namespace mellow::balance
