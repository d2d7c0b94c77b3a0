// Changes to an ensemble, as plain functions on the value.
//
// Everything that the window can do to a document's structure is here, so that it can be tested without one.
// Each function leaves the ensemble valid: new ids are unique, and what refers to something that is removed
// is removed with it. Positions out of range change nothing.
#pragma once

#include <cstddef>
#include <string>

#include "core/model/ensemble.h"

namespace mellow {

/// An id made of a name ("Bass flute" gives "bass-flute"), with a number behind it where it is taken.
template<class List>
std::string newId(const List& list, std::string_view name);
std::string idFrom(std::string_view name);

/// An instrument with the parameters that nearly every one listens to, on the practice rack's first free
/// channel.
Instrument newInstrument(const Ensemble& ensemble);
/// A chain from the mod wheel (or the first control that no chain of the instrument uses) to the first
/// parameter.
Chain newChain(const Instrument& instrument);
/// A branch over the whole range of a parameter that the chain does not reach yet, if there is one.
Branch newBranch(const Instrument& instrument, const Chain& chain);
Parameter newParameter(const Instrument& instrument);
/// A branch over the whole range of a parameter.
Branch wholeBranch(const Parameter& parameter);

/// Copies, with new ids and "copy" in the name, put behind the original. Returns the copy's id.
std::string duplicateInstrument(Ensemble& ensemble, std::string_view id);
std::string duplicateChain(Instrument& instrument, std::string_view id);

/// Removes a parameter and every branch that leads to it.
void removeParameter(Instrument& instrument, std::string_view id);

/// Moves an element of a list from one place to another.
template<class List>
void moveWithin(List& list, std::size_t from, std::size_t to) {
    if (from >= list.size() || to >= list.size()) return;
    auto element = std::move(list[from]);
    list.erase(list.begin() + static_cast<std::ptrdiff_t>(from));
    list.insert(list.begin() + static_cast<std::ptrdiff_t>(to), std::move(element));
}

template<class List>
std::string newId(const List& list, std::string_view name) {
    const std::string base = idFrom(name);
    std::string id = base;
    for (int number = 2; findById(list, id) != nullptr; ++number) id = base + "-" + std::to_string(number);
    return id;
}

}  // namespace mellow
