#pragma once

#include "core/engine/program/plan.h"
#include "core/model/scale.h"

namespace mellow::engine {

/// Where an element of the desk stands when it is told `number`: 0 to 1, a latching button at one end or the
/// other.
inline double deskPlace(const DeskListener& listener, double number) {
    if (listener.isSwitch) return number >= 0.5 ? 1 : 0;
    return clampPosition(number);
}

}  // namespace mellow::engine
