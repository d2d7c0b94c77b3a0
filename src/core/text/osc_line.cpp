// An address holds no space, so the first space ends it; the number is as C++ writes it, whatever the locale.
#include "core/text/osc_line.h"

#include <array>
#include <charconv>
#include <cmath>

namespace mellow::text {

std::optional<OscLine> oscLineOf(std::span<const std::uint8_t> bytes) {
    if (bytes.empty() || bytes[0] != '/') return std::nullopt;
    const std::string_view line(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    const std::size_t space = line.find(' ');
    if (space == std::string_view::npos) return std::nullopt;
    OscLine found{line.substr(0, space), 0};
    const char* end = line.data() + line.size();
    const auto [last, error] = std::from_chars(line.data() + space + 1, end, found.number);
    const bool isNumber = error == std::errc() && last == end && std::isfinite(found.number);
    return isNumber ? std::optional(found) : std::nullopt;
}

std::string oscLine(std::string_view address, double number) {
    std::array<char, 64> digits{};
    const auto end = std::to_chars(digits.data(), digits.data() + digits.size(), number).ptr;
    std::string line(address);
    line += ' ';
    line.append(digits.data(), end);
    return line;
}

}  // namespace mellow::text
