// Reading a Standard MIDI File that may be damaged anywhere.
//
// The reader walks the bytes once and believes no length that it has not checked against what is there, so a
// file that lies about its sizes costs no more than its own. Where a track cannot be followed any further,
// the events before that place are kept, the place and the reason are noted, and reading goes on with the
// next chunk. Nothing is guessed: a damaged event is left out, not repaired. Chunks of unknown kinds are kept
// as they are; tracks beyond the number that the header gives are left out.
#pragma once

#include <string>
#include <vector>

#include "core/result.h"
#include "core/smf/file.h"

namespace mellow::smf {

struct Warning {
    std::uint64_t offset = 0;  ///< byte of the file at which it was noticed, from 0
    std::string what;
    bool lost = false;  ///< true where events that the file meant to hold are missing from the result
};

struct Reading {
    File file;
    std::vector<Warning> warnings;

    /// The first warning that tells of something lost, or nullptr.
    [[nodiscard]] const Warning* firstLoss() const;
};

/// Reads a whole file from memory. Formats 0, 1 and 2; every division.
/// Error: bytes that are no Standard MIDI File, with the byte at which that showed.
Result<Reading> read(midi::Bytes bytes);

}  // namespace mellow::smf
