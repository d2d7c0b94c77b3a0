// Measurements as files: small, and readable.
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/balance/curve.h"
#include "core/midi/names.h"
#include "core/store/json_tree.h"
#include "core/text/numbers.h"

namespace mellow::balance {

namespace {

constexpr std::string_view kindWord = "measurement";
constexpr std::size_t deepest = 8;
constexpr std::size_t mostKeys = 128;

/// Hundredths, which is finer than anybody hears.
double rounded(double value) {
    constexpr double fine = 100;
    return std::round(value * fine) / fine;
}

nlohmann::ordered_json orNull(std::optional<double> value) {
    if (!value || !std::isfinite(*value)) return nullptr;
    return rounded(*value);
}

Problem noMeasurement(std::string what) {
    return {"The measurement", std::move(what), "measure again"};
}

double numberAt(store::JsonView object, std::string_view key, double otherwise, double low, double high) {
    const store::JsonView value = object.find(key);
    if (!value || !value.isNumber() || !std::isfinite(value.number())) return otherwise;
    return std::clamp(value.number(), low, high);
}

/// [position, LUFS or null, peak or null, centroid, dies]
std::optional<CurvePoint> readPoint(store::JsonView row) {
    if (!row.isList() || row.size() < 4) return std::nullopt;
    CurvePoint point;
    store::JsonView cell = row.first();
    if (!cell.isNumber()) return std::nullopt;
    point.position = cell.number();
    cell = cell.next();
    if (cell.isNumber()) point.heard.loudness = cell.number();
    cell = cell.next();
    if (cell.isNumber()) point.heard.peak = cell.number();
    cell = cell.next();
    if (cell.isNumber()) point.heard.centroid = cell.number();
    cell = cell.next();
    point.heard.dies = cell && cell.isFlag() && cell.flag();
    if (!(point.position >= 0 && point.position <= 1) || !std::isfinite(point.heard.loudness.value_or(0)))
        return std::nullopt;
    return point;
}

}  // namespace

std::string printCurve(const Curve& curve) {
    nlohmann::ordered_json json;
    json["kind"] = kindWord;
    json["version"] = 1;
    json["instrument"] = curve.instrument;
    json["instrumentName"] = curve.instrumentName;
    json["moved"] = curve.moved;
    json["movedName"] = curve.movedName;
    json["heardFrom"] = curve.heardFrom;
    json["measured"] = curve.measured;
    if (!curve.state.empty()) json["state"] = curve.state;
    json["rate"] = curve.rate;
    json["velocity"] = curve.velocity;
    json["settle_us"] = curve.settle;
    json["hold_us"] = curve.hold;
    if (curve.missing > 0) json["missing"] = curve.missing;
    std::string text = json.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace);
    text.erase(text.rfind("\n}"));
    text += ",\n  \"keys\": [";
    for (std::size_t k = 0; k < curve.keys.size(); ++k) {
        text += k == 0 ? "\n" : ",\n";
        text += "    { \"key\": " + std::to_string(curve.keys[k].key) + ", \"points\": [";
        const auto& points = curve.keys[k].points;
        for (std::size_t i = 0; i < points.size(); ++i) {
            nlohmann::ordered_json row = {points[i].position, orNull(points[i].heard.loudness),
                                          orNull(points[i].heard.peak), rounded(points[i].heard.centroid)};
            if (points[i].heard.dies) row.push_back(true);
            text += (i == 0 ? "\n      " : ",\n      ") + row.dump();
        }
        text += "\n    ] }";
    }
    return text + "\n  ]\n}\n";
}

Result<Curve> readCurve(std::string_view text) {
    const auto tree = store::JsonTree::parse(text, deepest);
    if (!tree) return noMeasurement(tree.problem().where + ": " + tree.problem().what);
    const store::JsonView root = tree->root();
    if (!root.isObject() || store::textAt(root, "kind") != kindWord)
        return noMeasurement("the file holds no measurement");
    Curve curve;
    curve.instrument = store::textAt(root, "instrument");
    curve.instrumentName = store::textAt(root, "instrumentName");
    curve.moved = store::textAt(root, "moved");
    curve.movedName = store::textAt(root, "movedName");
    curve.heardFrom = store::textAt(root, "heardFrom");
    curve.measured = store::textAt(root, "measured");
    curve.state = store::textAt(root, "state");
    curve.rate = static_cast<int>(numberAt(root, "rate", 0, 0, highestRate));
    curve.velocity = static_cast<int>(numberAt(root, "velocity", 90, 1, midi::max7));
    curve.settle = static_cast<std::int64_t>(numberAt(root, "settle_us", 0, 0, longestPart));
    curve.hold = static_cast<std::int64_t>(numberAt(root, "hold_us", 0, 0, longestPart));
    constexpr double mostMissing = 1e9;
    curve.missing = static_cast<std::int64_t>(numberAt(root, "missing", 0, 0, mostMissing));
    const store::JsonView keys = root.find("keys");
    if (!keys || !keys.isList() || keys.size() > mostKeys) return noMeasurement("it has no keys");
    for (store::JsonView each = keys.first(); each; each = each.next()) {
        if (!each.isObject())
            return noMeasurement("line " + std::to_string(each.line()) + ": this is no key");
        KeyCurve line;
        line.key = static_cast<int>(numberAt(each, "key", 60, 0, midi::max7));
        const store::JsonView points = each.find("points");
        if (!points || !points.isList() || points.size() > mostPositions)
            return noMeasurement("line " + std::to_string(each.line()) + ": this key has no points");
        for (store::JsonView row = points.first(); row; row = row.next()) {
            const auto point = readPoint(row);
            const bool rises =
                point && (line.points.empty() || point->position > line.points.back().position);
            if (!rises) return noMeasurement("line " + std::to_string(row.line()) + ": this is no point");
            line.points.push_back(*point);
        }
        curve.keys.push_back(std::move(line));
    }
    return curve;
}

std::string printCsv(const Curve& curve) {
    std::string text = "position,key,lufs,true peak dB,centroid Hz\n";
    for (const KeyCurve& line : curve.keys) {
        for (const CurvePoint& point : line.points) {
            const Heard& heard = point.heard;
            // Over the keys themselves each position is one.
            const bool overKeys = curve.moved == "keys";
            const int key = overKeys ? static_cast<int>(std::lround(point.position * midi::max7)) : line.key;
            text += text::fixed(point.position, 4) + "," + midi::keyToType(key) + ",";
            if (heard.loudness) text += text::fixed(*heard.loudness, 2);
            text += ",";
            if (std::isfinite(heard.peak)) text += text::fixed(heard.peak, 2);
            text += "," + text::fixed(heard.centroid, 0) + "\n";
        }
    }
    return text;
}

}  // namespace mellow::balance
