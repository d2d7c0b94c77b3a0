// A Standard MIDI File played into the ensemble.
//
// The file's channel messages arrive at the instruments at the times that its tempo map gives, the engine's
// clock runs between them and on behind the last one until nothing moves (ten seconds at most), and what each
// instrument is sent becomes a track (signal rules, section 7, "Files"). What an event causes keeps the
// event's tick; what the clock causes goes to the tick nearest to it. A SysEx, whole or in packets, goes to
// the instruments that pass it, and to the first track where none does; meta events go to the first track.
// Cycles in beats follow the file's tempo and not the ensemble's. What goes to OSC is left out.
//
// A few bytes can ask for a century of a cycle that moves. So what a file may cost is bounded: the clock
// moves things for twelve hours of the file at most.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/smf/file.h"
#include "core/smf/write.h"

namespace mellow::engine {

struct FileRunOptions {
    std::vector<std::string> instruments;     ///< ids; empty: all
    std::string port = std::string(anyPort);  ///< the port on which the file arrives
    /// Of a take: the port of each of its tracks, and lines of OSC in texts are played; empty: it is none.
    std::vector<std::string> trackPorts = {};
};

/// One file for formats 0 and 1; for format 2 one a sequence, in order. Each is of format 1: the tempo track,
/// then one named track an instrument. Calls take(writer) for each, which may refuse to go on.
/// Error: take's; what cannot be written; a file that would cost too much.
Outcome runFile(const Ensemble& ensemble, const smf::File& input, const FileRunOptions& options,
                const std::function<Outcome(smf::Writer&)>& take);

/// True when no instrument, controller or clock of an ensemble names the port, so that what arrives there
/// reaches only those that listen to any.
bool isUnknownPort(const Ensemble& ensemble, const std::string& port);

}  // namespace mellow::engine
