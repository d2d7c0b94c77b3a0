// Drawn is the lane that moved most, and where there is none the notes.
#include "app/pages/takes/take_overview.h"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>

#include "app/ground/theme.h"

namespace mellow::app {

TakeOverview::TakeOverview(TakeWork& work, TakeView& view, QWidget* parent)
    : QWidget(parent), work_(work), view_(view) {
    setObjectName(QStringLiteral("takeOverview"));
    setToolTip(tr("The whole take; drag the window to look elsewhere"));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    connect(&view_, &TakeView::axisChanged, this, qOverload<>(&QWidget::update));
    connect(&work_.choice, &TakeChoice::takeChanged, this, qOverload<>(&QWidget::update));
    connect(&work_.choice, &TakeChoice::choiceChanged, this, qOverload<>(&QWidget::update));
    connect(&work_.playing, &TakePlaying::moved, this, qOverload<>(&QWidget::update));
}

QSize TakeOverview::sizeHint() const {
    return {400, scaled(38)};
}

TimeAxis TakeOverview::axis() const {
    TimeAxis axis;
    axis.left = scaled(14);
    axis.width = std::max(width() - 2 * axis.left, 10);
    axis.microsPerPixel =
        static_cast<double>(std::max<std::int64_t>(work_.choice.take()->length, 1'000'000)) / axis.width;
    return axis;
}

QRectF TakeOverview::windowRect() const {
    const TimeAxis all = axis();
    const double left =
        std::max(all.x(static_cast<std::int64_t>(view_.axis().begin)), static_cast<double>(all.left));
    const double right = std::min(all.x(static_cast<std::int64_t>(view_.axis().end())),
                                  static_cast<double>(all.left + all.width));
    return {left, 1, std::max(right - left, 4.0), height() - 2.0};
}

void TakeOverview::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const TimeAxis all = axis();
    const QRectF area(all.left, 4, all.width, height() - 8);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().panel);
    painter.drawRoundedRect(area.adjusted(0, -3, 0, 3), 5, 5);
    const TakeRows& rows = view_.rows();
    const auto& lanes = rows.lanes().lanes;
    const auto most = std::max_element(
        lanes.begin(), lanes.end(),
        [](const TakeLane& one, const TakeLane& other) { return one.events.size() < other.events.size(); });
    if (most != lanes.end()) {
        LaneLook look;
        look.colour = blend(theme().panel, theme().honey, 0.7);
        look.filled = false;
        look.most = most->highest;
        look.until = rows.take().length;
        const Peaks& peaks = rows.handPeaks(static_cast<std::size_t>(most - lanes.begin()));
        drawSteps(painter, area.adjusted(0, 3, 0, -3), all, HandSteps(rows.take(), *most, peaks), look);
    } else if (!rows.lanes().notes.empty()) {
        const std::size_t port = rows.lanes().notes.front().port;
        drawNotes(painter, area.adjusted(0, 3, 0, -3), all, rows.lanes(), port, rows.keysOf(port), {});
    }
    const TimeSpan& span = work_.choice.span();
    if (!span.empty()) {
        QColor fill = theme().sky;
        fill.setAlpha(50);
        painter.fillRect(
            QRectF(all.x(span.from), area.top(), all.x(span.to) - all.x(span.from), area.height()), fill);
    }
    QColor glass = theme().sky;
    glass.setAlpha(28);
    painter.setBrush(glass);
    painter.setPen(QPen(theme().sky, 1));
    painter.drawRoundedRect(windowRect().adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    painter.setPen(QPen(work_.recording.isOn() ? theme().clay : theme().ink, 1));
    const double x = all.x(work_.playing.position());
    painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
}

void TakeOverview::look(double x) {
    TimeAxis wanted = view_.axis();
    const TimeAxis all = axis();
    wanted.begin = (x - grip_ - all.left) * all.microsPerPixel;
    view_.setAxis(wanted);
}

void TakeOverview::mousePressEvent(QMouseEvent* event) {
    const QRectF window = windowRect();
    const double x = event->position().x();
    grip_ = window.contains(event->position()) ? x - window.left() : window.width() / 2;
    look(x);
}

void TakeOverview::mouseMoveEvent(QMouseEvent* event) {
    if ((event->buttons() & Qt::LeftButton) != 0) look(event->position().x());
}

void TakeOverview::wheelEvent(QWheelEvent* event) {
    view_.zoom(event->angleDelta().y() > 0 ? 0.8 : 1.25);
}

}  // namespace mellow::app
