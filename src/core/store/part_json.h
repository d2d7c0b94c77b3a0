// A part (model/part.h) as text: in the clipboard, and as a small open file of the library.
//
// It is written and read as the document's own structs are, by the same descriptions, so whatever an ensemble
// can hold can be handed on: to another ensemble, by mail, in a forum.
#pragma once

#include <string>
#include <string_view>

#include "core/model/part.h"
#include "core/result.h"

namespace mellow::store {

inline constexpr std::string_view partFormat = "mellow-lever/part";
inline constexpr int partVersion = 1;

/// text: a whole part, UTF-8. Errors as parseEnsemble's.
Result<Part> parsePart(std::string_view text);

/// Ends in a newline. parsePart(printPart(p)) equals p.
std::string printPart(const Part& part);

}  // namespace mellow::store
