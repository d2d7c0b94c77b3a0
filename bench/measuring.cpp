// Pictures a second while the Balance page measures 64 positions of three keys on the practice rack, again
// and again, and a hand moves the wheel meanwhile. Prints "name value" lines: pictures a second, the longest
// time between two in milliseconds, and how long one measurement takes meanwhile; of three tries each, the
// best, since other work on a machine can only make them worse. usage: bench-measuring
#include <QElapsedTimer>
#include <QTimer>
#include <algorithm>
#include <cstdio>

#include "app/pages/balance/balance_page.h"
#include "beginning.h"
#include "pictures.h"
#include "stretch.h"

using namespace mellow;
using bench::Pictures;
using bench::settle;

int main(int argc, char** argv) {
    const bench::Beginning beginning(argc, argv);
    app::MainWindow window(bench::quiet());
    window.files().onAsk([](QWidget*) { return app::MainWindow::Answer::discard; });
    window.resize(1280, 800);
    window.openDemo();
    window.show();
    window.selection().go(app::BalancePlace{"glass"});
    settle(1500);
    app::Balancing& balancing = window.findChild<app::BalancePage*>()->balancing();
    balancing.setKeys({48, 60, 72});
    QObject::connect(&balancing, &app::Balancing::changed, &window, [&] {
        QTimer::singleShot(0, &window, [&] {
            if (!balancing.worker().isBusy()) balancing.measure();
        });
    });
    balancing.measure();
    // A hand that goes up and down in two seconds, a message every 5 ms.
    QElapsedTimer since;
    since.start();
    QTimer hand;
    hand.setTimerType(Qt::PreciseTimer);
    QObject::connect(&hand, &QTimer::timeout, &window, [&] {
        const auto place = static_cast<int>(since.elapsed() / 8 % 254);
        window.live().hands().send(midi::make(midi::controlChange, 0, 1, place < 127 ? place : 254 - place));
    });
    hand.start(5);
    Pictures pictures(&window);
    settle(2000);

    constexpr int tries = 3;
    constexpr int stretch = 6000;  // ms
    double rate = 0;
    double longest = 1e9;
    int took = 1'000'000;
    for (int i = 0; i < tries; ++i) {
        pictures.begin();
        settle(stretch);
        rate = std::max(rate, pictures.count * 1000.0 / stretch);
        longest = std::min(longest, pictures.longest);
        took = std::min(took, balancing.took());
    }
    std::printf("pictures-a-second %.0f\nlongest-ms %.1f\nmeasured-ms %d\n", rate, longest, took);
    std::fflush(stdout);
    return 0;
}
