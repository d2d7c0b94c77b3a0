// Layers: instruments side by side on one keyboard, by key and by velocity, and how one fades into the next.
//
// An instrument's input takes keys from one to another and velocities from one to another, which is a
// rectangle over a keyboard. Here such rectangles are moved and spread, and neighbours that overlap are faded
// into each other. A crossfade is nothing but chains: on each of the two one from the key number (or the
// velocity) through a window over the overlap, turned round on the lower one, bent so that both together stay
// as loud, to something that is multiplied: the velocity of the notes, or the level. The chains can be seen
// and changed like all others; as long as their window lies over the overlap they follow it.
#pragma once

#include <cstddef>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::layering {

/// What an instrument takes of a keyboard.
struct Area {
    int lowKey = 0;
    int highKey = 127;
    int lowVelocity = 1;
    int highVelocity = 127;
    bool operator==(const Area&) const = default;
};
Area areaOf(const Instrument& instrument);
/// Corners that are the wrong way round or off the keyboard are put right.
Area within(Area area);

/// The part of an area that a hand takes hold of: its inside, or edges of it.
struct Grip {
    bool left = false;
    bool right = false;
    bool bottom = false;
    bool top = false;
    [[nodiscard]] bool isInside() const { return !left && !right && !bottom && !top; }
    bool operator==(const Grip&) const = default;
};
/// An area that is dragged by a part of it: edges never pass each other, and what is moved as a whole stays
/// on the keyboard.
Area dragged(Area area, Grip grip, int keys, int velocities);

enum class Along { keys, velocities };
/// Where two areas lie over each other as neighbours: the lower one ends inside the upper, and they meet in
/// the other direction. Both ends included.
struct Overlap {
    int low = 0;
    int high = 0;
    bool operator==(const Overlap&) const = default;
};
std::optional<Overlap> overlapOf(const Area& lower, const Area& upper, Along along);

/// What fades.
enum class Fading { velocity, level };

/// A fade of one instrument towards a neighbour.
struct Fade {
    std::string instrument;
    std::string other;
    std::string chain;
    Along along = Along::keys;
    bool isLower = false;  ///< it is the lower of the two, and fades out upwards
    Overlap over;          ///< over which its window lies; of two that are apart its low is above its high
    [[nodiscard]] bool isOpen() const { return over.low <= over.high; }
};
/// All fades between neighbours: their windows lie over where the two overlap, or, where they are apart, are
/// shut at the upper one's beginning.
std::vector<Fade> fadesOf(const Ensemble& ensemble);

/// Edits areas; the fades that lay over overlaps lie over them again behind it.
template<class Edit>
void editAreas(Ensemble& ensemble, Edit&& edit);
/// Gives an instrument an area, as above.
void place(Ensemble& ensemble, const std::string& instrument, const Area& area);
/// The same where fades are known from before, as when a drag began: they follow even if on its way the areas
/// have been no neighbours.
void place(Ensemble& ensemble, const std::string& instrument, const Area& area,
           const std::vector<Fade>& fades);
/// Lays instruments side by side over what they take together, in their order: each its share of the keys, or
/// of the velocities.
void spread(Ensemble& ensemble, std::span<const std::string> instruments, Along along);

/// The nearest neighbour above an instrument among some, or nothing: one that it overlaps with or touches.
std::optional<std::string> neighbourOf(const Ensemble& ensemble, const std::string& instrument,
                                       std::span<const std::string> among, Along along);
/// Fades two into each other, whichever is the lower. Where they only touch, they are first made to overlap
/// by an octave, or a fifth of the velocities. A fade that is there already is made anew. False where they
/// are no neighbours, or have no level to fade.
bool crossfade(Ensemble& ensemble, const std::string& one, const std::string& other, Along along,
               Fading fading);
/// Takes the fades between two away.
void removeCrossfade(Ensemble& ensemble, const std::string& one, const std::string& other, Along along);

// How it is done.

/// Puts the windows of fades over where their two overlap now; of those that are no neighbours they stay.
void follow(Ensemble& ensemble, const std::vector<Fade>& fades);

template<class Edit>
void editAreas(Ensemble& ensemble, Edit&& edit) {
    const std::vector<Fade> fades = fadesOf(ensemble);
    edit(ensemble);
    follow(ensemble, fades);
}

}  // namespace mellow::layering
