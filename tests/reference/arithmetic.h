// Positions, raw values and display units, read off the signal rules, sections 1 and 4, and from nowhere
// else: the program's own arithmetic is what this is held against.
#pragma once

#include <optional>

#include "core/model/ensemble.h"

namespace mellow::reference {

double clamped(double p);

/// A scale of raw values, 0 to max.
struct Raws {
    bool centred = false;
    int max = 127;
};
double decode(const Raws& raws, int value);
int encode(const Raws& raws, double p);

Raws rawsOf(const Source& source);
Raws rawsOf(const Parameter& parameter);

/// The raw position q of a display value, not clamped; nothing where the range does not know it.
std::optional<double> rawPosition(const Parameter& parameter, const Level& level);
/// The display value of q, as OSC sends it.
double displayValue(const Parameter& parameter, double q);
/// The raw position of `rest`.
/// A raw value before it is rounded.
double unrounded(const Parameter& parameter, double q);
double restPosition(const Parameter& parameter);
/// The q of the label nearest to q, where the law is `choices`; else q.
double toLabel(const Parameter& parameter, double q);
/// Whether the display range makes sense.
bool isSound(const Parameter& parameter);

}  // namespace mellow::reference
