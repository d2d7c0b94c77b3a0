// What differs between two states of a document, in words.
#pragma once

#include <string>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::describe {

/// A sentence without an end for each thing that differs: "Glass harmonium: Swell is other". Empty: nothing.
std::vector<std::string> differences(const Ensemble& before, const Ensemble& after);
/// The same in one line of at most three of them, and how many more there are.
std::string differenceInShort(const Ensemble& before, const Ensemble& after);

}  // namespace mellow::describe
