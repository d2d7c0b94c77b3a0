// Controls as they are heard, and sources as they are written: which fits which.
#pragma once

#include <optional>

#include "core/midi/shapes.h"
#include "core/model/ensemble.h"
#include "core/model/source.h"

namespace mellow {

/// True when a source (resolved) listens to what a control sends, wherever it comes from.
bool isHeardAs(const Source& source, const midi::HeardControl& control);

/// The source that a control is by the shape of what it sends, from any port and channel. Of keys, the last
/// that was struck, as a button.
Source sourceOf(const midi::HeardControl& control);

/// What a finger of a zone does that is heard as a source; nothing where that is nothing a finger does.
std::optional<Finger> fingerTaken(const Source& source);

/// The message of one of some kinds that is heard as a source; of an encoder where none of them is one, a
/// control of its number.
Message messageOf(const Source& source, std::span<const MessageRow> kinds);

}  // namespace mellow
