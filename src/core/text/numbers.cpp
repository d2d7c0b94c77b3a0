// to_chars and from_chars throughout, which know no locale. Rounding comes before choosing a prefix and after
// scaling, so that 999.6 Hz does not become 1000 Hz beside 1 kHz. What is typed may use the comma of other
// languages.
#include "core/text/numbers.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <limits>

namespace mellow::text {

namespace {

struct Prefix {
    std::string_view unit;    ///< of the field
    std::string_view larger;  ///< what it becomes from `factor` up
    double factor;
};

constexpr std::array<Prefix, 2> prefixes{{{"Hz", "kHz", 1000}, {"ms", "s", 1000}}};

std::string fixedDigits(double value, int digits) {
    std::array<char, 400> buffer{};
    const auto end =
        std::to_chars(buffer.data(), buffer.data() + buffer.size(), value, std::chars_format::fixed, digits);
    std::string text(buffer.data(), end.ptr);
    if (text.find('.') != std::string::npos) {
        text.erase(text.find_last_not_of('0') + 1);
        if (text.back() == '.') text.pop_back();
    }
    return text == "-0" ? "0" : text;
}

/// Nobody reads more digits than this.
constexpr double tooLong = 1e15;

std::string shortest(double value) {
    std::array<char, 32> buffer{};
    const auto end = std::to_chars(buffer.data(), buffer.data() + buffer.size(), value).ptr;
    return {buffer.data(), end};
}

std::string lowercase(std::string_view text) {
    std::string result(text);
    std::transform(result.begin(), result.end(), result.begin(),
                   [](unsigned char c) { return std::tolower(c); });
    return result;
}

std::string_view trimmed(std::string_view text) {
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.front())) != 0)
        text.remove_prefix(1);
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.back())) != 0) text.remove_suffix(1);
    return text;
}

std::string replaced(std::string text, std::string_view from, std::string_view to) {
    for (std::size_t at = text.find(from); at != std::string::npos; at = text.find(from, at + to.size())) {
        text.replace(at, from.size(), to);
    }
    return text;
}

/// What the letters behind a number multiply it by, or nothing when they do not fit the field's unit.
std::optional<double> factorOf(std::string_view suffix, std::string_view unit) {
    if (suffix.empty()) return 1.0;
    if (suffix == "%")
        return unit == "%" ? std::optional(1.0) : unit.empty() ? std::optional(0.01) : std::nullopt;
    if (suffix == lowercase(unit)) return 1.0;
    for (const Prefix& prefix : prefixes) {
        if (unit == prefix.unit && suffix == lowercase(prefix.larger)) return prefix.factor;
        if (unit == prefix.larger && suffix == lowercase(prefix.unit)) return 1.0 / prefix.factor;
    }
    if (suffix == "k") return 1000.0;
    return std::nullopt;
}

}  // namespace

std::string plain(double value) {
    if (std::isinf(value)) return value < 0 ? std::string(minus) + "∞" : "∞";
    if (std::isnan(value)) return "?";
    const double size = std::abs(value);
    if (size >= tooLong) return (value < 0 ? std::string(minus) : std::string()) + shortest(size);
    const int digits = size >= 1000 ? 0 : size >= 100 ? 1 : size >= 10 ? 2 : 3;
    const std::string text = fixedDigits(size, digits);
    return value < 0 && text != "0" ? std::string(minus) + text : text;
}

std::string fixed(double value, int digits) {
    std::array<char, 400> out{};  // the largest number has 309 digits before its point
    const auto end =
        std::to_chars(out.data(), out.data() + out.size(), value, std::chars_format::fixed, digits);
    return {out.data(), end.ptr};
}

std::string tenths(double value) {
    std::string text = fixed(value, 1);
    if (text == "-0.0") text.erase(0, 1);
    return text.starts_with('-') ? minus + text.substr(1) : text;
}

std::string withUnit(double value, std::string_view unit) {
    for (const Prefix& prefix : prefixes) {
        if (unit == prefix.unit && std::abs(value) >= prefix.factor && std::isfinite(value)) {
            const double scaled = value / prefix.factor;
            return plain(std::round(scaled * 100) / 100) + " " + std::string(prefix.larger);
        }
    }
    if (unit.empty()) return plain(value);
    const double size = std::abs(value);
    const double grain = size >= 100 ? 1 : size >= 10 ? 10 : size >= 1 ? 100 : 1000;
    const double rounded = std::round(value * grain) / grain;
    return plain(std::isfinite(value) ? rounded : value) + " " + std::string(unit);
}

std::optional<double> parse(std::string_view typed, std::string_view unit) {
    std::string text = replaced(replaced(std::string(trimmed(typed)), minus, "-"), ",", ".");
    text = lowercase(replaced(text, "∞", "inf"));
    if (!text.empty() && text.front() == '+') text.erase(0, 1);
    if (text.starts_with("-inf")) return -std::numeric_limits<double>::infinity();
    double number = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
    if (error != std::errc() || !std::isfinite(number)) return std::nullopt;
    const auto factor = factorOf(trimmed(std::string_view(end, text.data() + text.size())), unit);
    if (!factor) return std::nullopt;
    return number * *factor;
}

std::string lowered(std::string_view words) {
    std::string text(words);
    const bool abbreviation = text.size() > 1 && std::isupper(static_cast<unsigned char>(text[1])) != 0;
    if (!text.empty() && !abbreviation)
        text[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(text[0])));
    return text;
}

namespace {

/// The next character of UTF-8 text, taken off it; a byte that begins none stands for itself.
char32_t takeCharacter(std::string_view& text) {
    const auto first = static_cast<unsigned char>(text.front());
    const std::size_t length = first < 0xC0 ? 1 : first < 0xE0 ? 2 : first < 0xF0 ? 3 : 4;
    char32_t character = length == 1 ? first : first & (0xFFU >> (length + 1));
    for (std::size_t i = 1; i < length && i < text.size(); ++i)
        character = character << 6 | (static_cast<unsigned char>(text[i]) & 0x3FU);
    text.remove_prefix(std::min(length, text.size()));
    return character;
}

/// A letter in lower case.
char32_t lowerCase(char32_t letter) {
    constexpr char32_t timesSign = 0xD7;
    const auto isIn = [letter](char32_t first, char32_t last) { return letter >= first && letter <= last; };
    const bool hasItsOwnPlace = isIn('A', 'Z') || (isIn(0xC0, 0xDE) && letter != timesSign) ||
                                isIn(0x391, 0x3A9) || isIn(0x410, 0x42F);
    if (hasItsOwnPlace) return letter + 0x20;
    if (isIn(0x400, 0x40F)) return letter + 0x50;
    const bool evenAreCapitals = isIn(0x100, 0x137) || isIn(0x14A, 0x177);
    if (evenAreCapitals) return letter | 1;
    const bool oddAreCapitals = isIn(0x139, 0x148) || isIn(0x179, 0x17E);
    return oddAreCapitals && letter % 2 == 1 ? letter + 1 : letter;
}

}  // namespace

std::string folded(std::string_view words) {
    std::string text;
    text.reserve(words.size());
    while (!words.empty()) {
        const std::string_view before = words;
        const char32_t character = takeCharacter(words);
        const char32_t low = lowerCase(character);
        if (low == character) {
            text += before.substr(0, before.size() - words.size());
        } else if (low < 0x80) {
            text += static_cast<char>(low);
        } else {
            text += static_cast<char>(0xC0U | low >> 6);
            text += static_cast<char>(0x80U | (low & 0x3FU));
        }
    }
    return text;
}

bool sameButForCase(std::string_view one, std::string_view other) {
    while (!one.empty() && !other.empty()) {
        if (lowerCase(takeCharacter(one)) != lowerCase(takeCharacter(other))) return false;
    }
    return one.empty() && other.empty();
}

}  // namespace mellow::text
