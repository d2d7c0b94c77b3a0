// Not more pictures than anybody sees: what moves is painted at once, and then as one picture with all else
// that has moved, at most sixty times a second.
//
// A finger moves a few hundred times a second, and ten do so independently of one another and of what they
// lead to. Each widget that asks for itself is painted right away where nothing was for the length of a
// picture, and otherwise together with all others that ask until that is over.
#pragma once

#include <QPointer>
#include <QTimer>
#include <QWidget>
#include <map>
#include <utility>

namespace mellow::app {

class FramePace : public QObject {
    Q_OBJECT

 public:
    static constexpr int picture = 16;  ///< ms

    explicit FramePace(QObject* parent) : QObject(parent) {
        timer_.setTimerType(Qt::PreciseTimer);
        timer_.setInterval(picture);
        connect(&timer_, &QTimer::timeout, this, &FramePace::paint);
    }

    /// area: of the widget, what moves of it.
    void soon(QWidget* widget, const QRegion& area) {
        waiting_[widget] += area;
        if (timer_.isActive()) return;
        timer_.start();
        // With what asks in the same breath.
        QMetaObject::invokeMethod(this, &FramePace::paintWaiting, Qt::QueuedConnection);
    }
    /// It goes, and is not painted any more.
    void forget(QWidget* widget) { waiting_.erase(widget); }

 private:
    void paint() {
        if (waiting_.empty()) return timer_.stop();
        paintWaiting();
    }
    void paintWaiting() {
        for (const auto& [widget, area] : std::exchange(waiting_, {})) widget->update(area);
    }

    QTimer timer_;
    std::map<QWidget*, QRegion> waiting_;
};

}  // namespace mellow::app
