// What selects an articulation, as a chart has it: "Key 24 held", "CC 32 = 5", "Program 3 of bank 1/2",
// "Channel 2"; several with "+" between them. A key may be a name ("C1", "F#2"; C4 is key 60) or a number,
// and a number alone is a key switch.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/articulation.h"

namespace mellow::profiles {

/// A key by name or number, 0..127.
std::optional<int> parseKey(std::string_view typed);

std::string selectText(const std::vector<Select>& select);
/// Nothing where some part names no message.
std::optional<std::vector<Select>> parseSelect(std::string_view typed);

/// Moves the key switches of articulations, or of those at some places, by semitones. False, and nothing
/// moves, where one would leave the keyboard.
bool transposeSwitches(std::vector<Articulation>& list, const std::vector<std::size_t>& rows, int semitones);

}  // namespace mellow::profiles
