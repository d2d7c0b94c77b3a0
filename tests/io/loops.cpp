// Loops told from hands: what comes round again and again, and what merely repeats.
#include "io/clocks/loop_watch.h"

#include <QtTest>

using namespace mellow;
using io::LoopWatch;

namespace {

constexpr engine::PortId keys = 3;
constexpr engine::PortId rack = 4;

/// A message that comes in and is passed on, the given times, that far apart. How many were let through.
int passed(LoopWatch& watch, int times, engine::Time apart, bool newEachTime) {
    int through = 0;
    for (int i = 0; i < times; ++i) {
        const std::vector<std::uint8_t> bytes{0xB0, 1, static_cast<std::uint8_t>(newEachTime ? i % 128 : 5)};
        const engine::Time now = i * apart;
        if (!watch.hears(now, keys, bytes)) continue;
        ++through;
        watch.sends(now, rack, bytes);
    }
    return through;
}

}  // namespace

class LoopsTest : public QObject {
    Q_OBJECT

 private slots:
    void whatGoesRoundIsCutAndNamedOnce() {
        auto watch = std::make_unique<LoopWatch>();
        // What is dropped is not sent, so that one comes through whenever nothing was for a while.
        const int through = passed(*watch, 100, 3000, false);
        QVERIFY(through >= LoopWatch::mostRounds && through < LoopWatch::mostRounds + 12);
        const auto loop = watch->take();
        QVERIFY(loop && loop->in == keys && loop->out == rack);
        QVERIFY(!watch->take());
        // Another port is heard as ever, and so is what was not sent.
        QVERIFY(watch->hears(300000, rack, std::vector<std::uint8_t>{0xB0, 1, 5}));
        QVERIFY(watch->hears(300000, keys, std::vector<std::uint8_t>{0x90, 60, 1}));
    }

    void handsAreNoLoop() {
        auto moving = std::make_unique<LoopWatch>();
        QCOMPARE(passed(*moving, 2000, 1000, true), 2000);
        // The same again and again, slower than anything comes round.
        auto steady = std::make_unique<LoopWatch>();
        QCOMPARE(passed(*steady, 500, LoopWatch::window + 1, false), 500);
        QVERIFY(!moving->take() && !steady->take());
    }

    void aLoopThatIsTakenApartIsForgotten() {
        auto watch = std::make_unique<LoopWatch>();
        passed(*watch, 100, 3000, false);
        const engine::Time later = 100 * 3000 + LoopWatch::patience;
        const std::vector<std::uint8_t> bytes{0xB0, 1, 5};
        QVERIFY(watch->hears(later, keys, bytes));
        watch->sends(later, rack, bytes);
        QVERIFY(watch->hears(later + 1000, keys, bytes));
    }

    void realTimeMessagesAreNotCounted() {
        auto watch = std::make_unique<LoopWatch>();
        for (int i = 0; i < 200; ++i) {
            QVERIFY(watch->hears(i * 1000, keys, std::vector<std::uint8_t>{0xF8}));
            watch->sends(i * 1000, rack, std::vector<std::uint8_t>{0xF8});
        }
    }
};

QTEST_APPLESS_MAIN(LoopsTest)
#include "loops.moc"
