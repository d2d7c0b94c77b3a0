// What the rails of a chain show: the source's, and one for each target. Made from values alone.
#pragma once

#include <optional>
#include <utility>

#include "app/live/live.h"
#include "app/pages/chains/rail.h"
#include "core/model/ensemble.h"
#include "core/model/law.h"

namespace mellow::app {

/// The trunk's window, which the grips of the source's rail move: the first step, when it is one that is on;
/// or nullptr.
const Step* firstWindow(const Chain& chain);

/// Whether what steps come to in the end is where their input leads, later.
bool trails(const std::vector<Step>& steps);

RailContent sourceContent(const Ensemble& ensemble, const Chain& chain, const ChainReading& reading);
/// instrument: whose the chain is; nullptr: a shared one. index: of a branch there is.
RailContent targetContent(const Ensemble& ensemble, const Instrument* instrument, const Chain& chain,
                          std::size_t index, const ChainReading& reading);

/// Where a branch's grips were, if they are elsewhere now.
std::optional<std::pair<double, double>> gripsBefore(const Range& range, const Branch& was,
                                                     const Branch& now);

}  // namespace mellow::app
