// Standard MIDI Files: read, write, tempo, damage.
#include <rapidcheck.h>
#include <QtTest>

#include "core/smf/read.h"
#include "core/smf/tempo_map.h"
#include "core/smf/write.h"
#include "core/takes/take.h"
#include "support/build.h"

using namespace mellow;
using test::bytes;

namespace {

/// A file from a header's format, track count and division, and tracks as hex without their chunk headers.
std::vector<std::uint8_t> fileOf(const std::string& header, const std::vector<std::string>& tracks) {
    auto file = bytes("4D 54 68 64 00 00 00 06 " + header);
    for (const std::string& track : tracks) {
        const auto body = bytes(track);
        const auto head = bytes("4D 54 72 6B");
        file.insert(file.end(), head.begin(), head.end());
        for (int shift = 24; shift >= 0; shift -= 8)
            file.push_back(static_cast<std::uint8_t>(body.size() >> shift));
        file.insert(file.end(), body.begin(), body.end());
    }
    return file;
}

QStringList events(const smf::File& file, std::size_t track) {
    QStringList lines;
    for (const smf::Event& event : file.tracks[track].events) {
        lines << QStringLiteral("%1 %2")
                     .arg(event.tick)
                     .arg(QString::fromStdString(midi::toHex(file.body(event))));
    }
    return lines;
}

smf::TempoMap mapOf(const smf::File& file) {
    return {file, {&file.tracks.front()}};
}

}  // namespace

class SmfTest : public QObject {
    Q_OBJECT

 private slots:
    void readsRunningStatusMetaAndSysex() {
        const auto reading = smf::read(
            fileOf("00 00 00 01 00 60",
                   {"00 FF 03 02 48 69 00 90 3C 40 60 3C 00 00 F0 03 7D 01 F7 83 00 B0 01 7F 00 FF 2F 00"}));
        QVERIFY(reading);
        QVERIFY(reading->warnings.empty());
        QCOMPARE(events(reading->file, 0),
                 (QStringList{"0 48 69", "0 90 3C 40", "96 90 3C 00", "96 7D 01 F7", "480 B0 01 7F"}));
    }

    void runsOfMessagesOfEveryKindAreReadOneByOne() {
        QVERIFY(
            rc::check("with running status where it may be", [](const std::vector<std::uint16_t>& content) {
                std::string track;
                QStringList expected;
                std::uint64_t tick = 0;
                int running = 0;
                for (const std::uint16_t each : content) {
                    const int status = 0x80 | (each % 7) << 4 | (each >> 4 & 3);
                    const std::vector<std::uint8_t> body =
                        midi::dataLength(static_cast<std::uint8_t>(status)) == 1
                            ? std::vector<std::uint8_t>{static_cast<std::uint8_t>(each >> 8 & 0x7F)}
                            : std::vector<std::uint8_t>{static_cast<std::uint8_t>(each >> 8 & 0x7F), 7};
                    const bool far = each % 5 == 0;
                    track += far ? "81 00 " : "05 ";
                    tick += far ? 128 : 5;
                    std::vector<std::uint8_t> whole{static_cast<std::uint8_t>(status)};
                    whole.insert(whole.end(), body.begin(), body.end());
                    track += midi::toHex(std::exchange(running, status) == status ? body : whole) + " ";
                    expected << QStringLiteral("%1 %2").arg(tick).arg(
                        QString::fromStdString(midi::toHex(whole)));
                }
                const auto reading = smf::read(fileOf("00 00 00 01 00 60", {track + "00 FF 2F 00"}));
                RC_ASSERT(reading->warnings.empty());
                RC_ASSERT(events(reading->file, 0) == expected);
            }));
    }

    void aDamagedByteInARunIsToldByItsPlace() {
        const auto reading =
            smf::read(fileOf("00 00 00 01 00 60", {"00 B0 01 10 00 01 90 00 01 12 00 01 13 00 FF 2F 00"}));
        QCOMPARE(events(reading->file, 0), QStringList{"0 B0 01 10"});
        // The header's 14 bytes, the chunk's 8, and 6 of the track.
        QCOMPARE(reading->firstLoss()->offset, std::uint64_t{28});
    }

    void writeThenReadIsTheSame() {
        QVERIFY(rc::check("round trip",
                          [](const std::vector<std::pair<std::uint8_t, std::vector<std::uint8_t>>>& content) {
                              smf::File file;
                              file.tracks.resize(2);
                              std::uint64_t tick = 0;
                              for (const auto& [delta, body] : content) {
                                  tick += delta * 37u;
                                  if (body.size() % 3 == 0) {
                                      const std::array<std::uint8_t, 3> message{
                                          0xB3, static_cast<std::uint8_t>(delta & 0x7F), 5};
                                      file.add(file.tracks[1], tick, smf::EventKind::channel, message);
                                  } else if (body.size() % 3 == 1) {
                                      file.add(file.tracks[0], tick, smf::EventKind::meta, body,
                                               (delta & 0x7F) == smf::endOfTrack ? 0x7F : delta & 0x7F);
                                  } else {
                                      file.add(file.tracks[1], tick, smf::EventKind::sysex, body);
                                  }
                              }
                              const auto again = smf::read(*smf::write(file));
                              RC_ASSERT(static_cast<bool>(again));
                              RC_ASSERT(again->warnings.empty());
                              for (std::size_t t = 0; t < 2; ++t) {
                                  RC_ASSERT(events(file, t) == events(again->file, t));
                                  RC_ASSERT(again->file.tracks[t].endTick == file.tracks[t].endTick);
                              }
                          }));
    }

    void everyCutIsAnErrorOrAWarning() {
        const QByteArray demo = test::sourceFile(QStringLiteral("data/demo/barometer-falls.mid"));
        const midi::Bytes whole{reinterpret_cast<const std::uint8_t*>(demo.constData()),
                                static_cast<std::size_t>(demo.size())};
        for (std::size_t cut = 0; cut < whole.size(); ++cut) {
            const auto reading = smf::read(whole.first(cut));
            if (!reading) {
                QVERIFY(reading.problem().where.starts_with("byte "));
                continue;
            }
            QVERIFY2(reading->firstLoss() != nullptr, qPrintable(QString::number(cut)));
            QVERIFY(reading->firstLoss()->offset <= cut);
        }
    }

    void everyCorruptedByteIsSurvived() {
        const QByteArray demo = test::sourceFile(QStringLiteral("data/demo/barometer-falls.mid"));
        std::vector<std::uint8_t> file(demo.begin(), demo.end());
        file.resize(900);
        for (std::size_t at = 0; at < file.size(); ++at) {
            for (const std::uint8_t value : {0x00, 0x7F, 0x80, 0xFF}) {
                const std::uint8_t before = std::exchange(file[at], value);
                const auto reading = smf::read(file);
                if (reading) QVERIFY(reading->file.store.size() <= file.size());
                file[at] = before;
            }
        }
    }

    void lengthsThatLieCostNothing() {
        auto file = fileOf("00 00 00 01 00 60", {"00 F0 FF FF FF 7F 7D 01 F7"});
        auto reading = smf::read(file);
        QVERIFY(reading);
        QVERIFY(reading->firstLoss() != nullptr);
        QCOMPARE(QString::fromStdString(reading->firstLoss()->what),
                 QStringLiteral("a SysEx event says it is 268435455 bytes long, but only 3 are there"));
        file[18] = 0xFF;  // the track's length
        reading = smf::read(file);
        QVERIFY(reading);
        QCOMPARE(reading->firstLoss()->offset, std::uint64_t{18});
    }

    void textIsRefused() {
        const std::string text = "This is no music at all.";
        const auto reading = smf::read({reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
        QVERIFY(!reading);
        QCOMPARE(reading.problem().where, std::string("byte 0"));
    }

    void temposAddUpExactly() {
        // 96 ticks a quarter; 333,333 µs a quarter from tick 0, 1,000,000 from tick 96.
        const auto reading =
            smf::read(fileOf("00 00 00 01 00 60", {"00 FF 51 03 05 16 15 60 FF 51 03 0F 42 40 00 FF 2F 00"}));
        const smf::TempoMap map = mapOf(reading->file);
        QCOMPARE(map.microseconds(1), 3472);  // 333333/96 = 3472.2
        QCOMPARE(map.microseconds(96), 333333);
        QCOMPARE(map.microseconds(192), 1333333);
        QCOMPARE(map.nearestTick(333333), std::uint64_t{96});
        QCOMPARE(map.nearestTick(333333 + 5208), std::uint64_t{96});  // half a tick is 5208.33 µs
        QCOMPARE(map.nearestTick(333333 + 5209), std::uint64_t{97});
        QCOMPARE(map.nearestTick(0), std::uint64_t{0});
    }

    void nearestTickTiesGoLater() {
        // 500,000 µs a quarter and 250 ticks: a tick is 2000 µs, half a tick is 1000 µs.
        const auto reading = smf::read(fileOf("00 00 00 01 00 FA", {"00 FF 2F 00"}));
        QCOMPARE(mapOf(reading->file).nearestTick(999), std::uint64_t{0});
        QCOMPARE(mapOf(reading->file).nearestTick(1000), std::uint64_t{1});
    }

    void framesKeepTheirRate() {
        const auto at25 = smf::read(fileOf("00 00 00 01 E7 28", {"00 FF 51 03 05 16 15 00 FF 2F 00"}));
        QCOMPARE(mapOf(at25->file).microseconds(1000),
                 1000000);  // 25 × 40 ticks a second, whatever the tempo says
        const auto at29 = smf::read(fileOf("00 00 00 01 E3 01", {"00 FF 2F 00"}));
        QCOMPARE(mapOf(at29->file).microseconds(30000), 1001000000);
        QCOMPARE(mapOf(at29->file).microseconds(1), 33366);  // 1001/30000 s, rounded down
    }

    void divisionSurvives() {
        for (const char* header : {"00 00 00 01 E7 28", "00 01 00 01 01 E0"}) {
            const auto reading = smf::read(fileOf(header, {"00 FF 2F 00"}));
            const auto again = smf::read(*smf::write(reading->file));
            QVERIFY(again->file.division == reading->file.division);
        }
    }

    /// Two pauses, each of what the format can say at most, and one that is longer by a tick: it is bridged
    /// by texts that say nothing.
    void aPauseLongerThanTheFormatCanSayIsBridged() {
        constexpr std::uint64_t longest = 0x0FFFFFFF;
        for (const std::uint64_t more : {0, 1, 1000}) {
            smf::File file;
            file.tracks.resize(1);
            file.add(file.tracks[0], longest + more, smf::EventKind::channel, bytes("90 3C 40"));
            file.tracks[0].endTick = 2 * longest + 3 * more;
            const auto again = smf::read(*smf::write(file));
            QVERIFY(again);
            std::vector<std::uint64_t> notes;
            for (const smf::Event& event : again->file.tracks[0].events) {
                if (event.kind == smf::EventKind::channel) notes.push_back(event.tick);
            }
            QCOMPARE(notes, std::vector<std::uint64_t>{longest + more});
            QCOMPARE(again->file.tracks[0].endTick, 2 * longest + 3 * more);
        }
    }

    void unknownChunksAreKeptAndTracksTooManyAreNot() {
        auto file = fileOf("00 01 00 01 00 60", {"00 FF 2F 00", "00 90 3C 40 00 FF 2F 00"});
        const auto first = bytes("58 46 49 48 00 00 00 03 61 62 63");
        const auto last = bytes("58 46 4B 4D 00 00 00 00");
        file.insert(file.begin() + 14, first.begin(), first.end());
        file.insert(file.end(), last.begin(), last.end());
        const auto reading = smf::read(file);
        QVERIFY(reading);
        QCOMPARE(reading->file.tracks.size(), std::size_t{1});
        QVERIFY(reading->firstLoss() == nullptr);
        QCOMPARE(reading->warnings.size(), std::size_t{1});
        QVERIFY(reading->warnings[0].what.starts_with("the header says there are 1 tracks"));
        auto both = first;
        both.insert(both.end(), last.begin(), last.end());
        const auto written = *smf::write(reading->file);
        QVERIFY(std::equal(both.rbegin(), both.rend(), written.rbegin()));
    }

    void aHeaderMayBeLonger() {
        auto file = fileOf("00 01 00 01 00 60", {"00 90 3C 40 00 FF 2F 00"});
        file[7] = 8;
        file.insert(file.begin() + 14, 2, 0x55);
        const auto reading = smf::read(file);
        QVERIFY(reading);
        QCOMPARE(reading->file.tracks[0].events.size(), std::size_t{1});
    }

    void aTakeHoldsHandsInOrderOfTime() {
        const auto reading = smf::read(fileOf(
            "00 01 00 02 00 60", {"60 B0 01 40 00 FF 2F 00", "00 90 3C 40 81 40 80 3C 00 60 FF 2F 00"}));
        const Take take = takeFrom(reading->file, "hands");
        QCOMPARE(take.ports, std::vector<std::string>{"hands"});
        QCOMPARE(take.events.size(), std::size_t{3});
        QCOMPARE(take.events[1].time, 500000);
        QCOMPARE(midi::toHex(take.bodyOf(take.events[1])), std::string("B0 01 40"));
        QCOMPARE(take.length, 1500000);
    }

    /// A SysEx is taken whole, one in packets when its last comes; half of one is none.
    void aTakeHoldsSysex() {
        const auto reading =
            smf::read(fileOf("00 00 00 01 00 60", {"00 F0 03 7D 01 F7 60 F0 02 7D 02 60 F7 02 03 F7 "
                                                   "00 F7 01 F8 60 F0 02 7D 04 00 FF 2F 00"}));
        const Take take = takeFrom(reading->file, "hands");
        QCOMPARE(take.events.size(), std::size_t{2});
        QCOMPARE(midi::toHex(take.bodyOf(take.events[0])), std::string("F0 7D 01 F7"));
        QCOMPARE(take.events[1].time, 1000000);
        QCOMPARE(midi::toHex(take.bodyOf(take.events[1])), std::string("F0 7D 02 03 F7"));
    }
};

QTEST_APPLESS_MAIN(SmfTest)
#include "smf.moc"
