// What elements of the desk lead to: every branch of every chain that an element moves, with what is needed
// to say where it stands now.
#pragma once

#include <QString>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "app/live/live.h"
#include "core/model/desk.h"
#include "core/model/law.h"

namespace mellow::app {

struct ElementTarget {
    Axis axis = Axis::x;
    std::string owner;  ///< an instrument's id, or sharedOwner
    std::string chain;
    std::size_t branch = 0;
    QString name;  ///< of the parameter, the tie line or the hand
    QString instrument;
    Range range;
};

/// By element, in document order.
using ElementTargets = std::map<std::string, std::vector<ElementTarget>, std::less<>>;
ElementTargets elementTargets(const Ensemble& ensemble);

/// Where an axis of an element has brought its targets.
struct Readout {
    QString value;  ///< in the target's units; empty: the axis leads nowhere
    QString name;   ///< whose it is
};
/// The first target whose instrument is in hand, or else the first.
Readout readoutOf(const std::vector<ElementTarget>& targets, Axis axis, const Live& live);

}  // namespace mellow::app
