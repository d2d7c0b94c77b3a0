// A take as a file: a Standard MIDI File, format 1, that any other program opens.
//
// The first track has the tempo and the marks; then comes a track for each port, named by it. There are
// 25,000 ticks a quarter note, which is 20 µs at 120 beats a minute; what is left of a microsecond behind a
// tick stands at the end of each track (remainders.h). A line of OSC is a text event.
//
// A file is written once. Its name says what it holds: a word from the take's name, and the beginning of the
// SHA-256 (FIPS 180-4) of its bytes, so that one folder serves any number of versions of a document.
#pragma once

#include <string>
#include <vector>

#include "core/model/kept_take.h"
#include "core/result.h"
#include "core/smf/read.h"
#include "core/takes/take.h"

namespace mellow {

inline constexpr int ticksPerQuarter = 25000;

/// Error: what a MIDI file cannot say.
Result<std::vector<std::uint8_t>> printTake(const Take& take);

struct TakeReading {
    Take take;
    std::vector<smf::Warning> warnings;
};
/// Reads the file that a document names. Error: bytes that are no Standard MIDI File.
Result<TakeReading> readTake(midi::Bytes bytes, const KeptTake& kept);
/// The port through which a track of a kept take plays, by its name and its place among those that play.
std::string portOfTrack(const KeptTake& kept, const std::string& name, std::size_t place);

/// The same for each track of its file; "any" of those that do not play.
std::vector<std::string> trackPorts(const KeptTake& kept, const smf::File& file);

/// In lower-case hexadecimal.
std::string sha256Of(midi::Bytes bytes);
/// What the file of a take should be called.
std::string takeFileName(const std::string& name, const std::string& sha256);

}  // namespace mellow
