// What of a step can be taken hold of in the response picture, and the bands that it divides the travel into.
//
// Handles and bands are in the coordinates of the step: what comes into it across, what it makes of that
// upward. Which a kind has is a row of a table in the .cpp; a kind without a row has none.
#pragma once

#include <QString>
#include <vector>

#include "core/steps/step.h"

namespace mellow::app {

struct Handle {
    enum class Moves { freely, across, upward } moves = Moves::freely;
    Point at;
};

/// A part of the travel that a step treats as one.
struct Band {
    double from = 0;
    double to = 1;
    QString name;
    bool dead = false;  ///< nothing moves in it
};

std::vector<Handle> handlesOf(const Step& step);
std::vector<Band> bandsOf(const Step& step);
/// The step with a handle moved to a place.
Step withHandleAt(const Step& step, std::size_t handle, Point to);
/// What moving it does, in a sentence; empty: the kind has no handles.
QString handleHelp(const Step& step);

}  // namespace mellow::app
