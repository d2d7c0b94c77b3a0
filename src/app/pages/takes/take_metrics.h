// Lengths that the parts of the page share, in unscaled pixels.
#pragma once

namespace mellow::app::take_metrics {

inline constexpr int gutter = 168;  ///< names and values, left of the axis
inline constexpr int right = 12;
inline constexpr int ruler = 50;
inline constexpr int band = 36;

}  // namespace mellow::app::take_metrics
