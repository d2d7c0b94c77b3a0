// What differs between two ensembles, in sentences, each of which can be taken over alone.
//
// Things are known again by their ids, so a chain that was moved, renamed or edited is no removal and no
// addition; branches are known by what they lead to, and steps by their kinds. Everything that the document
// has is walked by its own description (model/described.h), so a key that is added tomorrow is compared
// tomorrow. To take a difference over makes one ensemble say there what the other says; taking all of them,
// in their order, makes it the other.
#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::compare {

enum class Kind { added, removed, changed, moved };

struct Difference {
    Kind kind = Kind::changed;
    std::string group;  ///< an instrument's name; "Ensemble", "Controllers", "Tie lines", "Shared chains"…
    std::string words;  ///< "Swell: Bend 0.35 → 0.5", without a full stop
    /// Makes an ensemble say here what the second one says. Nothing happens where it is no more.
    std::function<void(Ensemble&)> take;
};

/// From the first to the second; empty: they are equal. Grouped, in the order of the second's instruments.
std::vector<Difference> differences(const Ensemble& before, const Ensemble& after);

/// "Glass harmonium: Swell is new", at most three of them in one line, and how many more there are.
std::string inShort(const std::vector<Difference>& all);

std::string_view nameOf(Kind kind);

}  // namespace mellow::compare
