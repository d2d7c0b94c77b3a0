// Playing allocates nothing: every allocation of the thread that plays is counted while the engine plays
// random worlds.
#include <QtTest>

#include "core/engine/compiling/compile.h"
#include "core/engine/playing/engine.h"
#include "support/allocations.h"
#include "support/random_ensemble.h"

using namespace mellow;

class AllocationsTest : public QObject {
    Q_OBJECT

 private slots:
    void theCounterCounts() {
        const std::uint64_t made = test::allocationsOf([] {
            int* volatile one = new int(1);
            delete one;
        });
        QVERIFY(made > 0);
    }

    void playingAllocatesNothing() {
        for (std::uint32_t seed = 0; seed < 60; ++seed) {
            test::RandomWorld world(seed);
            Ensemble ensemble = world.ensemble();
            auto program = engine::compile(ensemble);
            engine::Engine engine(program.get());
            std::uint64_t sent = 0;
            auto count = [&sent](const engine::Output&) { ++sent; };
            const engine::Sink sink = engine::sinkTo(count);
            engine::Time time = 0;
            for (int i = 0; i < 1000; ++i) {
                time += world.gap();
                const auto message = world.message();
                const auto port =
                    static_cast<engine::PortId>(program->plan.numbering.ports.intern(world.port()));
                const bool silences = world.oneIn(50);
                QCOMPARE(test::allocationsOf([&] {
                             engine.process({time, port, message}, sink);
                             if (silences) engine.silenceAll(sink);
                         }),
                         std::uint64_t{0});
                if (!world.oneIn(100)) continue;
                world.edit(ensemble);
                auto next = engine::compile(ensemble, &program->plan);
                QCOMPARE(test::allocationsOf([&] { engine.adopt(next.get(), sink); }), std::uint64_t{0});
                program = std::move(next);
            }
        }
    }
};

QTEST_APPLESS_MAIN(AllocationsTest)
#include "allocations.moc"
