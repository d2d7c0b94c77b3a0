#include "app/pages/balance/curve_strips.h"

#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/balance/curve_plot.h"
#include "core/steps/step.h"
#include "core/text/numbers.h"

namespace mellow::app {

namespace {

constexpr double corner = 6;

QRectF stripArea(const QWidget& widget) {
    // Over the same travel as the loudness above.
    const int left = scaled(46);
    return QRectF(left, 0, widget.width() - left - scaled(14), widget.height()).adjusted(0, 1, 0, -1);
}

void paintGround(QPainter& painter, const QRectF& area) {
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().panel);
    painter.drawRoundedRect(area, corner, corner);
}

void paintScale(QPainter& painter, const QRectF& area, const QString& top, const QString& bottom) {
    painter.setFont(captionFont());
    painter.setPen(theme().dim);
    const QRectF label(0, area.top(), area.left() - scaled(4), area.height());
    painter.drawText(label, Qt::AlignRight | Qt::AlignTop, top);
    painter.drawText(label, Qt::AlignRight | Qt::AlignBottom, bottom);
}

QString hertz(double value) {
    return toQt(text::withUnit(value, "Hz"));
}

void keepUpright(QWidget& widget, int height, Balancing& balancing) {
    widget.setMinimumHeight(scaled(height));
    widget.setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Preferred);
    QObject::connect(&balancing, &Balancing::changed, &widget, qOverload<>(&QWidget::update));
}

}  // namespace

BrightnessStrip::BrightnessStrip(Balancing& balancing, QWidget* parent)
    : QWidget(parent), balancing_(balancing) {
    setObjectName(QStringLiteral("brightness"));
    setAccessibleName(tr("Brightness over the travel"));
    setToolTip(tr("The centre of the spectrum: what the chain may change while loudness keeps to the line"));
    keepUpright(*this, 48, balancing);
}

void BrightnessStrip::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const QRectF area = stripArea(*this);
    paintGround(painter, area);
    if (!balancing_.curve()) return;
    double low = 1e9;
    double high = 0;
    const auto mean = balance::meanOf(*balancing_.curve());
    for (const balance::CurvePoint& each : mean) {
        if (each.heard.centroid <= 0 || !each.heard.loudness) continue;
        low = std::min(low, each.heard.centroid);
        high = std::max(high, each.heard.centroid);
    }
    if (high <= 0) return;
    // At least an octave, so that what hardly moves looks as if it did.
    constexpr double half = 1.4142135623730951;
    const double middle = std::sqrt(low * high);
    low = std::min(low, middle / half);
    high = std::max(high, middle * half);
    paintScale(painter, area, hertz(std::round(high)), hertz(std::round(low)));
    QPainterPath path;
    bool open = false;
    for (const balance::CurvePoint& each : mean) {
        if (each.heard.centroid <= 0 || !each.heard.loudness) continue;
        const double share = std::log(each.heard.centroid / low) / std::log(high / low);
        const double margin = scaled(6);
        const QPointF at(area.left() + each.position * area.width(),
                         area.bottom() - margin - share * (area.height() - 2 * margin));
        open ? path.lineTo(at) : path.moveTo(at);
        open = true;
    }
    painter.setPen(QPen(theme().mint, 2));
    painter.setBrush(Qt::NoBrush);
    painter.drawPath(path);
}

AfterStrip::AfterStrip(Balancing& balancing, QWidget* parent) : QWidget(parent), balancing_(balancing) {
    setObjectName(QStringLiteral("after"));
    setAccessibleName(tr("Loudness after levelling"));
    keepUpright(*this, 70, balancing);
}

void AfterStrip::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const QRectF area = stripArea(*this);
    paintGround(painter, area);
    const auto& proposal = balancing_.proposal();
    if (!proposal) {
        painter.setFont(captionFont());
        painter.setPen(theme().dim);
        painter.drawText(area, Qt::AlignCenter, tr("Nothing is worked out yet"));
        return;
    }
    const double margin = scaled(8);
    CurvePlot plot = emptyPlot(area.adjusted(0, margin, 0, -margin));
    const auto mean = balance::meanOf(proposal->after);
    plot.reach(mean);
    for (const auto& [position, level] : proposal->goal) plot.reach(level);
    if (plot.low > plot.high) return;
    paintScale(painter, area, toQt(text::plain(plot.high)), toQt(text::plain(plot.low)));
    QPolygonF goal;
    for (const auto& [position, level] : proposal->goal) goal << QPointF(plot.x(position), plot.y(level));
    painter.setPen(QPen(theme().sky, 1.5));
    painter.drawPolyline(goal);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().mint);
    const double radius = scaled(4) / 2.0;
    for (const balance::CurvePoint& each : mean) {
        if (each.heard.loudness) painter.drawEllipse(plot.at(each), radius, radius);
    }
}

PointsPicture::PointsPicture(Balancing& balancing, QWidget* parent) : QWidget(parent), balancing_(balancing) {
    setObjectName(QStringLiteral("drawnPoints"));
    setAccessibleName(tr("The points that are drawn"));
    keepUpright(*this, 110, balancing);
}

const Step* PointsPicture::drawnStep() const {
    const auto& proposal = balancing_.proposal();
    if (!proposal) return nullptr;
    const Instrument* instrument = findById(proposal->ensemble.instruments, balancing_.plan().instrument);
    const Chain* chain = instrument == nullptr ? nullptr : findById(instrument->chains, proposal->chain);
    if (chain == nullptr) return nullptr;
    const auto& steps =
        proposal->branch ? chain->branches[static_cast<std::size_t>(*proposal->branch)].steps : chain->steps;
    return steps.empty() ? nullptr : &steps.front();
}

void PointsPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const QRectF area = QRectF(rect()).adjusted(1, 1, -1, -1);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().ground);
    painter.drawRoundedRect(area, corner, corner);
    const Step* step = drawnStep();
    if (step == nullptr) {
        painter.setFont(captionFont());
        painter.setPen(theme().dim);
        painter.drawText(area.adjusted(scaled(12), 0, -scaled(12), 0), Qt::AlignCenter | Qt::TextWordWrap,
                         tr("The curve that makes up the difference is drawn here."));
        return;
    }
    const double margin = scaled(12);
    const QRectF inner = area.adjusted(margin, margin, -margin, -margin);
    QPolygonF line;
    for (const Point& each : pointsOf(*step, 0))
        line << QPointF(inner.left() + each.x * inner.width(), inner.bottom() - each.y * inner.height());
    painter.setPen(QPen(theme().mint, 2));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(line);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().sky);
    const double half = scaled(8) / 2.0;
    for (const QPointF& each : line)
        painter.drawRect(QRectF(each.x() - half, each.y() - half, 2 * half, 2 * half));
}

}  // namespace mellow::app
