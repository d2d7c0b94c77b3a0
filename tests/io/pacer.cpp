// Pacing held to what a receiver makes of it: at rest it stands where it would without, no note hangs, the
// wire is never asked for more than it carries, and what belongs together comes together.
#include "io/ports/pacer.h"

#include <rapidcheck.h>
#include <QtTest>
#include <algorithm>
#include <array>
#include <set>

#include "support/build.h"
#include "support/receiver.h"

using namespace mellow;
using engine::Time;
using test::Receiver;

namespace {

struct Sent {
    Time time = 0;
    std::vector<std::uint8_t> bytes;
};

/// A pacer with what left it.
struct Wire {
    io::Pacer pacer;
    std::vector<Sent> sent;

    explicit Wire(int rate = io::Pacer::dinRate) { pacer.setRate(rate); }
    void offer(Time time, const std::vector<std::uint8_t>& bytes, std::int32_t branch = -1) {
        auto take = taker();
        pacer.offer({time, 0, 0, 0, branch, bytes}, engine::sinkTo(take));
    }
    void pump(Time until) {
        auto take = taker();
        pacer.pump(until, engine::sinkTo(take));
    }
    std::function<void(const engine::Output&)> taker() {
        return [this](const engine::Output& out) {
            sent.push_back({out.time, {out.bytes.begin(), out.bytes.end()}});
        };
    }
    QStringList lines() const {
        QStringList all;
        for (const Sent& each : sent)
            all << QStringLiteral("%1 %2").arg(each.time).arg(
                QString::fromStdString(midi::toHex(each.bytes)));
        return all;
    }
};

}  // namespace

class PacerTest : public QObject {
    Q_OBJECT

 private slots:
    void whatFitsLeavesAtItsTime() {
        Wire wire;
        wire.offer(1000, {0xB0, 1, 10});
        wire.offer(5000, {0x90, 60, 90});
        wire.pump(10000);
        QCOMPARE(wire.lines(), (QStringList{"1000 B0 01 0A", "5000 90 3C 5A"}));
    }

    /// Three bytes take 960 microseconds. While they leave, notes overtake values, and only the newest value
    /// of a control is left.
    void notesGoFirstAndTheNewestValueNext() {
        Wire wire;
        wire.offer(0, {0xB0, 1, 1});
        wire.offer(10, {0xB0, 1, 2});
        wire.offer(20, {0xB0, 7, 3});
        wire.offer(30, {0xB0, 1, 4});
        wire.offer(40, {0x90, 60, 90});
        wire.offer(50, {0xB0, 64, 127});
        wire.pump(100000);
        QCOMPARE(wire.lines(), (QStringList{"0 B0 01 01", "960 90 3C 5A", "1920 B0 40 7F", "2880 B0 01 04",
                                            "3840 B0 07 03"}));
        QCOMPARE(wire.pacer.dropped(), std::uint64_t{1});
    }

    void realTimeMessagesWaitForNothing() {
        Wire wire;
        wire.offer(0, {0x90, 60, 90});
        wire.offer(10, {0x90, 61, 90});
        wire.offer(20, {0xF8});
        QCOMPARE(wire.lines(), (QStringList{"0 90 3C 5A", "20 F8"}));
    }

    /// Registers are selected again where another was in between, and pairs stay together.
    void whatBelongsTogetherLeavesTogether() {
        Wire wire;
        const auto nrpn = [&](Time time, int number, int value, int branch) {
            for (const auto& [control, data] :
                 {std::pair{99, number >> 7}, {98, number & 127}, {6, value >> 7}, {38, value & 127}})
                wire.offer(time, {0xB0, static_cast<std::uint8_t>(control), static_cast<std::uint8_t>(data)},
                           branch);
        };
        wire.offer(0, {0x90, 60, 90});
        nrpn(10, 130, 200, 1);
        nrpn(20, 131, 300, 2);
        // The first register again: its data alone, since it is selected in what comes after a selection.
        nrpn(30, 130, 201, 1);
        wire.offer(40, {0xB0, 1, 5}, 3);
        wire.offer(40, {0xB0, 33, 6}, 3);
        wire.offer(50, {0x90, 61, 90});
        wire.pump(100000);
        QStringList messages;
        for (const Sent& each : wire.sent) messages << QString::fromStdString(midi::toHex(each.bytes));
        QCOMPARE(messages,
                 (QStringList{"90 3C 5A", "90 3D 5A", "B0 63 01", "B0 62 02", "B0 06 01", "B0 26 49",
                              "B0 63 01", "B0 62 03", "B0 06 02", "B0 26 2C", "B0 01 05", "B0 21 06"}));
    }

    /// A wire that is full takes no beginnings of notes before it refuses an end: nothing hangs.
    void endsOfNotesFindRoom() {
        Wire wire;
        constexpr int notes = 20'000;
        for (int i = 0; i < notes; ++i) {
            wire.offer(i, {0x90, static_cast<std::uint8_t>(i % 128), 90});
            if (i >= 100) wire.offer(i, {0x80, static_cast<std::uint8_t>((i - 100) % 128), 64});
        }
        for (int key = 0; key < 128; ++key) wire.offer(notes, {0x80, static_cast<std::uint8_t>(key), 64});
        wire.pump(Time{3600} * 1'000'000);
        QVERIFY(wire.pacer.dropped() > 0);
        std::array<bool, 128> down{};
        for (const Sent& each : wire.sent) down.at(each.bytes[1]) = each.bytes[0] == 0x90;
        QVERIFY(std::none_of(down.begin(), down.end(), [](bool held) { return held; }));
    }

    /// Values that were meant before a reset do not leave after it; those after it do, on that channel alone.
    void aResetMakesWhatWaitsVoid() {
        Wire wire;
        wire.offer(0, {0x90, 60, 90});
        wire.offer(10, {0xB0, 1, 1});
        wire.offer(10, {0xE0, 0, 96});
        wire.offer(10, {0xB1, 1, 2});
        wire.offer(20, {0xB0, 121, 0});
        wire.offer(30, {0xB0, 7, 3});
        wire.pump(100'000);
        QStringList messages;
        for (const Sent& each : wire.sent) messages << QString::fromStdString(midi::toHex(each.bytes));
        QCOMPARE(messages, (QStringList{"90 3C 5A", "B0 79 00", "B1 01 02", "B0 07 03"}));
    }

    /// A low byte waits with its high byte, is replaced with it, and leaves behind it.
    void lowBytesStayWithTheirHighBytes() {
        Wire wire;
        wire.offer(0, {0x90, 60, 90});
        for (int i = 0; i < 5; ++i) {
            wire.offer(10 + i, {0xB0, 1, static_cast<std::uint8_t>(10 + i)}, 3);
            wire.offer(10 + i, {0xB0, 33, static_cast<std::uint8_t>(20 + i)}, 3);
        }
        wire.offer(50, {0xB0, 33, 99}, 3);
        wire.pump(100'000);
        QStringList messages;
        for (const Sent& each : wire.sent) messages << QString::fromStdString(midi::toHex(each.bytes));
        QCOMPARE(messages, (QStringList{"90 3C 5A", "B0 01 0E", "B0 21 63"}));
    }

    void longMessagesLeaveWhole() {
        Wire wire;
        std::vector<std::uint8_t> dump(500, 0x11);
        dump.front() = 0xF0;
        dump.back() = 0xF7;
        wire.offer(0, dump);
        wire.offer(10, {0x90, 60, 90});
        wire.pump(200000);
        QCOMPARE(wire.sent.size(), std::size_t{2});
        QCOMPARE(wire.sent[0].bytes, dump);
        QCOMPARE(wire.sent[1].time, Time{160000});
    }

    void asFastAsItCanMeansAtOnce() {
        Wire wire(0);
        for (int i = 0; i < 10; ++i) wire.offer(5, {0xB0, 1, static_cast<std::uint8_t>(i)});
        QCOMPARE(wire.sent.size(), std::size_t{10});
        QVERIFY(!wire.pacer.waits());
    }

    /// Far more than the wire carries, of every kind, at random.
    void atRestAReceiverStandsWhereItWould() {
        QVERIFY(rc::check("pacing", [] {
            std::mt19937 random(*rc::gen::arbitrary<std::uint32_t>());
            const auto below = [&random](int n) {
                return static_cast<int>(random() % static_cast<unsigned>(n));
            };
            Wire wire;
            Receiver direct;
            Time time = 0;
            std::set<std::pair<int, int>> down;
            const auto offer = [&](std::vector<std::uint8_t> bytes, int branch) {
                direct.hear(bytes);
                wire.offer(time, bytes, branch);
            };
            const auto control = [&](int channel, int number, int value, int branch) {
                offer({static_cast<std::uint8_t>(0xB0 + channel), static_cast<std::uint8_t>(number),
                       static_cast<std::uint8_t>(value)},
                      branch);
            };
            for (int i = 0; i < 400; ++i) {
                time += below(600);
                const int channel = below(2);
                const int branch = below(5);
                switch (below(6)) {
                    case 0: {
                        const int key = 60 + below(6);
                        const bool on = !down.contains({channel, key});
                        on ? (void)down.insert({channel, key}) : (void)down.erase({channel, key});
                        offer({static_cast<std::uint8_t>((on ? 0x90 : 0x80) + channel),
                               static_cast<std::uint8_t>(key), 80},
                              -1);
                        break;
                    }
                    case 1:
                        control(channel, 70 + below(4), below(128), branch);
                        break;
                    case 2:
                        control(channel, 1, below(128), branch);
                        control(channel, 33, below(128), branch);
                        break;
                    case 3:
                        control(channel, 99, 1, branch);
                        control(channel, 98, below(3), branch);
                        control(channel, 6, below(128), branch);
                        control(channel, 38, below(128), branch);
                        break;
                    case 4:
                        control(channel, 64, below(128), branch);
                        break;
                    default:
                        offer({static_cast<std::uint8_t>(0xE0 + channel),
                               static_cast<std::uint8_t>(below(128)), static_cast<std::uint8_t>(below(128))},
                              branch);
                }
            }
            wire.pump(time + 10000000);
            RC_ASSERT(!wire.pacer.waits());
            Receiver paced;
            Time free = 0;
            for (const Sent& each : wire.sent) {
                RC_ASSERT(each.time >= free);
                free = each.time + static_cast<Time>(each.bytes.size()) * 320;
                paced.hear(each.bytes);
            }
            RC_ASSERT(paced.controls == direct.controls);
            RC_ASSERT(paced.bends == direct.bends);
            RC_ASSERT(paced.registers == direct.registers);
            RC_ASSERT(paced.sounding == direct.sounding);
            // The low byte of a pair comes right behind its high byte.
            for (std::size_t i = 0; i < wire.sent.size(); ++i) {
                const auto& bytes = wire.sent[i].bytes;
                if (midi::kindOf(bytes) != midi::controlChange || bytes[1] != 1) continue;
                RC_ASSERT(i + 1 < wire.sent.size());
                RC_ASSERT(wire.sent[i + 1].bytes[0] == bytes[0] && wire.sent[i + 1].bytes[1] == 33);
            }
        }));
    }

    void itSaysHowFullTheWireIs() {
        Wire wire;
        for (int i = 0; i < 4000; ++i)
            wire.offer(i * 500,
                       {0xB0, static_cast<std::uint8_t>(70 + i % 8), static_cast<std::uint8_t>(i % 128)});
        QVERIFY(wire.pacer.load() > 0.95F);
        QVERIFY(wire.pacer.dropped() > 1000);
        for (int i = 0; i < 30; ++i)
            wire.offer(3000000 + i * 100000, {0xB0, 70, static_cast<std::uint8_t>(i)});
        QVERIFY(wire.pacer.load() < 0.05F);
    }
};

QTEST_APPLESS_MAIN(PacerTest)
#include "pacer.moc"
