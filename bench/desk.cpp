// The desk under the fingers. A finger's way from the touch event to the message on JACK, on a real server
// with the dummy driver that this program starts: the latest of two hundred, in microseconds, while the page
// paints what moves. And ten fingers on ten sliders, a thousand moves a second in all: pictures a second and
// the share of a core that all of it takes; of three tries each, the best. Prints "name value" lines. usage:
// bench-desk
#include <QTimer>
#include <QtTest/QtTest>
#include <algorithm>
#include <cmath>
#include <cstdio>

#include "app/pages/desk/desk_page.h"
#include "app/pages/desk/surfaces.h"
#include "beginning.h"
#include "core/model/edit_desk.h"
#include "stretch.h"
#include "support/jack.h"
#include "support/touch.h"

using namespace mellow;
using bench::processorTime;
using bench::settle;

namespace {

constexpr int fingers = 10;
constexpr int movesASecond = 1000;

/// Ten sliders, each leading to a control of its own.
Ensemble tenSliders() {
    Instrument one;
    one.id = "one";
    one.output.port = "north rack";
    one.output.channel = 1;
    Ensemble ensemble;
    ensemble.title = "Bench";
    DeskPage page;
    page.id = "page";
    for (int i = 0; i < fingers; ++i) {
        Parameter parameter;
        parameter.id = "p" + std::to_string(i);
        parameter.message.kind = MessageKind::cc;
        parameter.message.number = 70 + i;
        one.parameters.push_back(parameter);
        DeskElement slider;
        slider.id = "s" + std::to_string(i);
        slider.kind = ElementKind::slider;
        slider.place = {i, 0, 1, 6};
        page.elements.push_back(slider);
        Chain chain;
        chain.id = "c" + std::to_string(i);
        chain.source = makeSource(SourceKind::desk);
        chain.source.values[0] = slider.id;
        Branch branch;
        branch.target = parameter.id;
        chain.branches.push_back(branch);
        one.chains.push_back(chain);
    }
    ensemble.desk.pages.push_back(page);
    ensemble.instruments.push_back(one);
    return ensemble;
}

/// Notes when the first message of a control comes, on the clock of JACK.
class Ear {
 public:
    explicit Ear(const std::string& server) {
        client_ = jack_client_open("ear", static_cast<jack_options_t>(JackNoStartServer | JackServerName),
                                   nullptr, server.c_str());
        if (client_ == nullptr) qFatal("no client for the ear");
        in_ = jack_port_register(client_, "in", JACK_DEFAULT_MIDI_TYPE, JackPortIsInput, 0);
        jack_set_process_callback(
            client_,
            [](jack_nframes_t frames, void* self) {
                auto& own = *static_cast<Ear*>(self);
                void* in = jack_port_get_buffer(own.in_, frames);
                if (jack_midi_get_event_count(in) == 0) return 0;
                jack_midi_event_t event;
                jack_midi_event_get(&event, in, 0);
                own.came_ = jack_frames_to_time(own.client_, jack_last_frame_time(own.client_) + event.time);
                return 0;
            },
            this);
        jack_activate(client_);
    }
    ~Ear() { jack_client_close(client_); }
    void listenTo(const std::string& port) { jack_connect(client_, port.c_str(), "ear:in"); }
    bool hears(const std::string& port) {
        return jack_port_connected_to(jack_port_by_name(client_, "ear:in"), port.c_str()) != 0;
    }
    /// µs; 0: nothing has come since the last call.
    jack_time_t came() { return came_.exchange(0); }

 private:
    jack_client_t* client_;
    jack_port_t* in_;
    std::atomic<jack_time_t> came_{0};
};

class Counter : public QObject {
 public:
    explicit Counter(QWidget* window) : window_(window) { qApp->installEventFilter(this); }
    int count = 0;

 protected:
    bool eventFilter(QObject* watched, QEvent* event) override {
        if (watched == window_ && event->type() == QEvent::UpdateRequest) ++count;
        return false;
    }

 private:
    QWidget* window_;
};

QPoint on(const app::SliderSurface& slider, double share) {
    const QRectF track = slider.track();
    return QPointF(track.center().x(), track.bottom() - share * track.height()).toPoint();
}

}  // namespace

int main(int argc, char** argv) {
    test::JackServer server("mellow-lever-bench-desk");
    qputenv("JACK_DEFAULT_SERVER", QByteArray::fromStdString(server.name()));
    const bench::Beginning beginning(argc, argv);
    app::MainWindow window(bench::quiet(true));
    window.files().onAsk([](QWidget*) { return app::MainWindow::Answer::discard; });
    window.resize(1280, 800);
    window.document().replace(tenSliders(), {});
    window.show();
    window.selection().go(app::DeskPlace{"page"});
    settle(1500);
    auto& board = window.findChild<app::DeskPageView*>()->board();
    std::vector<app::SliderSurface*> sliders;
    for (int i = 0; i < fingers; ++i)
        sliders.push_back(dynamic_cast<app::SliderSurface*>(board.surface("s" + std::to_string(i))));

    Ear ear(server.name());
    const std::string out = "Mellow Lever:north rack";
    while (!ear.hears(out)) {
        ear.listenTo(out);
        settle(50);
    }
    QTest::touchEvent(sliders[0], test::touchScreen()).press(0, on(*sliders[0], 0));
    settle(500);
    (void)ear.came();
    jack_time_t latest = 0;
    for (int i = 1; i <= 200; ++i) {
        const jack_time_t began = jack_get_time();
        QTest::touchEvent(sliders[0], test::touchScreen()).move(0, on(*sliders[0], i % 100 / 100.0));
        jack_time_t came = 0;
        for (int waited = 0; came == 0 && waited < 200; ++waited) {
            settle(1);
            came = ear.came();
        }
        if (came == 0) continue;  // two places on the way come to one value
        latest = std::max(latest, came > began ? came - began : 0);
        settle(3 + i % 7);
    }
    QTest::touchEvent(sliders[0], test::touchScreen()).release(0, on(*sliders[0], 0));
    std::printf("finger-us %llu\nperiod-us %d\n", static_cast<unsigned long long>(latest),
                test::period * 1'000'000 / 48'000);

    auto pressed = QTest::touchEvent(sliders[0], test::touchScreen(), false);
    for (int i = 0; i < fingers; ++i)
        pressed.press(i, on(*sliders[static_cast<std::size_t>(i)], 0), sliders[static_cast<std::size_t>(i)]);
    pressed.commit();
    QElapsedTimer since;
    qint64 moved = 0;
    QTimer hands;
    hands.setTimerType(Qt::PreciseTimer);
    QObject::connect(&hands, &QTimer::timeout, [&] {
        for (const qint64 due = since.elapsed() * movesASecond / 1000; moved + fingers <= due;
             moved += fingers) {
            auto all = QTest::touchEvent(sliders[0], test::touchScreen(), false);
            for (int i = 0; i < fingers; ++i) {
                const double phase = static_cast<double>(moved) / 700 + i;
                auto* slider = sliders[static_cast<std::size_t>(i)];
                all.move(i, on(*slider, 0.5 + 0.5 * std::sin(phase)), slider);
            }
            all.commit(false);
        }
    });
    const double atRest = processorTime();
    settle(2000);
    std::printf("rest %.1f\n", (processorTime() - atRest) * 100 / 2000);
    since.start();
    hands.start(4);
    settle(1000);
    Counter pictures(&window);
    constexpr int stretch = 4000;
    double rate = 0;
    double share = 1000;
    for (int i = 0; i < 3; ++i) {
        pictures.count = 0;
        const double before = processorTime();
        settle(stretch);
        rate = std::max(rate, pictures.count * 1000.0 / stretch);
        share = std::min(share, (processorTime() - before) * 100 / stretch);
    }
    std::printf("pictures-a-second %.0f\nshare %.1f\n", rate, share);
    return 0;
}
