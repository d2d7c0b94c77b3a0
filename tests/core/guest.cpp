// The engine as a guest: block by block it sends what the engine sends message by message, its states come
// and go as bytes, and nothing of that allocates on the playing side.
#include <QtTest>
#include <atomic>
#include <thread>

#include "core/engine/compiling/compile.h"
#include "core/engine/driving/guest.h"
#include "core/store/ensemble_json.h"
#include "support/allocations.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;
using engine::Guest;

namespace {

std::vector<std::uint8_t> bytesOf(const Ensemble& ensemble) {
    const std::string text = store::printEnsemble(ensemble);
    return {text.begin(), text.end()};
}

struct Sent {
    std::uint32_t frame = 0;
    std::string instrument;
    std::vector<std::uint8_t> bytes;
    bool operator==(const Sent&) const = default;
};

/// Keeps what a guest sends, without allocating while it plays.
struct Keeper {
    struct Raw {
        std::uint32_t frame = 0;
        std::uint32_t instrument = 0;
        std::array<std::uint8_t, 3> bytes{};
        std::size_t size = 0;
    };
    std::vector<Raw> all;
    Keeper() { all.reserve(1 << 16); }
    Guest::Receiver receiver() {
        return {[](void* self, const Guest::Out& out) {
                    auto& kept = static_cast<Keeper*>(self)->all;
                    if (kept.size() == kept.capacity() || out.bytes.size() > 3) return;
                    Raw& raw = kept.emplace_back(Raw{out.frame, out.instrument, {}, out.bytes.size()});
                    std::copy(out.bytes.begin(), out.bytes.end(), raw.bytes.begin());
                },
                this};
    }
    std::vector<Sent> told(const Guest& guest) {
        std::vector<Sent> sent;
        for (const Raw& raw : all)
            sent.push_back({raw.frame,
                            guest.instrument(raw.instrument),
                            {raw.bytes.begin(), raw.bytes.begin() + static_cast<std::ptrdiff_t>(raw.size)}});
        all.clear();
        return sent;
    }
};

/// The wheel to expression of one instrument.
Ensemble simple(int channel = 1) {
    Ensemble ensemble;
    Instrument one = test::instrument("one", channel);
    one.parameters = {test::ccParameter("expression", 11)};
    one.chains = {test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)})};
    ensemble.instruments = {one};
    return ensemble;
}

}  // namespace

class GuestTest : public QObject {
    Q_OBJECT

 private slots:
    void eachMessageAtItsFrame() {
        Guest guest(48000);
        Keeper kept;
        QVERIFY(guest.setState(bytesOf(simple())));
        const std::array<std::uint8_t, 3> low{0xB0, 1, 10};
        const std::array<std::uint8_t, 3> high{0xB0, 1, 90};
        const std::array<std::uint8_t, 3> middle{0xB0, 1, 64};
        const std::array in{Guest::In{5, 0, low}, Guest::In{127, 0, high}, Guest::In{500, 0, middle},
                            Guest::In{127, 9, high}};
        for (int block = 0; block < 1000; ++block) {
            guest.process(128, in, kept.receiver());
            const std::vector<Sent> sent = kept.told(guest);
            QCOMPARE(sent.size(), std::size_t{3});
            QVERIFY((sent[0] == Sent{5, "one", {0xB0, 11, 10}}));
            QVERIFY((sent[1] == Sent{127, "one", {0xB0, 11, 90}}));
            QVERIFY((sent[2] == Sent{127, "one", {0xB0, 11, 64}}));
        }
        guest.process(0, in, kept.receiver());
        QVERIFY(kept.all.empty());
    }

    void statesAreBytes() {
        Guest guest(44100);
        Keeper kept;
        QVERIFY(guest.setState(bytesOf(simple(1))));
        guest.process(64, {}, kept.receiver());
        const std::array<std::uint8_t, 3> key{0x90, 60, 100};
        const std::array in{Guest::In{0, 0, key}};
        guest.process(64, in, kept.receiver());
        QVERIFY((kept.told(guest) == std::vector<Sent>{{0, "one", {0x90, 60, 100}}}));
        // What is none is refused with its place, and nothing changes.
        const std::string wrong = R"({"format": "mellow-lever/ensemble", "version": 1, "title": 3})";
        const Outcome refused =
            guest.setState(std::span(reinterpret_cast<const std::uint8_t*>(wrong.data()), wrong.size()));
        QVERIFY(!refused);
        QVERIFY(!refused.problem().where.empty());
        QVERIFY(guest.ensemble() == simple(1));
        QVERIFY(guest.state() == bytesOf(simple(1)));
        // Another host loads what this one saved.
        Guest other(96000);
        QVERIFY(other.setState(guest.state()));
        QVERIFY(other.state() == guest.state());
        // A held note ends where it sounds, though its instrument plays elsewhere by then.
        QVERIFY(guest.setState(bytesOf(simple(5))));
        const std::array<std::uint8_t, 3> up{0x80, 60, 64};
        const std::array lifted{Guest::In{9, 0, up}};
        guest.process(64, lifted, kept.receiver());
        const std::vector<Sent> sent = kept.told(guest);
        QVERIFY(std::any_of(sent.begin(), sent.end(), [](const Sent& each) {
            return each.bytes.size() == 3 && each.bytes[0] == 0x80 && each.bytes[1] == 60;
        }));
    }

    void silence() {
        Guest guest(48000);
        Keeper kept;
        QVERIFY(guest.setState(bytesOf(simple())));
        const std::array<std::uint8_t, 3> key{0x90, 60, 100};
        const std::array in{Guest::In{3, 0, key}};
        guest.process(64, in, kept.receiver());
        kept.all.clear();
        guest.silence(kept.receiver());
        const std::vector<Sent> sent = kept.told(guest);
        QVERIFY(!sent.empty());
        QVERIFY((sent.front() == Sent{0, "one", {0x80, 60, 64}}));
    }

    /// In blocks of any size, at any rate, with states that change meanwhile: what the engine sends, and no
    /// allocation.
    void anyWorldInAnyBlocks_data() {
        QTest::addColumn<int>("seed");
        for (int seed = 0; seed < 40; ++seed) QTest::addRow("%d", seed) << seed;
    }
    void anyWorldInAnyBlocks() {
        QFETCH(int, seed);
        test::RandomWorld world(static_cast<std::uint32_t>(seed));
        const std::vector<std::string> names{world.port(), world.port(), "elsewhere"};
        const std::array rates{44100, 48000, 96000, 192000, 8000};
        const int rate = rates.at(static_cast<std::size_t>(seed) % rates.size());
        Ensemble ensemble = world.ensemble();
        Guest guest(rate, names);
        QVERIFY(guest.setState(bytesOf(ensemble)));
        const auto read = store::parseEnsemble(store::printEnsemble(ensemble));
        auto program = engine::compile(*read);
        engine::Engine plain(program.get());
        std::vector<Sent> expected;
        std::int64_t begins = 0;
        std::uint32_t frames = 0;
        auto take = [&](const engine::Output& out) {
            if (out.bytes.empty() || out.bytes.size() > 3) return;
            std::int64_t frame = 0;
            while (begins + frame < begins + frames - 1 &&
                   (begins + frame) / rate * 1'000'000 + (begins + frame) % rate * 1'000'000 / rate <
                       out.time)
                ++frame;
            expected.push_back({static_cast<std::uint32_t>(frame),
                                program->plan.numbering.instruments.name(out.instrument),
                                {out.bytes.begin(), out.bytes.end()}});
        };
        const engine::Sink sink = engine::sinkTo(take);
        Keeper kept;
        for (int block = 0; block < 120; ++block) {
            frames = static_cast<std::uint32_t>(1 + world.below(512));
            std::vector<std::vector<std::uint8_t>> messages;
            std::vector<Guest::In> in;
            std::uint32_t frame = 0;
            for (int i = world.below(6); i > 0; --i) {
                frame = std::min(frames - 1, frame + static_cast<std::uint32_t>(world.below(100)));
                messages.push_back(world.message());
                in.push_back({frame, static_cast<std::uint32_t>(world.below(3)), {}});
            }
            for (std::size_t i = 0; i < in.size(); ++i) in[i].bytes = messages[i];
            QCOMPARE(test::allocationsOf([&] { guest.process(frames, in, kept.receiver()); }),
                     std::uint64_t{0});
            expected.clear();
            const auto timeOf = [rate](std::int64_t at) {
                return at / rate * 1'000'000 + at % rate * 1'000'000 / rate;
            };
            for (const Guest::In& each : in) {
                const auto port =
                    static_cast<engine::PortId>(program->plan.numbering.ports.intern(names[each.input]));
                plain.process({timeOf(begins + each.frame), port, each.bytes}, sink);
            }
            plain.advance(timeOf(begins + frames) - 1, sink);
            const std::vector<Sent> sent = kept.told(guest);
            QVERIFY2(sent == expected, qPrintable(QStringLiteral("block %1: %2 sent, %3 expected")
                                                      .arg(block)
                                                      .arg(sent.size())
                                                      .arg(expected.size())));
            begins += frames;
            if (!world.oneIn(20)) continue;
            world.edit(ensemble);
            QVERIFY(guest.setState(bytesOf(ensemble)));
            auto next =
                engine::compile(*store::parseEnsemble(store::printEnsemble(ensemble)), &program->plan);
            // The guest takes it up at the beginning of its next block, at the same time.
            expected.clear();
            QCOMPARE(test::allocationsOf([&] { guest.process(1, {}, kept.receiver()); }), std::uint64_t{0});
            frames = 1;
            std::swap(program, next);
            plain.adopt(program.get(), sink);
            plain.advance(timeOf(begins + 1) - 1, sink);
            QVERIFY(kept.told(guest) == expected);
            begins += 1;
        }
    }

    /// States are handed over while the other thread plays.
    void twoThreads() {
        Guest guest(48000);
        QVERIFY(guest.setState(bytesOf(simple())));
        std::atomic<bool> ends{false};
        std::atomic<int> sent{0};
        std::thread playing([&] {
            const std::array<std::uint8_t, 3> low{0xB0, 1, 10};
            const std::array<std::uint8_t, 3> high{0xB0, 1, 90};
            const std::array in{Guest::In{0, 0, low}, Guest::In{5, 0, high}};
            const Guest::Receiver out{
                [](void* self, const Guest::Out&) { ++*static_cast<std::atomic<int>*>(self); }, &sent};
            while (!ends) guest.process(64, in, out);
        });
        for (int i = 0; i < 300; ++i) QVERIFY(guest.setState(bytesOf(simple(1 + i % 16))));
        QTRY_VERIFY(sent > 100);
        ends = true;
        playing.join();
        QVERIFY(guest.ensemble() == simple(1 + 299 % 16));
    }
};

QTEST_APPLESS_MAIN(GuestTest)
#include "guest.moc"
