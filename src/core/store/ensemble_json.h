// The ensemble document, version 1: JSON text to Ensemble and back.
//
// Reading is strict about shape and lenient about sense. A field of the wrong type, a missing required field
// or a word that the format does not know is refused with its JSON path, because guessing there would lose
// somebody's work. A document that is well formed but cannot work as written (a reference to nothing, a kind
// that this version does not run) is loaded whole; checks name what is wrong. Keys that this version does not
// know are kept as text beside the struct they belong to.
//
// Writing puts keys in a fixed order, one property a line, short lists on one line, and leaves out what
// equals its default, so that a change of one value is a change of one line.
#pragma once

#include <string>
#include <string_view>

#include "core/model/ensemble.h"
#include "core/result.h"

namespace mellow::store {

/// The newest document version that can be read, and the one that is written.
inline constexpr int documentVersion = 1;

/// text: a whole document, UTF-8. Problem::where is "line N" for broken JSON, else a path such as
/// "instruments[0].chains[2].source".
Result<Ensemble> parseEnsemble(std::string_view text);

/// The document's text, ending in a newline. parseEnsemble(printEnsemble(e)) equals e.
std::string printEnsemble(const Ensemble& ensemble);

}  // namespace mellow::store
