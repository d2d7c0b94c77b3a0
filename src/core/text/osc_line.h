// A number that came to an OSC address, as a line: "/ADDRESS NUMBER". The desk's moves are such lines too.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace mellow::text {

struct OscLine {
    std::string_view address;
    double number = 0;
};

/// Nothing where bytes are no such line. Allocates nothing.
std::optional<OscLine> oscLineOf(std::span<const std::uint8_t> bytes);
std::string oscLine(std::string_view address, double number);

}  // namespace mellow::text
