// Controls as they are heard, and sources as they are written: which fits which.
#pragma once

#include "core/midi/shapes.h"
#include "core/model/source.h"

namespace mellow {

/// True when a source (resolved) listens to what a control sends, wherever it comes from.
bool isHeardAs(const Source& source, const midi::HeardControl& control);

/// The source that a control is by the shape of what it sends, from any port and channel. Of keys, the last
/// that was struck, as a button.
Source sourceOf(const midi::HeardControl& control);

}  // namespace mellow
