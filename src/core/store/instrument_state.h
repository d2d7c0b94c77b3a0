// Whether what was measured still holds: of all that makes an instrument as loud as it is, on the way from
// the hand, there is a sum, which a measurement keeps. After an edit the sum is another one; after its undo
// it is the same again.
//
// In it are the chains and parameters of the instrument, its articulations, what it passes, the tie lines of
// the ensemble, and shared chains that lead to it. Names, notes, ports and channels may change, and it
// is as loud as before. What another instrument does to a tie line is not in it, nor what plays behind a
// port.
#pragma once

#include <string>

#include "core/model/ensemble.h"

namespace mellow::store {

/// Sixteen digits in hexadecimal; empty: there is no instrument of that id.
std::string stateOf(const Ensemble& ensemble, const std::string& instrument);

/// Whether its instrument was edited since. False where nobody kept how it was.
bool isOutdated(const Ensemble& ensemble, const KeptCurve& kept);
/// The day on which it was measured, for people: "2026-11-30, edited since".
std::string dayMeasured(const KeptCurve& kept, bool isOutdated);

}  // namespace mellow::store
