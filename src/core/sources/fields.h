// What the kinds of source can be set to that have settings of their own, each list in the file of its kind.
#pragma once

#include "core/model/field.h"

namespace mellow {

extern const std::span<const Field> cycleFields;     ///< cycle.cpp
extern const std::span<const Field> envelopeFields;  ///< envelope.cpp
extern const std::span<const Field> walkFields;      ///< walk.cpp
extern const std::span<const Field> encoderFields;   ///< encoder.cpp
extern const std::span<const Field> oscFields;       ///< osc.cpp

}  // namespace mellow
