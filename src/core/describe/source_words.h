// A source in words that a person can type: "cc 1", "velocity", "tie line swell", "control wheels left".
//
// They say what moves, and not where it comes in, so that what was measured of an instrument along a wheel is
// known again when the wheel is another's.
#pragma once

#include <string>

#include "core/model/source.h"

namespace mellow::describe {

/// balance::parseMotion() reads them. What moves by itself, and a key, are named by their kind.
std::string sourceWords(const Source& source);
/// The same of a parameter that is moved alone.
std::string parameterWords(const std::string& id);

}  // namespace mellow::describe
