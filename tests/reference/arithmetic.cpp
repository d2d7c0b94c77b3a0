// Scales, laws and defaults as the tables of sections 1 and 4 have them, each formula where it is used, with
// nothing shared between them and nothing taken from the program.
#include "reference/arithmetic.h"

#include <algorithm>
#include <cmath>

namespace mellow::reference {

namespace {

bool isPitchRange(MessageKind kind, int number) {
    return kind == MessageKind::rpn && number == 0;
}

Law lawOf(const Parameter& parameter) {
    return parameter.display.law.value_or(Law::linear);
}

/// −8192..8191 is the default display of pitch bend alone.
bool usesBendUnits(const Parameter& parameter) {
    return parameter.message.kind == MessageKind::bend && lawOf(parameter) == Law::linear &&
           !parameter.display.low && !parameter.display.high;
}

bool isFourteenBits(MessageKind kind) {
    return kind == MessageKind::cc14 || kind == MessageKind::rpn || kind == MessageKind::nrpn ||
           kind == MessageKind::bend;
}

double lowOf(const Parameter& parameter) {
    if (parameter.display.low) return *parameter.display.low;
    return parameter.message.kind == MessageKind::bend ? -8192 : 0;
}
double highOf(const Parameter& parameter) {
    if (parameter.display.high) return *parameter.display.high;
    if (parameter.message.kind == MessageKind::bend) return 8191;
    return isFourteenBits(parameter.message.kind) ? 16383 : 127;
}

}  // namespace

/// Of the law decibel.
static double topOf(const Parameter& parameter) {
    return parameter.display.high.value_or(0);
}

double clamped(double p) {
    if (std::isnan(p) || p < 0) return 0;
    return p > 1 ? 1 : p;
}

double decode(const Raws& raws, int value) {
    const double v = value;
    const double max = raws.max;
    if (!raws.centred) return v / max;
    const double mid = (raws.max + 1) / 2;
    if (v <= mid) return v / (2 * mid);
    return 0.5 + 0.5 * (v - mid) / (max - mid);
}

int encode(const Raws& raws, double p) {
    const double max = raws.max;
    if (!raws.centred) return static_cast<int>(std::floor(p * max + 0.5));
    const double mid = (raws.max + 1) / 2;
    if (p <= 0.5) return static_cast<int>(std::floor(2 * mid * p + 0.5));
    return static_cast<int>(mid + std::floor(2 * (p - 0.5) * (max - mid) + 0.5));
}

Raws rawsOf(const Source& source) {
    Raws raws;
    switch (source.kind) {
        case SourceKind::bend:
            raws = {true, 16383};
            break;
        case SourceKind::cc:
            raws = {source.number == 8 || source.number == 10, 127};
            break;
        case SourceKind::cc14:
            raws = {source.number == 8 || source.number == 10, 16383};
            break;
        case SourceKind::rpn:
            // RPN 0 is counted in cents.
            raws = {source.number == 1 || source.number == 2, source.number == 0 ? 12799 : 16383};
            break;
        case SourceKind::nrpn:
            raws = {false, 16383};
            break;
        default:
            break;
    }
    // A finger's bend and slide rest in the middle, its pressure at the low end.
    if (source.kind == SourceKind::zoneNote) raws.centred = std::get<int>(source.values[0]) != 2;
    if (source.rest) raws.centred = *source.rest == Rest::middle;
    return raws;
}

Raws rawsOf(const Parameter& parameter) {
    const auto& [kind, number] = std::pair(parameter.message.kind, parameter.message.number);
    Raws raws;
    raws.max = isPitchRange(kind, number) ? 12799 : isFourteenBits(kind) ? 16383 : 127;
    if (kind == MessageKind::bend) raws.centred = true;
    if (kind == MessageKind::cc || kind == MessageKind::cc14) raws.centred = number == 8 || number == 10;
    if (kind == MessageKind::rpn) raws.centred = number == 1 || number == 2;
    if (parameter.centred) raws.centred = *parameter.centred;
    return raws;
}

std::optional<double> rawPosition(const Parameter& parameter, const Level& level) {
    const Law law = lawOf(parameter);
    if (const auto* word = std::get_if<std::string>(&level)) {
        if (law == Law::decibel && *word == "-inf") return 0;
        const auto& labels = parameter.display.choices;
        for (std::size_t k = 0; law == Law::choices && k < labels.size(); ++k) {
            if (labels[k] == *word)
                return labels.size() == 1 ? 0
                                          : static_cast<double>(k) / static_cast<double>(labels.size() - 1);
        }
        return std::nullopt;
    }
    const double d = std::get<double>(level);
    const double a = lowOf(parameter);
    const double b = highOf(parameter);
    switch (law) {
        case Law::linear:
            if (!usesBendUnits(parameter)) return (d - a) / (b - a);
            // The centred scale's p of v = d + 8192, for fractions too.
            return d + 8192 <= 8192 ? (d + 8192) / 16384 : 0.5 + 0.5 * d / 8191;
        case Law::log:
            return d > 0 ? std::log(d / a) / std::log(b / a) : -1;
        case Law::decibel:
            return std::pow(10, (d - topOf(parameter)) / 40);
        case Law::choices:
            return std::nullopt;
    }
    return std::nullopt;
}

double displayValue(const Parameter& parameter, double q) {
    const double a = lowOf(parameter);
    const double b = highOf(parameter);
    switch (lawOf(parameter)) {
        case Law::linear:
            return a + q * (b - a);
        case Law::log:
            return a * std::pow(b / a, q);
        case Law::decibel:
            return topOf(parameter) + 40 * std::log10(q);
        case Law::choices:
            return std::floor(q * static_cast<double>(parameter.display.choices.size() - 1) + 0.5);
    }
    return 0;
}

double restPosition(const Parameter& parameter) {
    if (parameter.rest) return clamped(rawPosition(parameter, *parameter.rest).value_or(0));
    // Where system-on leaves it, as a raw value.
    const auto [kind, number] = std::pair(parameter.message.kind, parameter.message.number);
    const Raws raws = rawsOf(parameter);
    const bool control = kind == MessageKind::cc || kind == MessageKind::cc14;
    if (control && number == 7) return decode(raws, kind == MessageKind::cc ? 100 : 12800);
    if (control && number == 11) return 1;
    if (control && number >= 71 && number <= 78)
        return lawOf(parameter) == Law::choices ? 0 : decode(raws, 64);
    const bool middle = kind == MessageKind::bend || (control && (number == 8 || number == 10)) ||
                        (kind == MessageKind::rpn && (number == 1 || number == 2)) || raws.centred;
    return middle ? decode(raws, (raws.max + 1) / 2) : 0;
}

double unrounded(const Parameter& parameter, double q) {
    const Raws raws = rawsOf(parameter);
    const double mid = (raws.max + 1) / 2;
    if (!raws.centred) return q * raws.max;
    return q <= 0.5 ? 2 * mid * q : mid + 2 * (q - 0.5) * (raws.max - mid);
}

double toLabel(const Parameter& parameter, double q) {
    if (lawOf(parameter) != Law::choices) return q;
    if (parameter.display.choices.size() == 1) return 0;
    const auto last = static_cast<double>(parameter.display.choices.size() - 1);
    return std::floor(q * last + 0.5) / last;
}

bool isSound(const Parameter& parameter) {
    const double a = lowOf(parameter);
    const double b = highOf(parameter);
    switch (lawOf(parameter)) {
        case Law::linear:
            return a != b;
        case Law::log:
            return a > 0 && b > 0 && a != b;
        case Law::decibel:
            return true;
        case Law::choices:
            return parameter.display.choices.size() >=
                   (parameter.message.kind == MessageKind::articulation ? 1 : 2);
    }
    return false;
}

}  // namespace mellow::reference
