// Changes to who comes into hand: sections, and the order in which they and instruments are chosen.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow {

/// The entries that a person chooses from: the hand's order, or where there is none yet every section, then
/// every instrument.
std::vector<std::string> handEntries(const Ensemble& ensemble);
/// Takes the instruments of an entry into hand, and all others out of it.
void putInHand(Ensemble& ensemble, std::string_view entry);

/// An empty section with an id that no instrument and no other section has.
Section newSection(const Ensemble& ensemble, std::string_view name);
void removeSection(Ensemble& ensemble, std::string_view id);
/// Gives the section at a place a new id.
void renewSection(Ensemble& ensemble, std::size_t place);
/// Puts an instrument into a section, or takes it out.
void setInSection(Ensemble& ensemble, std::string_view section, const std::string& instrument, bool isIn);

/// Takes an instrument or section out of everything that names it for the hand. Chains that chose it choose
/// its neighbour; those that have nobody left to choose lose the branch.
void forgetForHand(Ensemble& ensemble, std::string_view id);
/// Everything that named one for the hand names another.
void renameForHand(Ensemble& ensemble, const std::string& old, const std::string& id);
/// Moves an entry of the hand's order.
void moveInHandOrder(Ensemble& ensemble, std::size_t from, std::size_t to);

}  // namespace mellow
