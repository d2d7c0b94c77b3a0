// A part of a Standard MIDI File, from one time to another, as a file of its own.
//
// What stands when the part begins is said at its start: the tempo and the metre, and on each track the last
// value of every control, program, bend and pressure. Notes that began earlier are left out with their offs;
// notes that still sound when the part ends are ended there. Names stay.
#pragma once

#include "core/smf/file.h"

namespace mellow::smf {

/// from, to: microseconds; to is not part of it. Of a format-2 file, each sequence by its own time.
File cut(const File& file, std::int64_t from, std::int64_t to);

}  // namespace mellow::smf
