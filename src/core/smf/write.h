// Writing a Standard MIDI File, format 1. Every event carries its status byte (no running status), so that a
// damaged byte spoils one event and not the rest of the track.
#pragma once

#include <cstdint>
#include <vector>

#include "core/smf/file.h"

namespace mellow::smf {

/// The file's bytes, as format 1 whatever `file.format` says. A gap of more than 0x0FFFFFFF ticks, which one
/// event cannot express, is bridged by empty text events.
std::vector<std::uint8_t> write(const File& file);

}  // namespace mellow::smf
