// The silent clock: a playing thread and an editing thread at work together. Run under the thread sanitizer
// by
// ./mellow sanitize; MELLOW_SECONDS makes it longer.
#include "io/clocks/silent_clock.h"

#include <QElapsedTimer>
#include <QtTest>

#include "core/model/edit.h"
#include "io/ports/patchbay.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;

namespace {

/// What the rack's port is sent, counted on the playing thread and read on this one.
struct Ears : io::Ports {
    std::atomic<int> noteOns{0};
    std::atomic<int> noteOffs{0};
    std::atomic<int> newest{-1};  ///< of CC 11

    void want(const io::PortNames&) override {}
    [[nodiscard]] std::vector<io::PortState> present() const override { return {}; }
    bool send(const engine::Output& output) override {
        const midi::Bytes bytes = output.bytes;
        if (midi::isNoteOn(bytes)) ++noteOns;
        if (midi::isNoteOff(bytes)) ++noteOffs;
        if (midi::kindOf(bytes) == midi::controlChange && bytes[1] == 11) newest = bytes[2];
        return true;
    }
};

Ensemble onTheRack(std::vector<Step> steps = {}) {
    Instrument one = test::instrument();
    one.output.port = io::practiceRackPort;
    one.chains.push_back(
        test::chain("swell", test::ccSource(1), std::move(steps), {test::branch("expression", 0, 127)}));
    // A generator keeps the clock at work while everything else happens.
    Source cycle = makeSource(SourceKind::lfo);
    cycle.values[1] = 30.0;
    one.chains.push_back(test::chain("cycle", cycle, {}, {test::branch("tone", 0, 127)}));
    return test::ensemble({one});
}

struct Stage {
    Ears ears;
    io::Player player;
    io::Patchbay patchbay{player};
    io::SilentClock clock;

    Stage() {
        patchbay.add(ears);
        player.play(onTheRack());
        if (!clock.start(patchbay)) qFatal("the clock does not start");
    }
    void send(const midi::Short& message) { player.send(player.ports().of(io::practiceKeysPort), message); }
};

}  // namespace

class ClockTest : public QObject {
    Q_OBJECT

 private slots:
    void aMessageIsPlayedAtOnce() {
        Stage stage;
        stage.send(midi::make(midi::controlChange, 0, 1, 77));
        QTRY_COMPARE(stage.ears.newest.load(), 77);
    }

    void aSmoothedValueArrivesByItself() {
        Stage stage;
        stage.player.play(onTheRack({test::step("smooth", {30, 30})}));
        stage.send(midi::make(midi::controlChange, 0, 1, 0));
        stage.send(midi::make(midi::controlChange, 0, 1, 127));
        QTRY_COMPARE(stage.ears.newest.load(), 127);
    }

    void aTakeIsPlayedInItsTime() {
        Stage stage;
        auto take = std::make_shared<Take>();
        take->ports = {std::string(io::practiceKeysPort)};
        for (int i = 0; i < 20; ++i) {
            take->add(i * 10000, 0, midi::make(0x90, 0, 40 + i, 90).bytes());
            take->add(i * 10000 + 5000, 0, midi::make(0x80, 0, 40 + i, 64).bytes());
        }
        take->length = 200000;
        QElapsedTimer timer;
        timer.start();
        stage.player.startTake(take);
        QTRY_COMPARE(stage.ears.noteOffs.load(), 20);
        QVERIFY(timer.elapsed() >= 190);
        QCOMPARE(stage.ears.noteOns.load(), 20);
        QTRY_COMPARE(stage.player.takePosition(), std::int64_t{-1});
    }

    void stoppingAndStartingKeepsTheTime() {
        Stage stage;
        stage.send(midi::make(midi::controlChange, 0, 1, 5));
        QTRY_COMPARE(stage.ears.newest.load(), 5);
        stage.clock.stop();
        const engine::Time before = stage.player.time();
        QVERIFY(static_cast<bool>(stage.clock.start(stage.patchbay)));
        stage.send(midi::make(midi::controlChange, 0, 1, 6));
        QTRY_COMPARE(stage.ears.newest.load(), 6);
        stage.clock.stop();
        QVERIFY(stage.player.time() >= before);
    }

    void editingWhilePlayingLosesNothing() {
        const int asked = qEnvironmentVariableIntValue("MELLOW_SECONDS");
        const qint64 length = asked > 0 ? asked * 1000 : 1500;
        Stage stage;
        test::RandomWorld world(7);
        Ensemble ensemble = onTheRack();
        int struck = 0;
        QElapsedTimer timer;
        timer.start();
        while (timer.elapsed() < length || struck <= 20) {
            const int key = 30 + struck % 60;
            stage.send(midi::make(0x90, 0, key, 90));
            stage.send(midi::make(midi::controlChange, 0, 1, struck % 128));
            ensemble.instruments[0].chains[0].branches[0].high = static_cast<double>(world.below(128));
            ensemble.instruments[0].chains[0].steps = {test::step("smooth", {5, 5})};
            stage.player.play(ensemble);
            stage.send(midi::make(0x80, 0, key, 64));
            ++struck;
            stage.player.watch([](const io::Happening&) {});
            QTRY_COMPARE(stage.ears.noteOffs.load(), struck);
        }
        QCOMPARE(stage.ears.noteOns.load(), struck);
    }
};

QTEST_GUILESS_MAIN(ClockTest)
#include "clock.moc"
