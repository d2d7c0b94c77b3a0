// Pictures a second: while 2,000 events a second move every meter of the demo, and while a grip is dragged at
// the same time. Prints "name value" lines: pictures a second, the share of a core that all of it takes, and
// the longest time between two pictures of a drag, in milliseconds; of three tries each, the best, since
// other work on a machine can only make them worse. usage: bench-frames
#include <QElapsedTimer>
#include <QMouseEvent>
#include <QTimer>
#include <algorithm>
#include <cstdio>

#include "app/pages/chains/rail.h"
#include "beginning.h"
#include "pictures.h"
#include "stretch.h"

using namespace mellow;
using bench::Pictures;
using bench::processorTime;
using bench::settle;

namespace {

/// Two messages a millisecond, on every control that the demo listens to.
class Hands : public QTimer {
 public:
    explicit Hands(app::MainWindow& window) {
        setTimerType(Qt::PreciseTimer);
        connect(this, &QTimer::timeout, this, [this, &window] {
            // Timers are late under load; the events are not fewer for it.
            for (const qint64 due = since_.elapsed() * 2; sent_ < due; ++sent_) play(window);
        });
    }
    void begin() {
        since_.start();
        sent_ = 0;
        start(4);
    }

 private:
    void play(app::MainWindow& window) const {
        constexpr std::array controls{1, 2, 11, 64, 66, 67};
        const auto at = static_cast<std::size_t>(sent_);
        const int value = static_cast<int>(at / controls.size() % 128);
        const std::size_t which = at % (controls.size() + 2);
        if (which < controls.size()) {
            window.live().hands().send(midi::make(midi::controlChange, 0, controls.at(which), value));
        } else if (which == controls.size()) {
            window.live().hands().send(midi::makeBend(0, value * 128));
        } else {
            window.live().hands().send(midi::make(midi::channelPressure, 0, value));
        }
    }
    QElapsedTimer since_;
    qint64 sent_ = 0;
};

void mouse(QWidget* widget, QEvent::Type type, const QPointF& at) {
    QMouseEvent event(type, at, widget->mapToGlobal(at), Qt::LeftButton,
                      type == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton, Qt::NoModifier);
    QCoreApplication::sendEvent(widget, &event);
}

}  // namespace

int main(int argc, char** argv) {
    const bench::Beginning beginning(argc, argv);
    app::MainWindow window(bench::quiet());
    window.files().onAsk([](QWidget*) { return app::MainWindow::Answer::discard; });
    window.resize(1280, 800);
    window.openDemo();
    window.show();
    settle(1500);
    window.selection().set({"glass", "swell", app::Part::branch, 0, 0});
    Pictures pictures(&window);
    Hands hands(window);
    hands.begin();
    settle(2000);

    constexpr int tries = 3;
    constexpr int stretch = 4000;  // ms
    double rate = 0;
    double share = 1000;
    for (int i = 0; i < tries; ++i) {
        pictures.begin();
        const double before = processorTime();
        settle(stretch);
        rate = std::max(rate, pictures.count * 1000.0 / stretch);
        share = std::min(share, (processorTime() - before) * 100 / stretch);
    }
    std::printf("pictures-a-second %.0f\nshare %.1f\n", rate, share);

    app::Rail* target = nullptr;
    for (app::Rail* rail : window.findChildren<app::Rail*>()) {
        if (rail->isVisible() && rail->content().name == QLatin1String("Expression")) target = rail;
    }
    if (target == nullptr) return 1;
    double longest = 1000;
    for (int i = 0; i < tries; ++i) {
        QPointF at = target->gripPoint(app::Rail::Grip::high);
        mouse(target, QEvent::MouseButtonPress, at);
        pictures.begin();
        QElapsedTimer dragging;
        dragging.start();
        for (int move = 0; dragging.elapsed() < stretch; ++move) {
            at.ry() += move / 30 % 2 == 0 ? 2 : -2;
            mouse(target, QEvent::MouseMove, at);
            settle(10);
        }
        mouse(target, QEvent::MouseButtonRelease, at);
        longest = std::min(longest, pictures.longest);
    }
    std::printf("drag-longest-ms %.1f\n", longest);
    std::fflush(stdout);
    return 0;
}
