// Who else uses a control.
#pragma once

#include <vector>

#include "core/model/ensemble.h"

namespace mellow::learning {

struct User {
    const Instrument* instrument = nullptr;  ///< nullptr: a shared chain
    const Chain* chain = nullptr;
};

/// True when two sources (resolved) are moved by the same control, however they read it, wherever it comes
/// from.
bool isSameControl(const Source& one, const Source& other);

/// The chains that a source (resolved) would move by any of their own, in document order.
std::vector<User> usersOf(const Ensemble& ensemble, const Source& source);

}  // namespace mellow::learning
