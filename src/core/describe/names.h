// Names that the program has made follow what they name; names that a person has typed stay.
//
// A chain that is made for the mod wheel is called so, and when breath takes the wheel's place the name would
// tell a lie. Nothing in a document says who made a name, and nothing has to: what is called exactly as the
// program would call it may be renamed by the program.
#pragma once

#include "core/model/ensemble.h"

namespace mellow::describe {

/// What the program calls a parameter that sends a message.
std::string madeName(const Message& message);
/// What the program calls a chain.
std::string madeName(const Ensemble& ensemble, const Chain& chain);

/// Renames the chains and parameters whose source or message is another than before and whose name was made
/// for that.
void followNames(const Ensemble& before, Ensemble& after);

}  // namespace mellow::describe
