// Where things stand in a picture of loudness over travel.
#pragma once

#include <QPainter>
#include <QRectF>
#include <QString>
#include <algorithm>
#include <cmath>
#include <optional>

#include "app/ground/words.h"
#include "core/balance/curve.h"
#include "core/text/numbers.h"

namespace mellow::app {

struct CurvePlot {
    QRectF area;
    double low = -48;   ///< LUFS at the bottom
    double high = -12;  ///< and at the top

    [[nodiscard]] double x(double position) const { return area.left() + position * area.width(); }
    [[nodiscard]] double y(double lufs) const {
        return area.bottom() - (std::clamp(lufs, low, high) - low) / (high - low) * area.height();
    }
    [[nodiscard]] double positionAt(double at) const {
        return std::clamp((at - area.left()) / area.width(), 0.0, 1.0);
    }
    [[nodiscard]] double lufsAt(double at) const {
        return low + (area.bottom() - at) / area.height() * (high - low);
    }

    /// Has all loudness of a curve between bottom and top, which are whole sixes of LU.
    void reach(const std::vector<balance::CurvePoint>& points) {
        for (const balance::CurvePoint& each : points) {
            if (each.heard.loudness) reach(*each.heard.loudness);
        }
    }
    void reach(double lufs) {
        constexpr double six = 6;
        low = std::min(low, std::floor((lufs - 1) / six) * six);
        high = std::max(high, std::ceil((lufs + 1) / six) * six);
    }
    [[nodiscard]] QPointF at(const balance::CurvePoint& point) const {
        return {x(point.position), y(*point.heard.loudness)};
    }
};

inline QString tenths(double value) {
    return toQt(text::tenths(value));
}

/// A span of nothing, to be reached out from.
inline CurvePlot emptyPlot(const QRectF& area) {
    CurvePlot plot;
    plot.area = area;
    plot.low = 1000;
    plot.high = -1000;
    return plot;
}

}  // namespace mellow::app
