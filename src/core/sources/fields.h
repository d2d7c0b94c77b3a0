// What an encoder can be set to: as a source (encoder.cpp), and as what a control of a controller sends.
#pragma once

#include "core/model/field.h"

namespace mellow {

extern const std::span<const Field> encoderFields;

}  // namespace mellow
