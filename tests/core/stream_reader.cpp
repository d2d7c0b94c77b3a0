// The byte stream reader, on the streams that cables really carry.
#include "core/midi/stream_reader.h"

#include <rapidcheck.h>
#include <QtTest>

#include "support/build.h"

using namespace mellow;

namespace {

QStringList read(midi::StreamReader& reader, const std::string& hex) {
    QStringList messages;
    const auto stream = test::bytes(hex);
    reader.read(stream,
                [&](midi::Bytes message) { messages << QString::fromStdString(midi::toHex(message)); });
    return messages;
}

}  // namespace

class StreamReaderTest : public QObject {
    Q_OBJECT

 private slots:
    void streams_data() {
        QTest::addColumn<QString>("stream");
        QTest::addColumn<QStringList>("messages");
        QTest::newRow("one") << "B0 01 40" << QStringList{"B0 01 40"};
        QTest::newRow("running status")
            << "90 3C 40 3E 41 3C 00" << QStringList{"90 3C 40", "90 3E 41", "90 3C 00"};
        QTest::newRow("two bytes running") << "D0 10 11" << QStringList{"D0 10", "D0 11"};
        QTest::newRow("real-time inside") << "B0 F8 01 FE 40" << QStringList{"F8", "FE", "B0 01 40"};
        QTest::newRow("real-time keeps running status")
            << "B0 01 40 F8 01 41" << QStringList{"B0 01 40", "F8", "B0 01 41"};
        QTest::newRow("sysex") << "F0 7D 01 F7" << QStringList{"F0 7D 01 F7"};
        QTest::newRow("real-time inside sysex") << "F0 7D F8 01 F7" << QStringList{"F8", "F0 7D 01 F7"};
        QTest::newRow("sysex ends running status")
            << "90 3C 40 F0 F7 3E 41" << QStringList{"90 3C 40", "F0 F7"};
        QTest::newRow("sysex cut by a status") << "F0 7D 01 90 3C 40" << QStringList{"90 3C 40"};
        QTest::newRow("message cut by a status") << "90 3C B0 01 40" << QStringList{"B0 01 40"};
        QTest::newRow("data before any status") << "01 02 90 3C 40" << QStringList{"90 3C 40"};
        QTest::newRow("common") << "F2 01 02 F6 F3 05" << QStringList{"F2 01 02", "F6", "F3 05"};
        QTest::newRow("common ends running status") << "90 3C 40 F6 3C 40" << QStringList{"90 3C 40", "F6"};
        QTest::newRow("truncated") << "90 3C" << QStringList{};
        QTest::newRow("stray end") << "F7 90 3C 40" << QStringList{"90 3C 40"};
    }
    void streams() {
        QFETCH(QString, stream);
        midi::StreamReader reader;
        QTEST(read(reader, stream.toStdString()), "messages");
    }

    void chunksDoNotMatter() {
        QVERIFY(rc::check("any split gives the same messages", [](const std::vector<std::uint8_t>& stream,
                                                                  std::uint8_t at) {
            midi::StreamReader whole;
            midi::StreamReader split;
            std::vector<std::string> one;
            std::vector<std::string> two;
            whole.read(stream, [&](midi::Bytes m) { one.push_back(midi::toHex(m)); });
            const std::size_t cut = stream.empty() ? 0 : at % stream.size();
            const midi::Bytes all(stream);
            split.read(all.first(cut), [&](midi::Bytes m) { two.push_back(midi::toHex(m)); });
            split.read(all.subspan(cut), [&](midi::Bytes m) { two.push_back(midi::toHex(m)); });
            RC_ASSERT(one == two);
        }));
    }

    void deliversWholeMessagesOnly() {
        QVERIFY(rc::check("every message is whole", [](const std::vector<std::uint8_t>& stream) {
            midi::StreamReader reader;
            reader.read(stream, [](midi::Bytes m) { RC_ASSERT(midi::isWhole(m) || midi::isRealTime(m[0])); });
        }));
    }

    void longSysexIsDroppedWhole() {
        midi::StreamReader reader(16);
        std::vector<std::uint8_t> stream{0xF0};
        stream.insert(stream.end(), 100, 0x01);
        stream.push_back(0xF7);
        int count = 0;
        reader.read(stream, [&](midi::Bytes) { ++count; });
        QCOMPARE(count, 0);
        QVERIFY(reader.dropped() >= 100);
        QCOMPARE(read(reader, "B0 01 02"), QStringList{"B0 01 02"});
    }
};

QTEST_APPLESS_MAIN(StreamReaderTest)
#include "stream_reader.moc"
