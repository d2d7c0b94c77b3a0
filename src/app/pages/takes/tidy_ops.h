// What can be done to a selection, as a table: each stroke with the numbers that it asks for.
//
// The strip that asks, the menu and the preview are read off it, so that a new stroke is one row.
#pragma once

#include <QString>
#include <span>
#include <vector>

#include "core/takes/tidy.h"

namespace mellow::app {

struct TidyNumber {
    QString label;
    QString unit;  ///< as NumberField's
    double low = 0;
    double high = 1;
    double start = 0;
    double step = 1;
    bool whole = false;
};

struct TidyOp {
    const char* id;  ///< in object names and settings
    QString (*title)();
    QString (*tip)();
    std::vector<TidyNumber> (*numbers)();
    /// What becomes of one lane.
    std::vector<LaneEdit> (*edits)(const Take& take, const LaneStretch& stretch,
                                   std::span<const double> values);
};

std::span<const TidyOp> tidyOps();

}  // namespace mellow::app
