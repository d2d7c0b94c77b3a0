// A message as one writes it into a cell: "CC 74", "14-bit CC 1", "Pitch bend", "NRPN 300", "Note 24 at 100",
// "Program, bank 0 3", "OSC /drone/cutoff", "Encoder 20 twos".
//
// Charts are written by many hands, so what is read is the first word that names a kind, in any of the names
// that kinds have in the trade, and then the numbers; a number alone is a control change.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "core/model/ensemble.h"

namespace mellow::profiles {

std::string messageText(const Message& message);

/// Nothing when it names no message. Numbers are read as they stand; what is outside a kind's range is read
/// too, for checks to name.
std::optional<Message> parseMessage(std::string_view typed);

}  // namespace mellow::profiles
