// A number that somebody types as a small sum: "1/1.5", "127 - 10", "2*440 Hz".
#pragma once

#include <optional>
#include <string_view>

namespace mellow::text {

/// As text::parse (core/text/numbers.h), and sums of plain numbers with + − * / and brackets before the unit.
/// Nothing when it is neither, or has no finite value.
std::optional<double> calculated(std::string_view typed, std::string_view unit);

}  // namespace mellow::text
