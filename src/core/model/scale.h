// Position and raw value (signal rules, section 1).
//
// Inside a chain a value is a position in [0, 1]; on the wire it is a whole number from 0 to 127 or 16383.
// Two scales lead from one to the other. The edge scale divides the travel evenly. The centred scale gives
// the middle raw value, 64 or 8192, the position ½ exactly, and divides each half evenly, so that a control
// that springs back to its centre rests at exactly half, at any resolution. Both are exact round trips.
#pragma once

#include <cmath>

namespace mellow {

enum class Scale { edge, centred };

/// A position, whatever came out of the arithmetic before: below 0 and not-a-number become 0, above 1
/// becomes 1.
constexpr double clampPosition(double p) {
    return p >= 0.0 ? (p <= 1.0 ? p : 1.0) : 0.0;
}

/// raw: 0..max, fractions allowed; max: 127 or 16383. Returns a position.
constexpr double decode(Scale scale, double raw, int max) {
    if (scale == Scale::edge) return raw / max;
    const int middle = (max + 1) / 2;
    const double mid = middle;
    return raw <= mid ? raw / (2.0 * mid) : 0.5 + 0.5 * (raw - mid) / (max - mid);
}

/// p: a position. Returns the raw value 0..max nearest to it.
inline int encode(Scale scale, double p, int max) {
    // What is not below 0 is rounded down by dropping its fraction, which is quicker than asking for floor.
    if (scale == Scale::edge) {
        const double above = p * max + 0.5;
        return static_cast<int>(above);
    }
    const int mid = (max + 1) / 2;
    if (p <= 0.5) return static_cast<int>(std::floor(2.0 * mid * p + 0.5));
    return mid + static_cast<int>(std::floor(2.0 * (p - 0.5) * (max - mid) + 0.5));
}

/// The inverse of decode() without rounding, for display.
constexpr double encodeExactly(Scale scale, double p, int max) {
    if (scale == Scale::edge) return p * max;
    const int middle = (max + 1) / 2;
    const double mid = middle;
    return p <= 0.5 ? 2.0 * mid * p : mid + 2.0 * (p - 0.5) * (max - mid);
}

}  // namespace mellow
