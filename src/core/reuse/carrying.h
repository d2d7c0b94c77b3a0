// What is carried over when something refers to another thing than before.
#pragma once

#include "core/model/ensemble.h"
#include "core/model/law.h"

namespace mellow::reuse {

/// A reach in one range becomes the reach at the same places of another, unless both are the same range.
void carryReach(Branch& branch, const Range& from, const Range& to);

/// Ends of reaches that a parameter's new range does not know, or that lie outside it, are carried over; the
/// others stay as they are written. before: the parameter with the range that it had.
void carryReaches(Ensemble& ensemble, const std::string& instrument, const Parameter& before,
                  const Parameter& now);

/// A source that names a control becomes what the control sends, from any port.
void beMessage(Source& source, const ControllerControl& control);

}  // namespace mellow::reuse
