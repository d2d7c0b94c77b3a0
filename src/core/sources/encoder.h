// Relative encoders: endless knobs that send steps (signal rules, section 5).
#pragma once

#include "core/model/source.h"

namespace mellow {

/// How far a message of an encoder moves its inner position; value: 0..127, the message's second data byte.
double encoderMove(const Source& source, int value);

}  // namespace mellow
