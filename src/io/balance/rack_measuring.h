// Measuring on the practice rack: a sweep is played through the chains into synthesizers of its own, unheard
// and faster than it would sound.
//
// The sweep is cut into shares of a few notes, each rendered by a synthesizer that has been told everything
// that was said before but no notes, so that all cores work and the result does not depend on how many there
// are.
#pragma once

#include <functional>
#include <string>

#include "core/balance/curve.h"
#include "core/balance/sweep.h"
#include "core/model/ensemble.h"
#include "core/result.h"
#include "io/sound/practice_rack.h"

namespace mellow::io {

struct MeasureOptions {
    int sampleRate = 48000;  ///< frames a second
    std::string soundfont = RackOptions{}.soundfont;
    unsigned threads = 0;  ///< 0: as many as there are cores
};

/// Is told from any thread how much is done, 0 to 1; false: it is to end.
using MeasureProgress = std::function<bool(double)>;

/// What a measurement that was ended by its progress says.
Problem measuringStopped();

/// Error: as balance::sweepOf(); the instrument does not play on the practice rack; what speaks against the
/// rack; measuringStopped().
Result<balance::Curve> measureOnRack(const Ensemble& ensemble, const balance::SweepPlan& plan,
                                     const MeasureOptions& options = {},
                                     const MeasureProgress& progress = {});

/// Now, as measurements say it: ISO 8601 in universal time.
std::string measuredNow();

}  // namespace mellow::io
