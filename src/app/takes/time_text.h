// Moments as people read them: in seconds, in bars and beats, or in frames of the picture.
//
// Bars are counted by the metres that a take has (Standard MIDI Files 1.0, meta event 58; 4/4 before any) and
// the tempos at which it was played. Frames are counted as such, hours first, without dropping numbers.
#pragma once

#include <QString>
#include <cstdint>
#include <optional>
#include <vector>

#include "core/takes/take.h"

namespace mellow::app {

enum class TimeUnit { seconds, bars, frames };

class TimeText {
 public:
    /// frameRate: of the picture, frames a second.
    void set(const Take& take, TimeUnit unit, double frameRate);
    [[nodiscard]] TimeUnit unit() const { return unit_; }

    /// As finely as one reads a playhead: "0:41.208", "20.3", "00:00:41:05".
    [[nodiscard]] QString fine(std::int64_t time) const;
    /// The time that somebody means who types what fine() writes, or less of it: "1:02.5", "62.5", "20.3",
    /// "00:00:41:05"; nothing where it is no time.
    [[nodiscard]] std::optional<std::int64_t> parse(const QString& typed) const;
    /// Where ticks of the ruler stand between two times, at least so many microseconds apart, with what is
    /// written there; empty: a small tick.
    struct Tick {
        std::int64_t time = 0;
        QString label;
    };
    [[nodiscard]] std::vector<Tick> ticks(double from, double to, double apart) const;
    /// "0:41.208".
    static QString seconds(std::int64_t time, int decimals = 3);

 private:
    [[nodiscard]] double beatsAt(std::int64_t time) const;
    [[nodiscard]] std::int64_t timeOfBeats(double beats) const;
    struct BarAndBeat {
        std::int64_t bar = 1;
        double beat = 1;
    };
    [[nodiscard]] BarAndBeat barAt(double beats) const;
    [[nodiscard]] std::vector<Tick> secondTicks(double from, double to, double apart) const;
    [[nodiscard]] std::vector<Tick> barTicks(double from, double to, double apart) const;
    [[nodiscard]] QString frameText(std::int64_t time) const;

    /// From a time on a tempo; quarter notes up to there.
    struct Stretch {
        std::int64_t time = 0;
        double tempo = 120;
        double beats = 0;
    };
    /// From a quarter note on a metre; bars up to there.
    struct Metre {
        double beats = 0;
        double quarters = 4;  ///< of a bar
        std::int64_t bars = 0;
        double unit = 1;  ///< quarters of a beat
    };
    TimeUnit unit_ = TimeUnit::seconds;
    double frameRate_ = 25;
    std::vector<Stretch> stretches_{{}};
    std::vector<Metre> metres_{{}};
};

}  // namespace mellow::app
