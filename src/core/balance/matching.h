// Matching: other instruments are levelled so that each is as loud as one is, at the same gesture.
//
// Of each what was wished for one holds in its own way: it is moved by the same, at keys that it plays, its
// chain settles in its own time, and its own volume makes up the difference.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/balance/levelling.h"

namespace mellow::balance {

/// The parameter by which a level is set first: the volume, made where there is none.
std::string volumeOf(const Instrument& instrument);
/// What is wished for one instrument, for another; for the same it is what it was. instrument: an id that
/// the ensemble has.
LevelWish wishFor(const Ensemble& ensemble, LevelWish wish, const std::string& instrument);

/// The loudness of a curve as a goal. Error: too little of it can be heard to be followed.
Result<Goal> goalFrom(const Curve& curve);

struct Matched {
    std::vector<std::pair<Levelled, LevelWish>> levelled;
    std::vector<std::string> troubles;  ///< sentences: which could not be matched, and why
};
/// wish: for the instrument that leads; its goal is its loudness. others: ids. Error: the one that leads
/// cannot be measured, or heard.
Result<Matched> match(const Ensemble& ensemble, const LevelWish& wish, const std::vector<std::string>& others,
                      const Measure& measure);

}  // namespace mellow::balance
