// Playing allocates nothing: every allocation of the process is counted while the engine plays random worlds.
#include <QtTest>
#include <atomic>
#include <cstdlib>
#include <new>

#include "core/engine/compile.h"
#include "core/engine/engine.h"
#include "support/random_ensemble.h"

namespace {

std::atomic<std::uint64_t> allocations{0};

void* counted(std::size_t size) {
    allocations.fetch_add(1, std::memory_order_relaxed);
    if (void* memory = std::malloc(size)) return memory;
    std::abort();
}

}  // namespace

void* operator new(std::size_t size) {
    return counted(size);
}
void* operator new[](std::size_t size) {
    return counted(size);
}
void* operator new(std::size_t size, const std::nothrow_t&) noexcept {
    return counted(size);
}
void operator delete(void* memory) noexcept {
    std::free(memory);
}
void operator delete[](void* memory) noexcept {
    std::free(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
    std::free(memory);
}
void operator delete[](void* memory, std::size_t) noexcept {
    std::free(memory);
}

using namespace mellow;

class AllocationsTest : public QObject {
    Q_OBJECT

 private slots:
    void theCounterCounts() {
        const std::uint64_t before = allocations.load();
        int* volatile made = new int(1);
        delete made;
        QVERIFY(allocations.load() > before);
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
                const std::uint64_t before = allocations.load();
                engine.process({time, port, message}, sink);
                if (world.oneIn(50)) engine.silenceAll(sink);
                QCOMPARE(allocations.load(), before);
                if (!world.oneIn(100)) continue;
                world.edit(ensemble);
                auto next = engine::compile(ensemble, &program->plan);
                const std::uint64_t beforeSwap = allocations.load();
                engine.adopt(next.get(), sink);
                QCOMPARE(allocations.load(), beforeSwap);
                program = std::move(next);
            }
        }
    }
};

QTEST_APPLESS_MAIN(AllocationsTest)
#include "allocations.moc"
