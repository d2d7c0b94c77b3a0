// The one time axis of the page: from microseconds of the take to pixels, and back.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace mellow::app {

struct TimeAxis {
    double begin = 0;             ///< microseconds at the left edge; may be below 0
    double microsPerPixel = 1e4;  ///< how much a pixel is
    int left = 0;                 ///< pixels
    int width = 1;

    static constexpr double finest = 20;  ///< µs a pixel
    static constexpr double coarsest = 4e7;

    [[nodiscard]] double x(std::int64_t time) const {
        return left + (static_cast<double>(time) - begin) / microsPerPixel;
    }
    [[nodiscard]] std::int64_t time(double x) const {
        return static_cast<std::int64_t>(std::llround(begin + (x - left) * microsPerPixel));
    }
    [[nodiscard]] double end() const { return begin + width * microsPerPixel; }
    [[nodiscard]] std::int64_t span() const { return static_cast<std::int64_t>(width * microsPerPixel); }

    /// Makes a pixel so much more, keeping the time at a place where it is.
    void zoom(double factor, double at) {
        const double fixed = begin + (at - left) * microsPerPixel;
        microsPerPixel = std::clamp(microsPerPixel * factor, finest, coarsest);
        begin = fixed - (at - left) * microsPerPixel;
    }
    /// Shows from one time to another.
    void show(double from, double to) {
        microsPerPixel = std::clamp((to - from) / std::max(width, 1), finest, coarsest);
        begin = from;
    }
    /// Scrolls no further than a little beyond both ends.
    void keepWithin(std::int64_t length) {
        const double spare = width * microsPerPixel * 0.1;
        const double last = std::max(static_cast<double>(length) + spare - width * microsPerPixel, -0.0);
        begin = std::clamp(begin, -spare * 0.2, std::max(last, -spare * 0.2));
    }
    bool operator==(const TimeAxis&) const = default;
};

}  // namespace mellow::app
