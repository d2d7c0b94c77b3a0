// A bounce: what a take sounds like on the practice rack, as a sound file, faster than playing.
//
// The take is played through the chains into a synthesizer of its own, which renders up to the frame of each
// message, so nothing that plays live is disturbed and the same take gives the same file. Only instruments
// that play on the practice rack can be heard there; what the others are sent goes nowhere.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/result.h"
#include "core/takes/take.h"
#include "io/bounce/sound_file.h"
#include "io/sound/practice_rack.h"

namespace mellow::io {

struct BounceOptions {
    std::vector<std::string> instruments;  ///< ids; empty: all on the practice rack
    int sampleRate = 48000;                ///< frames a second
    std::int64_t from = 0;                 ///< microseconds of the take
    std::int64_t to = -1;                  ///< −1: to its end
    std::string soundfont = RackOptions{}.soundfont;
};

/// Is told how much is done, 0 to 1; false: it is to end.
using Progress = std::function<bool(double)>;

/// Writes a file, WAV or FLAC by its ending, of two channels of 24 bits. True when it is there; false when
/// progress ended it, and nothing was written. Error: no instrument can be heard; an ending that is neither;
/// what speaks against the rack or the file.
Result<bool> bounce(const Ensemble& ensemble, const Take& take, const std::filesystem::path& output,
                    const BounceOptions& options, const Progress& progress);

/// One file for each instrument that can be heard, named after it: "OUT-glass.wav" beside OUT.wav. All or
/// none. Gives their paths, or none where progress ended it. Error: as bounce().
Result<std::vector<std::filesystem::path>> bounceApart(const Ensemble& ensemble, const Take& take,
                                                       const std::filesystem::path& output,
                                                       const BounceOptions& options,
                                                       const Progress& progress);

}  // namespace mellow::io
