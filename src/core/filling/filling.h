// Filling a page of the desk: a run of elements with the chains that they move, in one act.
//
// What an instrument listens to says what a hand wants under it: a slider a parameter, tiles for its
// articulations, a pad for its two chains that lead farthest, a level fader for each of a section. What is
// made is ordinary elements and ordinary chains, to be seen and changed like all others. Elements take free
// places only, row by row, and a page that is full grows by rows; what has an element already gets no second.
#pragma once

#include <cstddef>
#include <string>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::filling {

/// Each returns the ids of the elements that it made; none where there is nothing to make, or no such page.

/// A slider for each parameter of an instrument that has a value that stays.
std::vector<std::string> sliders(Ensemble& ensemble, std::size_t page, const std::string& instrument);
/// Tiles for the articulations of an instrument, or of those of a section, each name once.
std::vector<std::string> tiles(Ensemble& ensemble, std::size_t page, const std::string& entry);
/// A pad whose axes do what the two chains of an instrument do that lead to the most targets.
std::vector<std::string> pad(Ensemble& ensemble, std::size_t page, const std::string& instrument);
/// A level fader for each instrument of a section, or for one, named after it.
std::vector<std::string> faders(Ensemble& ensemble, std::size_t page, const std::string& entry);

/// What an instrument's level is set by; nullptr where nothing of it has a value that stays.
const Parameter* levelOf(const Instrument& instrument);

/// Faders that are named after their instruments follow new names, and the order of the instruments where
/// they stood in it before.
void followInstruments(const Ensemble& before, Ensemble& after);

}  // namespace mellow::filling
