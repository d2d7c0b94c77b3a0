#include "app/pages/balance/wave_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

#include "app/ground/theme.h"

namespace mellow::app {

namespace {

constexpr double second = 1e6;  // µs

}  // namespace

WaveView::WaveView(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("wave"));
    setAccessibleName(tr("The sound, and what of it is measured"));
    setToolTip(tr("Drag it sideways where the stretches do not lie on the notes"));
    setMinimumHeight(scaled(110));
}

QSize WaveView::sizeHint() const {
    return {scaled(640), scaled(140)};
}

void WaveView::show(std::vector<float> outline, double seconds, const balance::KnownSweep& known) {
    outline_ = std::move(outline);
    segments_ = known.segments;
    click_ = known.click;
    length_ = std::max(0.001, seconds);
    update();
}

void WaveView::setBegins(double seconds) {
    begins_ = seconds;
    update();
}

void WaveView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().ground);
    constexpr double corner = 6;
    painter.drawRoundedRect(rect(), corner, corner);
    if (outline_.empty()) {
        painter.setPen(theme().dim);
        painter.setFont(captionFont());
        painter.drawText(rect(), Qt::AlignCenter, tr("No sound is read yet"));
        return;
    }
    const auto x = [&](double seconds) { return seconds / length_ * width(); };
    const auto timeOf = [&](std::int64_t time) { return begins_ + static_cast<double>(time) / second; };
    constexpr double faint = 0.25;
    painter.setBrush(blend(theme().ground, theme().sky, faint));
    for (const balance::Segment& each : segments_) {
        const double from = x(timeOf(each.from));
        painter.drawRect(QRectF(from, 0, std::max(1.0, x(timeOf(each.to)) - from), height()));
    }
    const float loudest = std::max(1e-6F, *std::max_element(outline_.begin(), outline_.end()));
    const double middle = height() / 2.0;
    painter.setPen(QPen(theme().mint, 1));
    for (int column = 0; column < width(); ++column) {
        const auto first =
            static_cast<std::size_t>(column) * outline_.size() / static_cast<std::size_t>(width());
        const auto last = std::max(first + 1, static_cast<std::size_t>(column + 1) * outline_.size() /
                                                  static_cast<std::size_t>(width()));
        float peak = 0;
        for (std::size_t i = first; i < std::min(last, outline_.size()); ++i)
            peak = std::max(peak, outline_[i]);
        const double half = static_cast<double>(peak / loudest) * (middle - scaled(4));
        painter.drawLine(QPointF(column + 0.5, middle - half), QPointF(column + 0.5, middle + half));
    }
    if (!click_) return;
    painter.setPen(QPen(theme().honey, 1, Qt::DashLine));
    const double at = x(timeOf(*click_));
    painter.drawLine(QPointF(at, 0), QPointF(at, height()));
    painter.setFont(captionFont());
    painter.drawText(QPointF(at + scaled(4), scaled(13)), tr("click"));
}

void WaveView::mousePressEvent(QMouseEvent* event) {
    dragFrom_ = event->position().x() / width() * length_ - begins_;
}

void WaveView::mouseMoveEvent(QMouseEvent* event) {
    if ((event->buttons() & Qt::LeftButton) == 0 || outline_.empty()) return;
    constexpr double thousand = 1000;
    begins_ = std::round((event->position().x() / width() * length_ - dragFrom_) * thousand) / thousand;
    isDragged_ = true;
    update();
    emit beginsMoved(begins_);
}

void WaveView::mouseReleaseEvent(QMouseEvent*) {
    if (std::exchange(isDragged_, false)) emit beginsPlaced();
}

}  // namespace mellow::app
