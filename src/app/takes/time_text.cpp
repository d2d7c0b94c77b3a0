// Beats are quarter notes. A metre begins a bar wherever it stands.
#include "app/takes/time_text.h"

#include <QRegularExpression>
#include <algorithm>
#include <array>
#include <cmath>

namespace mellow::app {

void TimeText::set(const Take& take, TimeUnit unit, double frameRate) {
    unit_ = unit;
    frameRate_ = frameRate;
    stretches_ = {{}};
    for (const TempoChange& change : take.tempos) {
        if (change.tempo <= 0) continue;
        const double beats = beatsAt(change.time);
        if (change.time <= stretches_.back().time) {
            stretches_.back().tempo = change.tempo;
        } else {
            stretches_.push_back({change.time, change.tempo, beats});
        }
    }
    metres_ = {{}};
    for (const TakeMark& mark : take.marks) {
        if (mark.type != smf::timeSignature || mark.body.size() < 2) continue;
        const int numerator = std::max(1, static_cast<int>(static_cast<std::uint8_t>(mark.body[0])));
        const double unitOf = 4 / std::pow(2.0, std::min(static_cast<int>(mark.body[1]), 6));
        const double beats = beatsAt(mark.time);
        const Metre last = metres_.back();
        const auto bars =
            last.bars + static_cast<std::int64_t>(std::ceil((beats - last.beats) / last.quarters - 1e-6));
        const Metre metre{beats, numerator * unitOf, bars, unitOf};
        if (beats <= last.beats) {
            metres_.back() = metre;
        } else {
            metres_.push_back(metre);
        }
    }
}

double TimeText::beatsAt(std::int64_t time) const {
    const auto behind = std::upper_bound(stretches_.begin() + 1, stretches_.end(), time,
                                         [](std::int64_t t, const Stretch& s) { return t < s.time; });
    const Stretch& stretch = *(behind - 1);
    return stretch.beats + static_cast<double>(time - stretch.time) * stretch.tempo / 60e6;
}

std::int64_t TimeText::timeOfBeats(double beats) const {
    const auto behind = std::upper_bound(stretches_.begin() + 1, stretches_.end(), beats,
                                         [](double b, const Stretch& s) { return b < s.beats; });
    const Stretch& stretch = *(behind - 1);
    return stretch.time + std::llround((beats - stretch.beats) * 60e6 / stretch.tempo);
}

TimeText::BarAndBeat TimeText::barAt(double beats) const {
    const auto behind = std::upper_bound(metres_.begin() + 1, metres_.end(), beats + 1e-6,
                                         [](double b, const Metre& m) { return b < m.beats; });
    const Metre& metre = *(behind - 1);
    const double since = beats - metre.beats;
    const auto bars = static_cast<std::int64_t>(std::floor(since / metre.quarters + 1e-6));
    const double left = since - static_cast<double>(bars) * metre.quarters;
    return {metre.bars + bars + 1, left / metre.unit + 1};
}

QString TimeText::seconds(std::int64_t time, int decimals) {
    const bool before = time < 0;
    const auto whole = static_cast<double>(std::abs(time)) / 1e6;
    const double step = std::pow(10.0, -decimals);
    const double rounded = std::floor(whole / step + 1e-6) * step;
    const auto minutes = static_cast<int>(rounded / 60);
    const double rest = rounded - minutes * 60;
    return (before ? QStringLiteral("−") : QString()) +
           QStringLiteral("%1:%2").arg(minutes).arg(rest, decimals > 0 ? 3 + decimals : 2, 'f', decimals,
                                                    QLatin1Char('0'));
}

QString TimeText::frameText(std::int64_t time) const {
    const auto frames = static_cast<std::int64_t>(
        std::floor(static_cast<double>(std::max<std::int64_t>(time, 0)) * frameRate_ / 1e6 + 1e-6));
    const auto perSecond = static_cast<std::int64_t>(std::round(frameRate_));
    const auto two = [](std::int64_t number) {
        return QStringLiteral("%1").arg(number, 2, 10, QLatin1Char('0'));
    };
    const std::int64_t seconds = frames / perSecond;
    return two(seconds / 3600) + QLatin1Char(':') + two(seconds / 60 % 60) + QLatin1Char(':') +
           two(seconds % 60) + QLatin1Char(':') + two(frames % perSecond);
}

QString TimeText::fine(std::int64_t time) const {
    switch (unit_) {
        case TimeUnit::bars: {
            const BarAndBeat at = barAt(beatsAt(std::max<std::int64_t>(time, 0)));
            return QStringLiteral("%1.%2").arg(at.bar).arg(at.beat, 0, 'f', 2);
        }
        case TimeUnit::frames:
            return frameText(time);
        default:
            return seconds(time);
    }
}

namespace {

/// Numbers between colons: "1:02.5" is {1, 2.5}; nothing where something is none.
std::vector<double> partsOf(const QString& typed) {
    std::vector<double> parts;
    for (QString part : typed.trimmed().split(QLatin1Char(':'))) {
        bool isNumber = false;
        parts.push_back(part.replace(QLatin1Char(','), QLatin1Char('.')).toDouble(&isNumber));
        if (!isNumber || !std::isfinite(parts.back()) || parts.back() < 0) return {};
    }
    return parts;
}

}  // namespace

std::optional<std::int64_t> TimeText::parse(const QString& typed) const {
    constexpr double longest = 86400.0 * 7;  // s
    static const QRegularExpression barAndBeat(QStringLiteral("^(\\d+)(?:\\.(\\d+(?:[.,]\\d+)?))?$"));
    const auto bars = barAndBeat.match(typed.trimmed());
    if (unit_ == TimeUnit::bars && bars.hasMatch()) {
        const double bar = bars.captured(1).toDouble();
        const double beat = bars.captured(2).isEmpty()
                                ? 1
                                : bars.captured(2).replace(QLatin1Char(','), QLatin1Char('.')).toDouble();
        if (bar < 1 || beat < 1 || bar > longest || beat > longest) return std::nullopt;
        const Metre* metre = &metres_.front();
        for (const Metre& each : metres_) {
            if (static_cast<double>(each.bars) <= bar - 1) metre = &each;
        }
        return timeOfBeats(metre->beats + (bar - 1 - static_cast<double>(metre->bars)) * metre->quarters +
                           (beat - 1) * metre->unit);
    }
    std::vector<double> parts = partsOf(typed);
    if (parts.empty() || parts.size() > 4) return std::nullopt;
    double seconds = 0;
    if (unit_ == TimeUnit::frames && parts.size() == 4) {
        seconds = parts.back() / frameRate_;
        parts.pop_back();
    }
    double whole = 0;
    for (const double part : parts) whole = whole * 60 + part;
    seconds += whole;
    if (seconds > longest) return std::nullopt;
    return std::llround(seconds * 1e6);
}

std::vector<TimeText::Tick> TimeText::secondTicks(double from, double to, double apart) const {
    constexpr std::array<double, 19> steps{1e3, 2e3, 5e3, 1e4, 2e4, 5e4, 1e5, 2e5,   5e5,  1e6,
                                           2e6, 5e6, 1e7, 3e7, 6e7, 3e8, 6e8, 1.8e9, 3.6e9};
    double step = steps.back();
    for (const double each : steps) {
        if (each >= apart) {
            step = each;
            break;
        }
    }
    if (unit_ == TimeUnit::frames && step < 1e6) {
        const double frame = 1e6 / frameRate_;
        step = frame * std::max(1.0, std::ceil(apart / frame));
    }
    const int decimals = step >= 1e6 ? 0 : step >= 1e5 ? 1 : step >= 1e4 ? 2 : 3;
    std::vector<Tick> ticks;
    constexpr int parts = 5;
    for (auto n = static_cast<std::int64_t>(std::ceil(std::max(from, 0.0) / step * parts));
         n * step / parts <= to; ++n) {
        const auto time = std::llround(static_cast<double>(n) * step / parts);
        const bool large = n % parts == 0;
        ticks.push_back({time, !large                      ? QString()
                               : unit_ == TimeUnit::frames ? frameText(time)
                                                           : seconds(time, decimals)});
    }
    return ticks;
}

std::vector<TimeText::Tick> TimeText::barTicks(double from, double to, double apart) const {
    std::vector<Tick> ticks;
    double beats = 0;
    // A bar is so long at the first tempo; several bars a label where they are too narrow.
    const double bar = metres_.front().quarters * 60e6 / stretches_.front().tempo;
    std::int64_t every = 1;
    while (bar * static_cast<double>(every) < apart) every *= 2;
    const std::size_t first = 0;
    for (std::size_t m = first; m < metres_.size(); ++m) {
        const Metre& metre = metres_[m];
        const double until = m + 1 < metres_.size() ? metres_[m + 1].beats
                                                    : beatsAt(static_cast<std::int64_t>(to)) + metre.quarters;
        const double start = beatsAt(static_cast<std::int64_t>(std::max(from, 0.0)));
        auto n = static_cast<std::int64_t>(std::max(0.0, std::floor((start - metre.beats) / metre.quarters)));
        for (beats = metre.beats + static_cast<double>(n) * metre.quarters; beats < until - 1e-6;
             beats += metre.quarters, ++n) {
            const std::int64_t number = metre.bars + n;
            const bool large = number % every == 0;
            if (large) {
                ticks.push_back({timeOfBeats(beats), QString::number(number + 1)});
            } else if (every <= 16) {
                ticks.push_back({timeOfBeats(beats), {}});
            }
            if (every > 1) continue;
            for (double beat = beats + metre.unit; beat < beats + metre.quarters - 1e-6; beat += metre.unit)
                ticks.push_back({timeOfBeats(beat), {}});
        }
    }
    return ticks;
}

std::vector<TimeText::Tick> TimeText::ticks(double from, double to, double apart) const {
    return unit_ == TimeUnit::bars ? barTicks(from, to, apart) : secondTicks(from, to, apart);
}

}  // namespace mellow::app
