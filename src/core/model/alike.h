// Chains that do the same, whatever they are called: to see that one was renamed or moved, or stands twice.
#pragma once

#include <cstddef>

#include "core/model/ensemble.h"

namespace mellow {

/// True when all of a chain but its id and name is the same.
bool isAlike(const Chain& one, const Chain& other);

/// The same number for chains that are alike, and seldom for others: by which they are found among many.
std::size_t digestOf(const Chain& chain);

}  // namespace mellow
