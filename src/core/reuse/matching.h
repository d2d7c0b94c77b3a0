// Which half maps to what.
//
// A chain that is given to another instrument, an instrument that takes another's place, a controller that is
// swapped: each time things that were referred to must be found again among others. They are looked for in
// the order in which a musician would: what has the same name and does the same, what has the same name, what
// is told by the same message. Nothing is taken twice while something is left. What this finds is a proposal,
// a row for each thing; a person corrects it, and the rest of this folder does what the rows say.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::reuse {

enum class By { nothing, message, name, both };

struct Match {
    std::string from;               ///< id of what is looked for
    std::optional<std::string> to;  ///< id of what takes its place; nothing: none does
    bool make = false;              ///< where none does: it is made; else what refers to it is left out
    By by = By::nothing;            ///< why it was proposed
    bool operator==(const Match&) const = default;
};

using Matches = std::vector<Match>;

/// A row for each thing that is looked for, in its order. Ids that are a parameter's target (of a shared
/// chain: INSTRUMENT/PARAMETER) are looked for by the parameter's name all the same.
Matches matchParameters(const std::vector<Parameter>& wanted, const std::vector<Parameter>& there);
Matches matchControls(const std::vector<ControllerControl>& wanted,
                      const std::vector<ControllerControl>& there);

const Match* find(const Matches& matches, std::string_view from);

/// True when every row has found something.
bool isComplete(const Matches& matches);

}  // namespace mellow::reuse
