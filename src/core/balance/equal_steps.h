// Equal steps: a chain is bent at its beginning so that equal travel of the hand gives equal steps of
// loudness.
//
// The curve that was measured is a law like a parameter's: what each position of the hand does to loudness.
// So the position that should have stood in its place is known for each, and is drawn in few points, as a
// first step of the chain's trunk. Where the hand did nothing at the ends of its travel, it does so no more.
// Steps are equal in LU, or in sones, which double with every 10 LU (ISO 532 for levels that are not low), so
// that what sounds twice as loud lies twice as far.
#pragma once

#include "core/balance/levelling.h"

namespace mellow::balance {

enum class LoudnessScale { lu, sones };

struct EqualWish {
    std::string chain;  ///< id; empty: the first that what is moved moves
    SweepPlan plan;
    LoudnessScale scale = LoudnessScale::lu;
    double within = 0.5;  ///< LU
};

/// The result has no branch and no parameter: what has come is the first step of its chain. Error: no chain
/// is moved; what is moved stands at no chain's head; its loudness changes by less than 1 LU.
Result<Levelled> equalSteps(const Ensemble& ensemble, const EqualWish& wish, const Measure& measure);

}  // namespace mellow::balance
