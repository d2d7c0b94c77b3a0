#include "core/balance/curve.h"

#include <algorithm>
#include <cmath>

#include "core/midi/names.h"
#include "core/text/numbers.h"

namespace mellow::balance {

namespace {

KeyCurve& lineOf(Curve& curve, int key) {
    for (KeyCurve& each : curve.keys) {
        if (each.key == key) return each;
    }
    return curve.keys.emplace_back(KeyCurve{key, {}});
}

std::string counted(std::size_t count, std::size_t of) {
    return count == of ? "everywhere"
                       : "at " + std::to_string(count) + " of " + std::to_string(of) + " positions";
}

}  // namespace

Curve curveOf(const std::vector<Segment>& segments, bool overKeys, const Sound& sound, std::int64_t offset) {
    Curve curve;
    curve.rate = sound.rate;
    if (segments.empty()) return curve;
    curve.velocity = segments.front().velocity;
    curve.settle = segments.front().from - segments.front().begins;
    curve.hold = segments.front().to - segments.front().from;
    const auto frame = [&](std::int64_t time) { return offset + sound.frameAt(time); };
    for (const Segment& each : segments) {
        const Heard heard = measure(sound, frame(each.begins), frame(each.from), frame(each.to));
        const int key = overKeys ? segments.front().key : each.key;
        lineOf(curve, key).points.push_back({each.position, heard});
    }
    return curve;
}

std::optional<double> loudnessAt(const std::vector<CurvePoint>& points, double position) {
    const auto behind = std::find_if(points.begin(), points.end(), [position](const CurvePoint& each) {
        return each.position >= position;
    });
    if (points.empty()) return std::nullopt;
    if (behind == points.end()) return points.back().heard.loudness;
    if (behind == points.begin() || behind->position == position) return behind->heard.loudness;
    const CurvePoint& before = *std::prev(behind);
    if (!before.heard.loudness || !behind->heard.loudness) return std::nullopt;
    const double share = (position - before.position) / (behind->position - before.position);
    return *before.heard.loudness + share * (*behind->heard.loudness - *before.heard.loudness);
}

std::vector<CurvePoint> meanOf(const Curve& curve) {
    if (curve.keys.empty()) return {};
    std::vector<CurvePoint> mean = curve.keys.front().points;
    for (std::size_t i = 0; i < mean.size(); ++i) {
        Heard& all = mean[i].heard;
        for (std::size_t k = 1; k < curve.keys.size(); ++k) {
            const auto& points = curve.keys[k].points;
            if (i >= points.size()) continue;
            const Heard& one = points[i].heard;
            all.loudness =
                all.loudness && one.loudness ? std::optional(*all.loudness + *one.loudness) : std::nullopt;
            all.peak = std::max(all.peak, one.peak);
            all.centroid += one.centroid;
            all.dies = all.dies || one.dies;
        }
        const auto count = static_cast<double>(curve.keys.size());
        if (all.loudness) *all.loudness /= count;
        all.centroid /= count;
    }
    return mean;
}

const CurvePoint* loudestOf(const std::vector<CurvePoint>& points) {
    const CurvePoint* loudest = nullptr;
    for (const CurvePoint& each : points) {
        if (!each.heard.loudness) continue;
        if (loudest == nullptr || *each.heard.loudness > *loudest->heard.loudness) loudest = &each;
    }
    return loudest;
}

Readout readoutOf(const std::vector<CurvePoint>& points) {
    Readout readout;
    if (points.empty()) return readout;
    readout.rest = points.front().heard.loudness;
    readout.full = points.back().heard.loudness;
    readout.half = loudnessAt(points, (points.front().position + points.back().position) / 2);
    std::vector<const CurvePoint*> loud;
    for (const CurvePoint& each : points) {
        readout.peak = std::max(readout.peak, each.heard.peak);
        readout.dying += each.heard.dies ? 1 : 0;
        readout.quiet += each.heard.loudness ? 0 : 1;
        if (each.heard.loudness) loud.push_back(&each);
    }
    if (loud.empty()) return readout;
    const auto less = [](const CurvePoint* one, const CurvePoint* other) {
        return *one->heard.loudness < *other->heard.loudness;
    };
    const auto [softest, loudest] = std::minmax_element(loud.begin(), loud.end(), less);
    readout.range = *(*loudest)->heard.loudness - *(*softest)->heard.loudness;
    const double direction = *loud.back()->heard.loudness >= *loud.front()->heard.loudness ? 1 : -1;
    double furthest = direction * *loud.front()->heard.loudness;
    for (const CurvePoint* each : loud) {
        const double here = direction * *each->heard.loudness;
        if (furthest - here > readout.bump) {
            readout.bump = furthest - here;
            readout.bumpAt = each->position;
        }
        furthest = std::max(furthest, here);
    }
    return readout;
}

std::vector<std::string> doubtsAbout(const Curve& curve) {
    std::vector<std::string> doubts;
    if (curve.missing > 0 && curve.rate > 0) {
        constexpr double thousand = 1000;
        const double lost = std::round(thousand * static_cast<double>(curve.missing) / curve.rate);
        doubts.push_back(
            "up to " + text::withUnit(std::max(1.0, lost), "ms") +
            " of the sound never came, since the server was late; measure again where a point stands out");
    }
    for (const KeyCurve& line : curve.keys) {
        const Readout readout = readoutOf(line.points);
        const std::string key = curve.keys.size() > 1 ? midi::keyName(line.key) + ": " : "";
        if (line.points.empty()) continue;
        if (readout.quiet == line.points.size()) {
            doubts.push_back(key +
                             "nothing is heard that is louder than −70 LUFS; is this key played, and does "
                             "the sound arrive");
            continue;
        }
        if (readout.quiet > 0)
            doubts.push_back(key + "it is too quiet to be measured " +
                             counted(readout.quiet, line.points.size()));
        if (readout.dying > 0)
            doubts.push_back(key + "the sound dies away while it is held, " +
                             counted(readout.dying, line.points.size()) +
                             "; its level is that of the moment measured");
        if (readout.peak >= 0)
            doubts.push_back(key + "it reaches " + text::withUnit(std::round(readout.peak * 10) / 10, "dB") +
                             " true peak, where it may clip");
    }
    return doubts;
}

}  // namespace mellow::balance
