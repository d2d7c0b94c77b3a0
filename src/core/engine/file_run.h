// A Standard MIDI File played into the ensemble.
//
// The file's channel messages arrive at the instruments at the times that its tempo map gives, the engine's
// clock runs between them and on behind the last one until nothing moves (ten seconds at most), and what each
// instrument is sent becomes a track (signal rules, section 7, "Files"). What an event causes keeps the
// event's tick; what the clock causes goes to the tick nearest to it. Meta events and SysEx survive in the
// first track. Cycles in beats follow the file's tempo. What goes to OSC is left out.
#pragma once

#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/smf/file.h"

namespace mellow::engine {

struct FileRunOptions {
    std::vector<std::string> instruments;     ///< ids; empty: all
    std::string port = std::string(anyPort);  ///< the port on which the file arrives
};

/// One file for formats 0 and 1; for format 2 one a sequence, in order. Each is of format 1: the tempo track,
/// then one named track an instrument.
std::vector<smf::File> runFile(const Ensemble& ensemble, const smf::File& input,
                               const FileRunOptions& options);

}  // namespace mellow::engine
