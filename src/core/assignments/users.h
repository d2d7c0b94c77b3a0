// Who uses a control: chains that would be moved by it, by any of their sources.
#pragma once

#include <functional>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow {

struct User {
    const Instrument* instrument = nullptr;  ///< nullptr: a shared chain
    const Chain* chain = nullptr;
};

/// True when two sources (resolved) are moved by the same control, however they read it, wherever it comes
/// from.
bool isSameControl(const Source& one, const Source& other);

/// The chains of which some source fits, shared ones first, otherwise in document order.
/// fits(owner, source): source is resolved; owner is nullptr of a shared chain.
std::vector<User> usersOf(const Ensemble& ensemble,
                          const std::function<bool(const Instrument* owner, const Source& source)>& fits);
/// The chains that a source (resolved) would move by any of their own.
std::vector<User> usersOf(const Ensemble& ensemble, const Source& source);

}  // namespace mellow
