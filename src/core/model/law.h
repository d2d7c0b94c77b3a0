// From display units to the raw position of a parameter, and back (signal rules, section 4).
//
// A composer thinks in Hz, dB and per cent; the wire carries 0 to 127. The law of a parameter says how the
// raw travel q in [0, 1] is spread over the display range. A Range is a law with all its defaults filled in,
// so that nobody else needs to know what a document may leave out.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/model/scale.h"

namespace mellow {

/// RPN 0, the range of pitch bend, is semitones in the high byte and cents in the low, so its raw values are
/// cents: 0 to 127 semitones and 99 cents.
inline constexpr int pitchRangeRegister = 0;
inline constexpr int centsASemitone = 100;
inline constexpr int pitchRangeMax = 127 * centsASemitone + 99;

struct Range {
    Law law = Law::linear;
    double low = 0;     ///< display value of q = 0; of decibel not used
    double high = 127;  ///< display value of q = 1; of decibel the top, 0 dB unless something else is said
    std::string unit;
    std::vector<std::string> choices;
    std::size_t fewestChoices = 2;  ///< that make sense
    bool bendUnits = false;         ///< pitch bend's own units: −8192..8191 through the centred scale
};

/// The range of a parameter, defaults filled in from its message.
Range rangeOf(const Parameter& parameter);

/// Why the range makes no sense ("a log range needs both ends above 0"), or nothing.
std::string flawOf(const Range& range);

/// The raw position of a display value, not clamped: below 0 or above 1 when it lies outside the range.
/// Nothing when the level is a word that the range does not know.
std::optional<double> rawPosition(const Range& range, const Level& level);
/// The display value of a raw position in [0, 1]; −∞ for decibel silence; a label's index for choices.
double displayValue(const Range& range, double q);

/// A raw position in words: "6.2 kHz", "−12 dB", "Half", "64".
std::string displayText(const Range& range, double q);
/// A level as the document writes it, in words.
std::string levelText(const Range& range, const Level& level);
/// The level to store for what somebody typed, or nothing when it cannot be read.
std::optional<Level> parseLevel(const Range& range, std::string_view typed);
/// A raw position as a level to store, rounded as finely as the law's display can show.
Level levelAt(const Range& range, double q);

/// The scale and highest raw value on which a parameter's message encodes.
Scale scaleOf(const Parameter& parameter);
int maxOf(const Parameter& parameter);
/// The resting raw position: `rest`, or the default of the message and law. Clamped.
double restPosition(const Parameter& parameter);

/// The scale and highest raw value of a source, and of a control of a controller.
Scale scaleOf(const Source& source);
int maxOf(const Source& source);

}  // namespace mellow
