#include "app/pages/balance/loudness_view.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainterPath>
#include <numeric>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/midi/names.h"
#include "core/text/numbers.h"

namespace mellow::app {

namespace {

constexpr double oneLu = 1;

QString lufs(double value) {
    return tenths(value) + QStringLiteral(" LUFS");
}

/// What is at a position: "79", "C4".
QString placeName(const Balancing& balancing, double position) {
    const int value = static_cast<int>(std::lround(position * midi::max7));
    return balance::isKeys(balancing.plan().motion) ? toQt(midi::keyName(value)) : QString::number(value);
}

}  // namespace

LoudnessView::LoudnessView(Balancing& balancing, QWidget* parent) : QWidget(parent), balancing_(balancing) {
    setObjectName(QStringLiteral("loudness"));
    setAccessibleName(tr("The line that loudness should follow"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setToolTip(
        tr("Drag the line that loudness should follow; a double click makes a point, or takes it away"));
    connect(&balancing_, &Balancing::changed, this, [this] {
        still_.forget();
        update();
    });
}

QSize LoudnessView::sizeHint() const {
    return {scaled(660), scaled(360)};
}
QSize LoudnessView::minimumSizeHint() const {
    return {scaled(320), scaled(170)};
}

CurvePlot LoudnessView::plot() const {
    const int left = scaled(46);
    const int bottom = scaled(22);
    const int top = scaled(24);  // the unit stands there
    CurvePlot plot = emptyPlot(QRectF(left, top, width() - left - scaled(14), height() - bottom - top));
    if (const auto& curve = balancing_.curve()) {
        for (const balance::KeyCurve& line : curve->keys) plot.reach(line.points);
    }
    if (const auto& earlier = balancing_.earlier()) plot.reach(balance::meanOf(*earlier));
    for (const auto& [position, level] : balancing_.wish().goal.points) plot.reach(level);
    if (balancing_.wish().goal.level) plot.reach(*balancing_.wish().goal.level);
    if (plot.low > plot.high) {
        plot.low = -48;
        plot.high = -12;
    }
    return plot;
}

QPoint LoudnessView::placeOf(double position, double level) const {
    const CurvePlot here = plot();
    return QPointF(here.x(position), here.y(level)).toPoint();
}

/// A goal that nobody has drawn lies through the curve: level at its mean, from end to end.
std::vector<std::pair<double, double>> LoudnessView::goalShown() const {
    if (!dragged_.empty()) return dragged_;
    const balance::Goal& goal = balancing_.wish().goal;
    if (goal.kind == balance::Goal::Kind::line) return goal.points;
    if (balancing_.proposal() && !balancing_.proposal()->goal.empty()) {
        const auto& made = balancing_.proposal()->goal;
        return {made.front(), made.back()};
    }
    if (goal.level) return {{0, *goal.level}, {1, *goal.level}};
    if (!balancing_.curve()) return {};
    const auto mean = balance::meanOf(*balancing_.curve());
    double sum = 0;
    int count = 0;
    for (const balance::CurvePoint& each : mean) {
        if (!each.heard.loudness) continue;
        sum += *each.heard.loudness;
        ++count;
    }
    if (count == 0) return {};
    const double level = std::round(sum / count * 2) / 2;
    return {{mean.front().position, level}, {mean.back().position, level}};
}

void LoudnessView::showHand() {
    const auto hand = balancing_.hand();
    if (hand == hand_) return;
    hand_ = hand;
    update();
}

void LoudnessView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    still_.draw(
        painter, *this, [this](QPainter& still) { paintStill(still); }, theme().ground);
    painter.setRenderHint(QPainter::Antialiasing);
    const CurvePlot here = plot();
    paintHand(painter, here);
    paintReading(painter, here);
}

void LoudnessView::paintStill(QPainter& painter) const {
    painter.fillRect(rect(), theme().ground);
    const CurvePlot here = plot();
    paintAxes(painter, here);
    if (!balancing_.curve()) return;
    paintParting(painter, here);
    paintKeys(painter, here);
    paintQuiet(painter, here);
    paintGoal(painter, here);
}

void LoudnessView::paintAxes(QPainter& painter, const CurvePlot& plot) const {
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().panel);
    constexpr double corner = 6;
    painter.drawRoundedRect(plot.area, corner, corner);
    painter.setFont(numberFont());
    constexpr double six = 6;
    // Every six LU where they have room, else every twelve.
    const double room = plot.area.height() / ((plot.high - plot.low) / six);
    const double step = room < scaled(22) ? 2 * six : six;
    for (double level = std::ceil(plot.low / step) * step; level <= plot.high + 0.1; level += step) {
        const double y = plot.y(level);
        painter.setPen(QPen(theme().line, 1, Qt::DotLine));
        painter.drawLine(QPointF(plot.area.left(), y), QPointF(plot.area.right(), y));
        painter.setPen(theme().dim);
        const QRectF label(0, y - scaled(8), plot.area.left() - scaled(6), scaled(16));
        painter.drawText(label, Qt::AlignRight | Qt::AlignVCenter, toQt(text::plain(level)));
    }
    painter.setFont(captionFont());
    painter.drawText(QRectF(0, 0, plot.area.left() - scaled(6), scaled(14)), Qt::AlignRight | Qt::AlignTop,
                     QStringLiteral("LUFS"));
    painter.setFont(numberFont());
    const bool overKeys = balance::isKeys(balancing_.plan().motion);
    constexpr int parts = 4;
    for (int i = 0; i <= parts; ++i) {
        const double position = static_cast<double>(i) / parts;
        const double x = plot.x(position);
        painter.setPen(QPen(theme().line, 1, Qt::DotLine));
        if (i > 0 && i < parts) painter.drawLine(QPointF(x, plot.area.top()), QPointF(x, plot.area.bottom()));
        painter.setPen(theme().dim);
        constexpr int top = 127;
        const QString label =
            overKeys ? placeName(balancing_, position) : QString::number(std::min(top, i * 32));
        const QRectF below(x - scaled(30), plot.area.bottom() + scaled(2), scaled(60), scaled(18));
        painter.drawText(below, Qt::AlignHCenter | Qt::AlignTop, label);
    }
}

/// How far what was measured parts from the goal, shaded.
void LoudnessView::paintParting(QPainter& painter, const CurvePlot& plot) const {
    balance::Goal goal;
    goal.points = goalShown();
    if (goal.points.empty()) return;
    QPolygonF above;
    std::vector<QPointF> below;
    for (const balance::CurvePoint& each : balance::meanOf(*balancing_.curve())) {
        if (!each.heard.loudness) continue;
        above << plot.at(each);
        below.emplace_back(plot.x(each.position),
                           plot.y(goal.at(each.position).value_or(*each.heard.loudness)));
    }
    for (auto point = below.rbegin(); point != below.rend(); ++point) above << *point;
    painter.setPen(Qt::NoPen);
    constexpr double share = 0.22;
    painter.setBrush(blend(theme().panel, theme().clay, share));
    painter.drawPolygon(above, Qt::WindingFill);
}

/// A line of points for each key, and their mean as what the goal is held to.
void LoudnessView::paintKeys(QPainter& painter, const CurvePlot& plot) const {
    const balance::Curve& curve = *balancing_.curve();
    const auto trace = [&](const std::vector<balance::CurvePoint>& points) {
        QPainterPath path;
        bool open = false;
        for (const balance::CurvePoint& each : points) {
            if (!each.heard.loudness) {
                open = false;
                continue;
            }
            open ? path.lineTo(plot.at(each)) : path.moveTo(plot.at(each));
            open = true;
        }
        return path;
    };
    painter.setBrush(Qt::NoBrush);
    if (const auto& earlier = balancing_.earlier()) {
        painter.setPen(QPen(theme().dim, 1, Qt::DashLine));
        painter.drawPath(trace(balance::meanOf(*earlier)));
    }
    if (curve.keys.size() > 1) {
        constexpr double share = 0.55;
        painter.setPen(QPen(blend(theme().panel, theme().mint, share), 1));
        for (const balance::KeyCurve& line : curve.keys) painter.drawPath(trace(line.points));
        painter.setFont(captionFont());
        std::vector<QRectF> named;
        for (const balance::KeyCurve& line : curve.keys) {
            const auto last = std::find_if(line.points.rbegin(), line.points.rend(),
                                           [](const auto& each) { return each.heard.loudness.has_value(); });
            if (last == line.points.rend()) continue;
            painter.setPen(theme().dim);
            const QPointF end = plot.at(*last);
            const QRectF label(plot.area.right() - scaled(34), end.y() - scaled(16), scaled(30), scaled(14));
            const bool covered = std::any_of(named.begin(), named.end(),
                                             [&](const QRectF& each) { return each.intersects(label); });
            if (covered) continue;
            named.push_back(label);
            painter.drawText(label, Qt::AlignRight | Qt::AlignVCenter, toQt(midi::keyName(line.key)));
        }
    }
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().mint);
    const double radius = scaled(5) / 2.0;
    for (const balance::CurvePoint& each : balance::meanOf(curve)) {
        if (each.heard.loudness) painter.drawEllipse(plot.at(each), radius, radius);
    }
}

/// What is too quiet to be measured is hatched at the bottom, and no number.
void LoudnessView::paintQuiet(QPainter& painter, const CurvePlot& plot) const {
    const auto mean = balance::meanOf(*balancing_.curve());
    painter.setPen(Qt::NoPen);
    QColor quiet = theme().dim;
    constexpr int faint = 110;
    quiet.setAlpha(faint);
    painter.setBrush(QBrush(quiet, Qt::BDiagPattern));
    double from = -1;
    const double high = scaled(12);
    const auto end = [&](double to) {
        if (from < 0) return;
        painter.drawRect(QRectF(plot.x(from), plot.area.bottom() - high, plot.x(to) - plot.x(from), high));
        from = -1;
    };
    for (const balance::CurvePoint& each : mean) {
        if (each.heard.loudness)
            end(each.position);
        else if (from < 0)
            from = each.position;
    }
    if (!mean.empty()) end(mean.back().position);
}

void LoudnessView::paintGoal(QPainter& painter, const CurvePlot& plot) const {
    const Line line = goalShown();
    if (line.empty()) return;
    QPolygonF drawn;
    for (const auto& [position, level] : line) drawn << QPointF(plot.x(position), plot.y(level));
    painter.setPen(QPen(theme().sky, 2));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(drawn);
    // A line that follows another instrument has as many points as were measured.
    constexpr int mostHandles = 16;
    if (drawn.size() > mostHandles) return;
    for (int i = 0; i < drawn.size(); ++i) {
        const bool has = hasFocus() && i == point_;
        painter.setBrush(has ? theme().sky : theme().panel);
        const double radius = scaled(10) / 2.0;
        painter.drawEllipse(drawn[i], radius, radius);
    }
}

void LoudnessView::paintHand(QPainter& painter, const CurvePlot& plot) const {
    if (!hand_) return;
    const double x = plot.x(*hand_);
    painter.setPen(QPen(theme().honey, 1, Qt::DashLine));
    painter.drawLine(QPointF(x, plot.area.top()), QPointF(x, plot.area.bottom()));
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().honey);
    const double radius = scaled(10) / 2.0;
    painter.drawEllipse(QPointF(x, plot.area.bottom()), radius, radius);
}

/// What is read where the pointer is, or else where the hand stands.
void LoudnessView::paintReading(QPainter& painter, const CurvePlot& plot) const {
    const auto where = pointed_ ? pointed_ : hand_;
    if (!where || !balancing_.curve()) return;
    const auto mean = balance::meanOf(*balancing_.curve());
    const auto level = balance::loudnessAt(mean, *where);
    balance::Goal goal;
    goal.points = goalShown();
    QString first = placeName(balancing_, *where) + QStringLiteral(" → ");
    QString second;
    if (!level) {
        first += tr("too quiet");
    } else {
        first += lufs(*level);
        if (const auto wanted = goal.at(*where)) {
            const double off = std::round((*level - *wanted) * 10) / 10;
            const QString much = toQt(text::withUnit(std::abs(off), "LU"));
            second = off == 0  ? tr("on the line")
                     : off > 0 ? tr("%1 above the line").arg(much)
                               : tr("%1 below the line").arg(much);
        }
    }
    const double x = plot.x(*where);
    const double y = level ? plot.y(*level) : plot.area.bottom();
    painter.setFont(numberFont());
    const double wide = std::max(QFontMetricsF(numberFont()).horizontalAdvance(first),
                                 QFontMetricsF(captionFont()).horizontalAdvance(second)) +
                        scaled(20);
    const double high = second.isEmpty() ? scaled(26) : scaled(42);
    QRectF box(x + scaled(12), y + scaled(10), wide, high);
    if (box.right() > plot.area.right()) box.moveRight(x - scaled(12));
    if (box.bottom() > plot.area.bottom()) box.moveBottom(y - scaled(10));
    if (box.top() < plot.area.top()) box.moveTop(plot.area.top());
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().raised);
    constexpr double corner = 6;
    painter.drawRoundedRect(box, corner, corner);
    const QRectF inner = box.adjusted(scaled(10), scaled(4), -scaled(6), -scaled(4));
    painter.setPen(theme().ink);
    painter.drawText(inner, Qt::AlignLeft | Qt::AlignTop, first);
    painter.setFont(captionFont());
    painter.setPen(theme().dim);
    painter.drawText(inner, Qt::AlignLeft | Qt::AlignBottom, second);
    if (!level) return;
    // Sent, and so pointed.
    QPolygonF tab;
    const double size = scaled(6);
    tab << QPointF(x - size, y) << QPointF(x + size / 2, y - size) << QPointF(x + size / 2, y + size);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().mint);
    painter.drawPolygon(tab);
}

int LoudnessView::pointAt(const QPointF& at) const {
    const CurvePlot here = plot();
    const Line line = goalShown();
    int nearest = -1;
    double best = scaled(12);
    for (std::size_t i = 0; i < line.size(); ++i) {
        const double apart = QLineF(at, {here.x(line[i].first), here.y(line[i].second)}).length();
        if (apart > best) continue;
        best = apart;
        nearest = static_cast<int>(i);
    }
    return nearest;
}

void LoudnessView::setLine(Line line) {
    balance::Goal goal;
    goal.kind = balance::Goal::Kind::line;
    goal.points = std::move(line);
    balancing_.setGoal(goal);
}

void LoudnessView::movePoint(double position, double level) {
    Line line = goalShown();
    if (line.empty() || point_ < 0 || point_ >= static_cast<int>(line.size())) return;
    const auto at = static_cast<std::size_t>(point_);
    constexpr double apart = 0.005;
    constexpr double softest = -80;
    constexpr double loudest = 0;
    auto& [x, y] = line[at];
    // Ends stay at the ends.
    if (at > 0 && at + 1 < line.size())
        x = std::clamp(position, line[at - 1].first + apart, line[at + 1].first - apart);
    y = std::clamp(std::round(level * 10) / 10, softest, loudest);
    dragged_ = line;
    still_.forget();
    update();
}

void LoudnessView::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    const int found = pointAt(event->position());
    if (found < 0) return;
    point_ = found;
    dragged_ = goalShown();
    still_.forget();
    update();
}

void LoudnessView::mouseMoveEvent(QMouseEvent* event) {
    const CurvePlot here = plot();
    if (!dragged_.empty() && (event->buttons() & Qt::LeftButton) != 0) {
        movePoint(here.positionAt(event->position().x()), here.lufsAt(event->position().y()));
        return;
    }
    setCursor(pointAt(event->position()) >= 0 ? Qt::SizeVerCursor : Qt::ArrowCursor);
    pointed_ = here.area.contains(event->position()) ? std::optional(here.positionAt(event->position().x()))
                                                     : std::nullopt;
    update();
}

void LoudnessView::mouseReleaseEvent(QMouseEvent*) {
    if (dragged_.empty()) return;
    Line line = std::move(dragged_);
    dragged_.clear();
    setLine(std::move(line));
}

void LoudnessView::mouseDoubleClickEvent(QMouseEvent* event) {
    dragged_.clear();
    const CurvePlot here = plot();
    Line line = goalShown();
    const int found = pointAt(event->position());
    if (found > 0 && found + 1 < static_cast<int>(line.size())) {
        line.erase(line.begin() + found);
        point_ = 0;
    } else if (found < 0 && here.area.contains(event->position()) && line.size() >= 2) {
        const double position = here.positionAt(event->position().x());
        const auto behind =
            std::find_if(line.begin(), line.end(), [&](const auto& each) { return each.first > position; });
        point_ = static_cast<int>(behind - line.begin());
        line.insert(behind, {position, std::round(here.lufsAt(event->position().y()) * 10) / 10});
    }
    setLine(std::move(line));
}

void LoudnessView::leaveEvent(QEvent*) {
    pointed_.reset();
    update();
}

void LoudnessView::keyPressEvent(QKeyEvent* event) {
    const Line line = goalShown();
    if (line.empty()) return QWidget::keyPressEvent(event);
    const auto count = static_cast<int>(line.size());
    point_ = std::clamp(point_, 0, count - 1);
    const double step = (event->modifiers() & Qt::ShiftModifier) != 0 ? oneLu / 10 : oneLu;
    const auto& [x, y] = line[static_cast<std::size_t>(point_)];
    switch (event->key()) {
        case Qt::Key_Up:
        case Qt::Key_Down:
            movePoint(x, y + (event->key() == Qt::Key_Up ? step : -step));
            return mouseReleaseEvent(nullptr);
        case Qt::Key_Left:
        case Qt::Key_Right:
            point_ = std::clamp(point_ + (event->key() == Qt::Key_Right ? 1 : -1), 0, count - 1);
            break;
        case Qt::Key_Delete:
        case Qt::Key_Backspace:
            if (point_ > 0 && point_ + 1 < count) {
                Line fewer = line;
                fewer.erase(fewer.begin() + point_);
                setLine(std::move(fewer));
            }
            break;
        default:
            return QWidget::keyPressEvent(event);
    }
    still_.forget();
    update();
}

double LoudnessView::spokenValue() const {
    const Line line = goalShown();
    return line.empty()
               ? 0
               : line[static_cast<std::size_t>(std::clamp<int>(point_, 0, static_cast<int>(line.size()) - 1))]
                     .second;
}

QString LoudnessView::spokenWords() const {
    const Line line = goalShown();
    if (line.empty()) return tr("nothing is measured");
    const auto& [x, y] =
        line[static_cast<std::size_t>(std::clamp<int>(point_, 0, static_cast<int>(line.size()) - 1))];
    return tr("%1 at %2").arg(lufs(y), placeName(balancing_, x));
}

void LoudnessView::setSpokenValue(double level) {
    const Line line = goalShown();
    if (line.empty()) return;
    movePoint(line[static_cast<std::size_t>(point_)].first, level);
    mouseReleaseEvent(nullptr);
}

}  // namespace mellow::app
