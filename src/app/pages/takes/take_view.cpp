// The wheel and two fingers move the picture; what presses mean is in take_hands.cpp, what is painted in
// take_painter.cpp.
#include "app/pages/takes/take_view.h"

#include <QContextMenuEvent>
#include <QGestureEvent>
#include <QHelpEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QNativeGestureEvent>
#include <QPaintEvent>
#include <QPainter>
#include <QPinchGesture>
#include <QToolTip>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/takes/take_painter.h"

namespace mellow::app {

namespace {

constexpr double wheelZoom = 1.25;  // a notch
constexpr int notch = 120;

}  // namespace

TakeView::TakeView(Workspace& workspace, QWidget* parent)
    : QWidget(parent),
      workspace_(workspace),
      work_(workspace.takes),
      layout_(workspace.document),
      hands_(
          workspace, layout_, *this, [this] { update(); }, [this] { dirty(); }) {
    setObjectName(QStringLiteral("takeView"));
    setAccessibleName(tr("Take"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAttribute(Qt::WA_AcceptTouchEvents);
    grabGesture(Qt::PinchGesture);
    connect(&work_.choice, &TakeChoice::takeChanged, this, &TakeView::followTake);
    connect(&work_.choice, &TakeChoice::choiceChanged, this, &TakeView::dirty);
    connect(&work_.playing, &TakePlaying::moved, this, &TakeView::movePlayhead);
    connect(&workspace_.document, &Document::changed, this, &TakeView::follow);
    followTake();
}

/// Names and ranges may be others after an edit of the document.
void TakeView::follow() {
    // What nobody sees is not read.
    if (!isVisible()) return;
    const Ensemble& ensemble = workspace_.document.ensemble();
    layout_.rows.setHands(ensemble, work_.choice.take(), work_.choice.lanes());
    layOut();
}

void TakeView::followTake() {
    if (!isVisible()) return;
    const KeptTake* kept = work_.choice.kept();
    const std::string id = work_.choice.isLive() && !work_.playing.isPlaying() ? std::string("\n")
                           : kept == nullptr                                   ? std::string()
                                                                               : kept->id;
    const bool another = std::exchange(shownTake_, id) != id;
    layout_.times.set(*work_.choice.take(), unit_, frameRate_);
    hands_.letGo();
    if (another) layout_.rows.setResults(workspace_.document.ensemble(), std::make_shared<const Results>());
    follow();
    // A recording grows, and all of it is seen.
    if (another || id == "\n") fit();
}

void TakeView::showResults(std::shared_ptr<const Results> results) {
    layout_.rows.setResults(workspace_.document.ensemble(), std::move(results));
    layOut();
}

void TakeView::showThen(std::shared_ptr<const Results> then) {
    then_ = {std::move(then), {}};
    if (then_.results) {
        for (const ResultLane& lane : then_.results->lanes) then_.peaks.emplace_back(lane.values);
    }
    dirty();
}

void TakeView::layOut() {
    layout_.layOut(size());
    dirty();
    emit bandMoved();
}

void TakeView::moveBand(int y) {
    layout_.moveBand(y);
    layOut();
}

void TakeView::dirty() {
    stale_ = true;
    update();
}

void TakeView::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    followTake();
}

void TakeView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    const double end = layout_.axis.end();
    const int before = layout_.axis.width;
    layOut();
    if (before > 10) layout_.axis.show(layout_.axis.begin, end);
    emit axisChanged();
}

void TakeView::changeEvent(QEvent* event) {
    QWidget::changeEvent(event);
    if (event->type() == QEvent::StyleChange || event->type() == QEvent::FontChange ||
        event->type() == QEvent::PaletteChange)
        layOut();
}

void TakeView::setAxis(const TimeAxis& axis) {
    TimeAxis wanted = axis;
    wanted.left = layout_.axis.left;
    wanted.width = layout_.axis.width;
    wanted.keepWithin(work_.choice.take()->length);
    if (wanted == layout_.axis) return;
    layout_.axis = wanted;
    dirty();
    emit axisChanged();
}

void TakeView::zoom(double factor) {
    TimeAxis axis = layout_.axis;
    const double playhead = axis.x(work_.playing.position());
    const bool seen = playhead >= axis.left && playhead <= axis.left + axis.width;
    axis.zoom(factor, seen ? playhead : axis.left + axis.width / 2.0);
    setAxis(axis);
}

void TakeView::fit() {
    TimeAxis axis = layout_.axis;
    const auto length = static_cast<double>(std::max<std::int64_t>(work_.choice.take()->length, 1'000'000));
    axis.show(-length * 0.01, length * 1.02);
    setAxis(axis);
}

void TakeView::fitSelection() {
    const TimeSpan span = work_.choice.span();
    if (span.empty()) return fit();
    TimeAxis axis = layout_.axis;
    const auto spare = static_cast<double>(span.to - span.from) * 0.08;
    axis.show(static_cast<double>(span.from) - spare, static_cast<double>(span.to) + spare);
    setAxis(axis);
}

void TakeView::setOrder(LaneOrder order) {
    layout_.rows.setOrder(order);
    layOut();
}

void TakeView::foldAll(bool folded) {
    layout_.rows.foldAll(folded);
    layOut();
}

void TakeView::fold(const std::string& key, bool folded) {
    layout_.rows.fold(key, folded);
    layOut();
}

void TakeView::pin(const std::string& key, bool pinned) {
    layout_.rows.pin(key, pinned);
    layOut();
}

void TakeView::setUnit(TimeUnit unit, double frameRate) {
    unit_ = unit;
    frameRate_ = frameRate;
    layout_.times.set(*work_.choice.take(), unit, frameRate);
    update();
}

void TakeView::paintEvent(QPaintEvent* event) {
    if (stale_) paintPicture();
    QPainter painter(this);
    painter.setClipRegion(event->region());
    painter.drawPixmap(0, 0, picture_);
    shownPlayhead_ = work_.playing.position();
    TakePainter(painter, layout_, work_, hands_, then_).over();
}

void TakeView::paintPicture() {
    stale_ = false;
    const qreal ratio = devicePixelRatioF();
    const QSize wanted = (QSizeF(size()) * ratio).toSize();
    if (picture_.size() != wanted) picture_ = QPixmap(wanted);
    picture_.setDevicePixelRatio(ratio);
    picture_.fill(theme().ground);
    QPainter painter(&picture_);
    TakePainter(painter, layout_, work_, hands_, then_).lanes();
}

void TakeView::scrollBy(double pixels) {
    TimeAxis axis = layout_.axis;
    axis.begin += pixels * axis.microsPerPixel;
    setAxis(axis);
}

void TakeView::wheelEvent(QWheelEvent* event) {
    const QPoint fine = event->pixelDelta();
    const QPoint coarse = event->angleDelta();
    const double across = !fine.isNull() ? fine.x() : coarse.x() * 0.5;
    const double along = !fine.isNull() ? fine.y() : coarse.y() * 0.5;
    event->accept();
    if ((event->modifiers() & Qt::ControlModifier) != 0) {
        TimeAxis axis = layout_.axis;
        axis.zoom(std::pow(wheelZoom, -coarse.y() / static_cast<double>(notch)), event->position().x());
        return setAxis(axis);
    }
    if ((event->modifiers() & Qt::ShiftModifier) != 0) return scrollBy(-(along + across));
    const bool above = event->position().y() <= layout_.half(true).bottom();
    const bool overflows = layout_.rows.height(above) > layout_.half(above).height();
    if (std::abs(across) > std::abs(along)) return scrollBy(-across);
    // Where all lanes are seen there is nothing to scroll but time.
    if (overflows && event->position().y() > layout_.ruler().bottom()) {
        if (layout_.scroll(above, static_cast<int>(-along))) dirty();
    } else {
        scrollBy(-along);
    }
}

void TakeView::scrollRows(int pixels) {
    const bool above = layout_.scroll(true, pixels);
    if (layout_.scroll(false, pixels) || above) dirty();
}

void TakeView::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    setFocus(Qt::MouseFocusReason);
    hands_.press(*event);
}

void TakeView::mouseMoveEvent(QMouseEvent* event) {
    hands_.move(*event);
}

void TakeView::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton) hands_.release(*event);
}

void TakeView::leaveEvent(QEvent* event) {
    QWidget::leaveEvent(event);
    hands_.leave();
}

bool TakeView::event(QEvent* event) {
    if (event->type() == QEvent::NativeGesture) {
        auto* gesture = static_cast<QNativeGestureEvent*>(event);
        if (gesture->gestureType() != Qt::ZoomNativeGesture) return QWidget::event(event);
        TimeAxis axis = layout_.axis;
        axis.zoom(1 / (1 + gesture->value()), gesture->position().x());
        setAxis(axis);
        return true;
    }
    if (event->type() == QEvent::Gesture) {
        auto* gestures = static_cast<QGestureEvent*>(event);
        if (auto* pinch = static_cast<QPinchGesture*>(gestures->gesture(Qt::PinchGesture))) {
            TimeAxis axis = layout_.axis;
            if (pinch->scaleFactor() > 0)
                axis.zoom(1 / pinch->scaleFactor(), mapFromGlobal(pinch->centerPoint().toPoint()).x());
            axis.begin -= (pinch->centerPoint().x() - pinch->lastCenterPoint().x()) * axis.microsPerPixel;
            setAxis(axis);
            return true;
        }
    }
    if (event->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(event);
        const TakeRow* row = layout_.rowAt(help->pos());
        if (row != nullptr && help->pos().x() < layout_.axis.left) {
            QToolTip::showText(
                help->globalPos(),
                tr("%1, %2. Click to choose it, double-click to fold it.").arg(row->name, row->about), this);
        } else {
            QToolTip::hideText();
        }
        return true;
    }
    return QWidget::event(event);
}

void TakeView::keyPressEvent(QKeyEvent* event) {
    const bool fine = (event->modifiers() & Qt::ShiftModifier) != 0;
    const bool far = (event->modifiers() & Qt::ControlModifier) != 0;
    constexpr double usual = 20;  // pixels
    const double pixels = fine ? 1 : usual;
    const auto step = static_cast<std::int64_t>(pixels * layout_.axis.microsPerPixel);
    switch (event->key()) {
        case Qt::Key_Left:
            return far ? goToCue(-1) : work_.playing.locate(work_.playing.position() - step);
        case Qt::Key_Right:
            return far ? goToCue(1) : work_.playing.locate(work_.playing.position() + step);
        case Qt::Key_Up:
            return scrollRows(-scaled(40));
        case Qt::Key_Down:
            return scrollRows(scaled(40));
        case Qt::Key_Home:
            return work_.playing.locate(0);
        case Qt::Key_End:
            return work_.playing.locate(work_.choice.take()->length);
        case Qt::Key_Plus:
        case Qt::Key_Equal:
            return zoom(1 / wheelZoom);
        case Qt::Key_Minus:
            return zoom(wheelZoom);
        default:
            QWidget::keyPressEvent(event);
    }
}

void TakeView::goToCue(int by) {
    const auto all = layout_.cues();
    const std::int64_t now = work_.playing.position();
    std::int64_t to = by < 0 ? 0 : work_.choice.take()->length;
    if (by < 0) {
        for (const TakeMark& cue : all) {
            if (cue.time < now) to = cue.time;
        }
    } else {
        for (auto cue = all.rbegin(); cue != all.rend(); ++cue) {
            if (cue->time > now) to = cue->time;
        }
    }
    work_.playing.locate(to);
    const double x = layout_.axis.x(to);
    if (x < layout_.axis.left || x > layout_.axis.left + layout_.axis.width)
        scrollBy(x - layout_.axis.left - layout_.axis.width / 3.0);
}

void TakeView::selectAll() {
    std::set<Subject> all;
    for (const TakeLane& lane : layout_.rows.lanes().lanes) all.insert(lane.subject);
    work_.choice.chooseLanes(std::move(all));
    work_.choice.setSpan({0, work_.choice.take()->length + 1});
}

void TakeView::mouseDoubleClickEvent(QMouseEvent* event) {
    const QPoint at = event->position().toPoint();
    if (layout_.ruler().contains(at)) {
        const int cue = layout_.cueAt(at);
        hands_.letGo();
        emit cueDoubleClicked(cue);
        return;
    }
    const TakeRow* row = layout_.rowAt(at);
    if (row == nullptr) return;
    if (at.x() < layout_.axis.left) fold(row->key, !row->folded);
}

void TakeView::contextMenuEvent(QContextMenuEvent* event) {
    const TakeRow* row = layout_.rowAt(event->pos());
    QMenu menu(this);
    if (row != nullptr) {
        const std::string key = row->key;
        const bool folded = row->folded;
        const bool pinned = row->pinned;
        menu.addAction(folded ? tr("Unfold this lane") : tr("Fold this lane"), this,
                       [this, key, folded] { fold(key, !folded); });
        menu.addAction(pinned ? tr("Unpin this lane") : tr("Pin this lane to the front"), this,
                       [this, key, pinned] { pin(key, !pinned); });
        menu.addSeparator();
    }
    for (QAction* action : actions()) menu.addAction(action);
    if (!menu.isEmpty()) menu.exec(event->globalPos());
}

void TakeView::movePlayhead() {
    keepPlayheadSeen();
    const std::int64_t time = work_.playing.position();
    if (time == shownPlayhead_ && !work_.recording.isOn()) return;
    const int reach = scaled(10);
    for (const std::int64_t each : {shownPlayhead_, time}) {
        const auto x = static_cast<int>(layout_.axis.x(each));
        update(QRect(x - reach, 0, 2 * reach, height()));
    }
    update(QRect(0, 0, layout_.axis.left, height()));
}

/// A page on, when playing leaves what is seen.
void TakeView::keepPlayheadSeen() {
    if (!work_.playing.isPlaying() || hands_.drags()) return;
    const double x = layout_.axis.x(work_.playing.position());
    if (x >= layout_.axis.left && x <= layout_.axis.left + layout_.axis.width * 0.96) return;
    TimeAxis axis = layout_.axis;
    axis.begin = static_cast<double>(work_.playing.position()) - axis.width * 0.08 * axis.microsPerPixel;
    setAxis(axis);
}

double TakeView::spokenValue() const {
    return static_cast<double>(work_.playing.position()) / 1e6;
}

double TakeView::spokenHigh() const {
    return static_cast<double>(work_.choice.take()->length) / 1e6;
}

QString TakeView::spokenWords() const {
    return layout_.times.fine(work_.playing.position());
}

void TakeView::setSpokenValue(double seconds) {
    work_.playing.locate(std::llround(seconds * 1e6));
}

}  // namespace mellow::app
