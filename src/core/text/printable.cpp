// A text is walked a character at a time, each checked as RFC 3629 defines it; a byte that begins none is a
// piece of its own. Only as much is walked as will be shown, from both ends.
#include "core/text/printable.h"

#include <array>
#include <cstdint>
#include <vector>

namespace mellow::text {

namespace {

/// A character, or a byte that is none.
struct Piece {
    std::string_view bytes;
    char32_t code = 0;
    bool isCharacter = false;
};

/// The first piece of a text that is not empty (UTF-8: RFC 3629).
Piece firstPiece(std::string_view text) {
    const auto byte = [&text](std::size_t i) { return static_cast<std::uint8_t>(text[i]); };
    const std::uint8_t lead = byte(0);
    if (lead < 0x80) return {text.substr(0, 1), lead, true};
    const std::size_t size = lead >= 0xF0 ? 4 : lead >= 0xE0 ? 3 : 2;
    constexpr std::array<char32_t, 3> smallest{0x80, 0x800, 0x10000};  // of two bytes and more
    char32_t code = lead & (0x7FU >> size);
    bool whole = lead >= 0xC2 && lead <= 0xF4 && text.size() >= size;
    for (std::size_t i = 1; whole && i < size; ++i) {
        whole = (byte(i) & 0xC0) == 0x80;
        code = code << 6 | (byte(i) & 0x3FU);
    }
    whole = whole && code >= smallest.at(size - 2) && code <= 0x10FFFF && (code < 0xD800 || code > 0xDFFF);
    return whole ? Piece{text.substr(0, size), code, true} : Piece{text.substr(0, 1), lead, false};
}

/// Controls, line and paragraph separators, and what turns the direction of writing round.
bool isHidden(char32_t code) {
    return code < 0x20 || (code >= 0x7F && code < 0xA0) || code == 0x2028 || code == 0x2029 ||
           (code >= 0x200B && code <= 0x200F) || (code >= 0x202A && code <= 0x202E) ||
           (code >= 0x2060 && code <= 0x206F) || code == 0xFEFF;
}

bool isSpace(char32_t code) {
    return code == ' ' || code == 0xA0 || code == 0x1680 || (code >= 0x2000 && code <= 0x200A) ||
           code == 0x202F || code == 0x205F || code == 0x3000;
}

std::string written(const Piece& piece) {
    if (piece.isCharacter && !isHidden(piece.code)) return std::string(piece.bytes);
    if (piece.code == '\n' && piece.isCharacter) return "\\n";
    if (piece.code == '\t' && piece.isCharacter) return "\\t";
    constexpr std::string_view digits = "0123456789ABCDEF";
    const int size = piece.isCharacter && piece.code > 0xFF ? 4 : 2;
    std::string code(size == 4 ? "\\u" : "\\x");
    for (int shift = 4 * (size - 1); shift >= 0; shift -= 4) code += digits[piece.code >> shift & 0xF];
    return code;
}

}  // namespace

std::string printable(std::string_view text, std::size_t longest) {
    // What is far too long is not looked through: a character has four bytes at most.
    const std::size_t head = longest - longest / 3;
    const std::size_t tail = longest / 3;
    std::vector<std::string> first;
    std::string_view left = text;
    while (!left.empty() && first.size() <= longest) {
        const Piece piece = firstPiece(left);
        first.push_back(written(piece));
        left.remove_prefix(piece.bytes.size());
    }
    std::string shown;
    if (first.size() <= longest) {
        for (const std::string& piece : first) shown += piece;
        return shown;
    }
    for (std::size_t i = 0; i < head; ++i) shown += first[i];
    shown += "…";
    std::size_t start = text.size();
    for (std::size_t i = 0; i < tail && start > 0; ++i) {
        --start;
        while (start > 0 && (static_cast<std::uint8_t>(text[start]) & 0xC0) == 0x80 &&
               text.size() - start < 4 * tail)
            --start;
    }
    for (left = text.substr(start); !left.empty();) {
        const Piece piece = firstPiece(left);
        shown += written(piece);
        left.remove_prefix(piece.bytes.size());
    }
    return shown;
}

std::size_t characterSize(std::string_view text) {
    const Piece piece = firstPiece(text);
    return piece.isCharacter ? piece.bytes.size() : 0;
}

std::string quoted(std::string_view text) {
    constexpr std::size_t enough = 40;
    return "\"" + printable(text, enough) + "\"";
}

bool isOneWord(std::string_view text) {
    if (text.empty()) return false;
    while (!text.empty()) {
        const Piece piece = firstPiece(text);
        if (!piece.isCharacter || isHidden(piece.code) || isSpace(piece.code)) return false;
        text.remove_prefix(piece.bytes.size());
    }
    return true;
}

std::string fileWord(std::string_view text, std::string_view plain) {
    constexpr std::size_t longest = 40;
    std::string word;
    for (const char letter : text) {
        const bool isLarge = letter >= 'A' && letter <= 'Z';
        const bool isKept = isLarge || (letter >= 'a' && letter <= 'z') || (letter >= '0' && letter <= '9');
        if (isKept) {
            word += static_cast<char>(isLarge ? letter - 'A' + 'a' : letter);
        } else if (!word.empty() && word.back() != '-') {
            word += '-';
        }
        if (word.size() == longest) break;
    }
    while (!word.empty() && word.back() == '-') word.pop_back();
    return word.empty() ? std::string(plain) : word;
}

}  // namespace mellow::text
