// The journal: every state of a document since it was saved, as text that only grows.
//
// After a crash the last state is read back. So a record is appended for each state, and says only what is
// other than in the one before: for each instrument its place there, or that it follows, and then a document
// that holds the instruments that are new and all that stands beside them. A record that was not written to
// its end is told by its length and checksum, and what came before it stands.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "core/model/ensemble.h"
#include "core/result.h"

namespace mellow::store {

/// What a journal begins with.
std::string journalHead();

/// A record of a state. before: the state of the record before, or nullptr for the first. time: milliseconds
/// since 1970.
std::string journalRecord(const Ensemble* before, const Ensemble& after, std::int64_t time);

struct Journaled {
    Ensemble ensemble;
    std::int64_t time = 0;  ///< of the last record that is whole, milliseconds since 1970
    bool isWhole = true;    ///< nothing behind that record
};

/// The last state that a journal holds whole. Error: it is no journal, or holds none.
Result<Journaled> readJournal(std::string_view text);

}  // namespace mellow::store
