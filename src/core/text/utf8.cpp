// The 27 letters in which Windows-1252 differs from Latin-1 stand in a table (Unicode, CP1252.TXT); the five
// bytes that it leaves free are the controls that Latin-1 has there.
#include "core/text/utf8.h"

#include <array>
#include <cstdint>

#include "core/text/printable.h"

namespace mellow::text {

namespace {

constexpr std::array<char16_t, 32> windows{0x20AC, 0x81,   0x201A, 0x192,  0x201E, 0x2026, 0x2020, 0x2021,
                                           0x2C6,  0x2030, 0x160,  0x2039, 0x152,  0x8D,   0x17D,  0x8F,
                                           0x90,   0x2018, 0x2019, 0x201C, 0x201D, 0x2022, 0x2013, 0x2014,
                                           0x2DC,  0x2122, 0x161,  0x203A, 0x153,  0x9D,   0x17E,  0x178};

void append(std::string& to, char32_t code) {
    const auto byte = [&to](char32_t value) { to += static_cast<char>(value); };
    if (code < 0x80) return byte(code);
    if (code < 0x800) {
        byte(0xC0 | code >> 6);
    } else if (code < 0x10000) {
        byte(0xE0 | code >> 12);
        byte(0x80 | (code >> 6 & 0x3F));
    } else {
        byte(0xF0 | code >> 18);
        byte(0x80 | (code >> 12 & 0x3F));
        byte(0x80 | (code >> 6 & 0x3F));
    }
    byte(0x80 | (code & 0x3F));
}

std::string fromUtf16(std::string_view text, bool littleEnd) {
    constexpr char32_t replacement = 0xFFFD;
    const auto unit = [&](std::size_t at) {
        const auto one = static_cast<std::uint8_t>(text[at]);
        const auto two = static_cast<std::uint8_t>(text[at + 1]);
        return static_cast<char32_t>(littleEnd ? two << 8 | one : one << 8 | two);
    };
    std::string made;
    for (std::size_t at = 2; at + 1 < text.size(); at += 2) {
        const char32_t high = unit(at);
        if (high < 0xD800 || high > 0xDFFF) {
            append(made, high);
            continue;
        }
        const char32_t low = high < 0xDC00 && at + 3 < text.size() ? unit(at + 2) : 0;
        const bool isPair = low >= 0xDC00 && low <= 0xDFFF;
        append(made, isPair ? 0x10000 + ((high - 0xD800) << 10) + (low - 0xDC00) : replacement);
        if (isPair) at += 2;
    }
    return made;
}

}  // namespace

bool isUtf8(std::string_view text) {
    while (!text.empty()) {
        const std::size_t size = characterSize(text);
        if (size == 0) return false;
        text.remove_prefix(size);
    }
    return true;
}

Decoded toUtf8(std::string_view text) {
    if (text.starts_with("\xFF\xFE")) return {fromUtf16(text, true), "UTF-16"};
    if (text.starts_with("\xFE\xFF")) return {fromUtf16(text, false), "UTF-16"};
    if (isUtf8(text)) return {std::string(text), "UTF-8"};
    std::string made;
    made.reserve(text.size() + text.size() / 8);
    for (const char letter : text) {
        const auto byte = static_cast<std::uint8_t>(letter);
        append(made, byte >= 0x80 && byte < 0xA0 ? windows[byte - 0x80U] : byte);
    }
    return {std::move(made), "Windows-1252"};
}

}  // namespace mellow::text
