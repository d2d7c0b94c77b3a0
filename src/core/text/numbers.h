// Numbers as a musician reads and types them.
//
// A value on screen is short and in real units: 6.2 kHz rather than 6234.1 Hz, −12 dB, 40 %. What is typed
// may carry a unit or a thousand's letter and means the same thing. Formatting does not depend on the locale,
// since sentences, files and the command line share it.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace mellow::text {

inline constexpr char dash[] = "–";
inline constexpr char minus[] = "−";

/// The shortest decimal text that reads well: at most four significant digits after rounding, no trailing
/// zeros, a real minus sign.
std::string plain(double value);

/// With so many decimals, and with a plain minus, for whoever reads tables; digits: 0..17.
std::string fixed(double value, int digits);

/// With one decimal always, so that numbers under one another do not dance, and a real minus.
std::string tenths(double value);

/// A value with its unit, scaled to read well: 6200 Hz becomes "6.2 kHz", 1500 ms "1.5 s". −∞ is "−∞ dB".
std::string withUnit(double value, std::string_view unit);

/// What somebody typed: "6.2k", "6.2 kHz", "-12 dB", "40%", "1,5 s", "-inf". The unit of the field decides
/// what a prefix means ("1.5 s" in a field of ms is 1500; "40%" in a field without a unit is 0.4). Nothing
/// when it is no number.
std::optional<double> parse(std::string_view typed, std::string_view unit);

/// With its first letter in lower case, unless the word is an abbreviation.
std::string lowered(std::string_view words);

/// True of texts (UTF-8) that differ in nothing but the case of their letters: those of Latin, Greek and
/// Cyrillic alphabets.
bool sameButForCase(std::string_view one, std::string_view other);

/// A text in lower case, letters of those alphabets.
std::string folded(std::string_view words);

/// "a, b and c".
template<class List>
std::string listed(const List& parts) {
    std::string text;
    std::size_t i = 0;
    for (const auto& part : parts) {
        if (i > 0) text += i + 1 == parts.size() ? " and " : ", ";
        text += part;
        ++i;
    }
    return text;
}

}  // namespace mellow::text
