// A cycle allocates nothing, whatever is under way in it: messages that come and leave, SysEx, OSC, paced
// wires, a take that plays, goes round and is jumped into, a recording, edits. What the playing thread
// allocates is counted while a cycle runs; other threads may.
#include <QtTest>

#include "io/ports/patchbay.h"
#include "io/recording/recorder.h"
#include "support/allocations.h"
#include "support/build.h"
#include "support/random_ensemble.h"
#include "support/random_take.h"

using namespace mellow;

namespace {

/// Ports that hand in what is said, by way of a tap as those do whose messages come on another thread, and
/// count what leaves.
class Still : public io::Ports {
 public:
    explicit Still(io::Player& player) : owner_(player) {}
    void want(const io::PortNames&) override {}
    [[nodiscard]] std::vector<io::PortState> present() const override { return {}; }
    void gather(io::Arrivals& arrivals) override {
        ring_.drain([&](const io::Tap::Seen& seen) {
            arrivals.addCopy({owner_.time(), seen.port, seen.bytes});
        });
    }
    bool send(const engine::Output&) override {
        ++sent;
        return true;
    }
    void come(std::string_view port, midi::Bytes bytes) {
        ring_.see({0, owner_.ports().of(port), false, bytes});
    }
    std::uint64_t sent = 0;

 private:
    io::Player& owner_;
    io::Tap ring_;
};

}  // namespace

class IoAllocationsTest : public QObject {
    Q_OBJECT

 private slots:
    void theCounterCounts() {
        const std::uint64_t made = test::allocationsOf([] {
            int* volatile one = new int(1);
            delete one;
        });
        QVERIFY(made > 0);
    }

    void aCycleAllocatesNothing() {
        std::uint64_t left = 0;
        for (std::uint32_t seed = 0; seed < 12; ++seed) {
            test::RandomWorld world(seed);
            Ensemble ensemble = world.ensemble();
            io::Player player;
            io::Patchbay patchbay(player);
            Still ports(player);
            patchbay.add(ports);
            player.play(ensemble);
            for (const Instrument& instrument : ensemble.instruments)
                patchbay.setRate(player.ports().of(instrument.output.port),
                                 seed % 2 == 0 ? 0 : io::Pacer::dinRate);
            io::Recorder recorder(player);
            recorder.start();
            auto take = std::make_shared<Take>(test::randomTake(seed, 400));
            engine::Time time = 1'000'000;
            const std::vector<std::uint8_t> sysex(2000, 0x11);
            std::vector<std::uint8_t> dump = sysex;
            dump.front() = 0xF0;
            dump.back() = 0xF7;
            for (int i = 0; i < 1500; ++i) {
                const auto message = world.message();
                ports.come(world.port(), message);
                if (i % 97 == 0) ports.come("keys", dump);
                if (i % 31 == 0) player.receiveOsc(player.ports().of("net"), "/tile/tilt", 0.25);
                if (i == 100) QVERIFY(static_cast<bool>(recorder.begin({})));
                if (i == 200) player.startTake(take);
                if (i == 400) player.changeTake(take, {0, -1, 100'000, 400'000, 0, 0});
                if (i == 700) {
                    io::TakeRun run;
                    run.from = take->length / 2;
                    run.at = time + take->length;
                    player.startTake(take, run, &ensemble);
                }
                if (i == 1000) player.silenceAll();
                if (i == 1100) player.stopTake();
                if (i == 1200) recorder.askEnd();
                if (i % 150 == 0) {
                    world.edit(ensemble);
                    player.play(ensemble);
                }
                if (i % 50 == 0)
                    player.send(player.ports().of(io::practiceKeysPort), midi::make(0x90, 0, i % 128, 90));
                time += i % 100 == 0 ? 200'000 : world.gap();
                const std::uint64_t made = test::allocationsOf([&] { patchbay.cycle(time); });
                QVERIFY2(made == 0,
                         qPrintable(QStringLiteral("seed %1, cycle %2: %3").arg(seed).arg(i).arg(made)));
                player.watch([](const io::Happening&) {});
                player.watchOsc([](const io::OscHappening&) {});
            }
            left += ports.sent;
        }
        QVERIFY(left > 1000);
    }
};

QTEST_GUILESS_MAIN(IoAllocationsTest)
#include "allocations.moc"
