// Each law is a pair of formulas, there and back (signal rules, section 4), with the words that stand for
// numbers: labels, and silence. The range has all defaults filled in before any of them is asked, and what
// makes no sense is told by flawOf() and by nobody else.
#include "core/model/law.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/midi/message.h"
#include "core/text/calculation.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

constexpr double silence = -std::numeric_limits<double>::infinity();

/// The message numbers whose middle is a rest of its own: balance and pan; fine and coarse tuning.
bool centredByNature(std::string_view kind, int number) {
    if (kind == "bend") return true;
    if (kind == "cc" || kind == "cc14") return number == 8 || number == 10;
    if (kind == "rpn") return number == 1 || number == 2;
    return false;
}

double choicePosition(std::size_t index, std::size_t count) {
    return count > 1 ? static_cast<double>(index) / static_cast<double>(count - 1) : 0.0;
}

std::size_t nearestChoice(const Range& range, double q) {
    const auto last = static_cast<double>(range.choices.size() - 1);
    return static_cast<std::size_t>(std::floor(clampPosition(q) * last + 0.5));
}

}  // namespace

Range rangeOf(const Parameter& parameter) {
    const Display& display = parameter.display;
    const bool ownBounds = display.low || display.high;
    Range range;
    range.law = display.law.value_or(Law::linear);
    range.unit = display.unit.empty() && range.law == Law::decibel ? "dB" : display.unit;
    range.choices = display.choices;
    if (parameter.message.kind == MessageKind::articulation) range.fewestChoices = 1;
    range.bendUnits = parameter.message.kind == MessageKind::bend && !ownBounds && range.law == Law::linear;
    const bool bend = parameter.message.kind == MessageKind::bend;
    range.low = display.low.value_or(bend ? -midi::bendCentre : 0);
    range.high = display.high.value_or(bend ? midi::bendCentre - 1 : row(parameter.message.kind).max);
    if (range.law == Law::decibel) range.high = display.high.value_or(0);
    return range;
}

std::string flawOf(const Range& range) {
    switch (range.law) {
        case Law::linear:
            return range.low == range.high ? "the display range has no width" : "";
        case Law::log:
            if (range.low <= 0 || range.high <= 0) return "a log range needs both ends above 0";
            return range.low == range.high ? "the display range has no width" : "";
        case Law::decibel:
            return "";
        case Law::choices:
            if (range.choices.size() >= range.fewestChoices) return "";
            return range.fewestChoices == 1 ? "there is nothing to choose"
                                            : "a list of choices needs at least two";
    }
    return "";
}

std::optional<double> rawPosition(const Range& range, const Level& level) {
    if (const auto* word = std::get_if<std::string>(&level)) {
        if (range.law == Law::decibel && *word == "-inf") return 0.0;
        if (range.law != Law::choices) return std::nullopt;
        const auto found = std::find(range.choices.begin(), range.choices.end(), *word);
        if (found == range.choices.end()) return std::nullopt;
        return choicePosition(static_cast<std::size_t>(found - range.choices.begin()), range.choices.size());
    }
    const double d = std::get<double>(level);
    switch (range.law) {
        case Law::linear:
            if (range.bendUnits) return decode(Scale::centred, d + midi::bendCentre, midi::max14);
            return (d - range.low) / (range.high - range.low);
        case Law::log:
            return d > 0 ? std::log(d / range.low) / std::log(range.high / range.low) : -1.0;
        case Law::decibel:
            return std::pow(10.0, (d - range.high) / 40);
        case Law::choices:
            return std::nullopt;
    }
    return std::nullopt;
}

double displayValue(const Range& range, double q) {
    switch (range.law) {
        case Law::linear:
            if (range.bendUnits) return encodeExactly(Scale::centred, q, midi::max14) - midi::bendCentre;
            return range.low + q * (range.high - range.low);
        case Law::log:
            return range.low * std::pow(range.high / range.low, q);
        case Law::decibel:
            return q > 0 ? range.high + 40 * std::log10(q) : silence;
        case Law::choices:
            return static_cast<double>(nearestChoice(range, q));
    }
    return 0;
}

namespace {

/// Whether only whole numbers are shown: of what is counted in hundreds, and of what has so few places, from
/// one whole number to another, that each of them is one, as a drawbar has.
bool showsWhole(const Range& range) {
    constexpr double manyPlaces = 100;
    constexpr double fewest = 4;
    constexpr double fewPlaces = 9;
    const double span = std::abs(range.high - range.low);
    const bool counted = range.law == Law::linear && span >= fewest && span <= fewPlaces &&
                         std::floor(range.low) == range.low && std::floor(range.high) == range.high;
    return range.unit.empty() && (span >= manyPlaces || counted);
}

}  // namespace

std::string displayText(const Range& range, double q) {
    if (!flawOf(range).empty()) return "?";
    if (range.law == Law::choices) return range.choices[nearestChoice(range, q)];
    const double value = displayValue(range, q);
    return text::withUnit(showsWhole(range) ? std::round(value) : value, range.unit);
}

std::string levelText(const Range& range, const Level& level) {
    if (const auto* word = std::get_if<std::string>(&level)) {
        return range.law == Law::decibel && *word == "-inf" ? text::withUnit(silence, range.unit) : *word;
    }
    return text::withUnit(std::get<double>(level), range.unit);
}

std::optional<Level> parseLevel(const Range& range, std::string_view typed) {
    if (range.law == Law::choices) {
        const auto found = std::find(range.choices.begin(), range.choices.end(), typed);
        return found == range.choices.end() ? std::nullopt : std::optional<Level>(*found);
    }
    const auto number = text::calculated(typed, range.unit);
    if (!number) return std::nullopt;
    if (std::isfinite(*number)) return Level(*number);
    return range.law == Law::decibel ? std::optional<Level>(std::string("-inf")) : std::nullopt;
}

Level levelAt(const Range& range, double q) {
    if (range.law == Law::choices) return range.choices[nearestChoice(range, q)];
    const double value = displayValue(range, clampPosition(q));
    if (!std::isfinite(value)) return std::string("-inf");
    const double size = std::max(std::abs(value), std::abs(range.high - range.low) / 100);
    const double grain =
        showsWhole(range) ? 1.0 : std::pow(10.0, std::floor(std::log10(std::max(size, 1e-9))) - 2);
    // Dividing by a whole number keeps 0.1-like grains free of binary tails.
    return grain < 1 ? std::round(value * std::round(1 / grain)) / std::round(1 / grain)
                     : std::round(value / grain) * grain;
}

Scale scaleOf(const Parameter& parameter) {
    const bool nature = centredByNature(row(parameter.message.kind).name, parameter.message.number);
    return parameter.centred.value_or(nature) ? Scale::centred : Scale::edge;
}

int maxOf(const Parameter& parameter) {
    if (parameter.message.kind == MessageKind::rpn && parameter.message.number == pitchRangeRegister)
        return pitchRangeMax;
    return row(parameter.message.kind).max;
}

namespace {

/// Where General MIDI's system-on leaves what a message sets, whatever the law. What is chosen among labels
/// by a number of its own rests at the first of them.
double systemOnPosition(const Parameter& parameter) {
    const Message& message = parameter.message;
    const int max = maxOf(parameter);
    const Scale scale = scaleOf(parameter);
    const auto at = [&](int raw) { return decode(scale, raw, max); };
    if (message.kind == MessageKind::cc || message.kind == MessageKind::cc14) {
        const int step = message.kind == MessageKind::cc14 ? midi::max7 + 1 : 1;
        const bool isSound =
            message.number >= midi::firstSoundControl && message.number <= midi::lastSoundControl;
        if (message.number == midi::volume) return at(midi::volumeAtSystemOn * step);
        if (message.number == midi::expression) return 1;
        if (isSound) return parameter.display.law == Law::choices ? 0 : at(midi::soundControlAtSystemOn);
    }
    const bool hasMiddle = scale == Scale::centred || centredByNature(row(message.kind).name, message.number);
    return hasMiddle ? at((max + 1) / 2) : 0;
}

}  // namespace

double restPosition(const Parameter& parameter) {
    const Range range = rangeOf(parameter);
    if (parameter.rest) {
        if (const auto q = rawPosition(range, *parameter.rest)) return clampPosition(*q);
    }
    return systemOnPosition(parameter);
}

Scale scaleOf(const Source& source) {
    const bool finger = source.kind == SourceKind::zoneNote && zoneNoteOf(source).takes != Finger::pressure;
    const bool nature = finger || centredByNature(row(source.kind).name, source.number);
    const bool middle = source.rest ? *source.rest == Rest::middle : nature;
    return middle ? Scale::centred : Scale::edge;
}

int maxOf(const Source& source) {
    if (source.kind == SourceKind::rpn && source.number == pitchRangeRegister) return pitchRangeMax;
    return row(source.kind).max;
}

}  // namespace mellow
