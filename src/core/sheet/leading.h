// What does this do? Where something that moves leads, and where what is heard comes from: through chains and
// their second sources and choosers, and through tie lines to whatever reads them.
//
// Only what runs is walked: what is switched off, what cannot run and what sleeps out of hand leads nowhere.
// Where a chain chooses who is in hand, that is told, and not what the hand then does.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/assignments/assignments.h"
#include "core/midi/message.h"

namespace mellow::sheet {

/// A row that is led to, and from where.
struct Reached {
    AssignmentId row;
    int from = -1;  ///< in the list: the row that writes the tie line that leads here; −1: what was moved
};

/// Something that was moved: a message at a port, an address of the desk, or an OSC address.
struct Cause {
    std::string port;
    std::vector<std::uint8_t> message;  ///< of a channel; empty: it came by an address
    std::string address;                ///< of the desk where the port is that of the desk
};

/// All rows that move when something does, those nearest first.
std::vector<Reached> leadsTo(const Ensemble& ensemble, const Cause& cause);
/// All rows that a row moves, itself first.
std::vector<Reached> leadsTo(const Ensemble& ensemble, const AssignmentId& row);
/// All rows that move a target (as shared chains name it: INSTRUMENT/PARAMETER, tieLine:ID, hand), those
/// that lead to it first. Reached::from is the row towards which it leads.
std::vector<Reached> comesFrom(const Ensemble& ensemble, std::string_view target);

/// The target of a row as shared chains name it; empty: none.
std::string wholeTarget(const Assignment& row);

/// Whether a source (resolved) of a chain's owner is moved by something.
bool isMovedBy(const Ensemble& ensemble, const Instrument* owner, const Source& source, const Cause& cause);

}  // namespace mellow::sheet
