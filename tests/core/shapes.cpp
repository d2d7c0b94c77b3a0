// What controls are, told from streams as such controls send them.
#include "core/midi/shapes.h"

#include <QtTest>
#include <random>

#include "core/describe/heard.h"

using namespace mellow;
using midi::Shape;

namespace {

using Stream = std::vector<std::pair<std::int64_t, std::vector<std::uint8_t>>>;

midi::Shapes seen(const Stream& stream) {
    midi::Shapes shapes;
    for (const auto& [time, bytes] : stream) shapes.see(time, bytes);
    return shapes;
}

Stream controls(std::initializer_list<int> values, std::int64_t apart) {
    Stream stream;
    for (const int value : values)
        stream.push_back(
            {static_cast<std::int64_t>(stream.size()) * apart, {0xB0, 20, static_cast<std::uint8_t>(value)}});
    return stream;
}

}  // namespace

class ShapesTest : public QObject {
    Q_OBJECT

 private slots:
    void shapes_data() {
        QTest::addColumn<Stream>("stream");
        QTest::addColumn<int>("shape");
        QTest::addColumn<QString>("says");
        const auto row = [](const char* name, const Stream& stream, Shape shape, const char* says) {
            QTest::newRow(name) << stream << static_cast<int>(shape) << QString::fromUtf8(says);
        };
        row("one message", controls({64}, 0), Shape::unknown, "CC 20 at 64 on channel 1, moving");
        row("a fader", controls({10, 11, 13, 14, 20, 20, 19}, 10000), Shape::sevenBits,
            "CC 20 at 19 on channel 1, moving, 7 bits");
        row("a momentary button", controls({127, 0, 127, 0}, 200000), Shape::momentary,
            "CC 20 up on channel 1, button, momentary");
        row("a latching button", controls({127, 0, 127}, 3000000), Shape::latching,
            "CC 20 down on channel 1, button, latching");
        row("an encoder of two's complement", controls({1, 1, 1, 2, 127, 127, 126}, 20000),
            Shape::twosComplement, "CC 20 turned on channel 1, moving, encoder, two's complement");
        row("an encoder with an offset", controls({65, 65, 65, 65, 63, 66}, 20000), Shape::offset,
            "CC 20 turned on channel 1, moving, encoder, offset by 64");
        row("an encoder with a sign bit", controls({1, 1, 65, 65, 65, 66, 1}, 20000), Shape::sign,
            "CC 20 turned on channel 1, moving, encoder, sign bit");
        Stream pair;
        for (int i = 0; i < 4; ++i) {
            pair.push_back({i * 10000, {0xB1, 11, static_cast<std::uint8_t>(i)}});
            pair.push_back({i * 10000 + 300, {0xB1, 43, static_cast<std::uint8_t>(100 - i)}});
        }
        row("a pair", pair, Shape::fourteenBits, "CC 11 at 481 on channel 2, moving, 14-bit pair 11 + 43");
        row("a bend", {{0, {0xE0, 0, 64}}}, Shape::fourteenBits,
            "Pitch bend at 8192 on channel 1, moving, 14 bits");
        row("a key", {{0, {0x90, 60, 90}}, {10, {0x80, 60, 0}}}, Shape::notes, "Key C4 on channel 1, moving");
    }
    void shapes() {
        QFETCH(Stream, stream);
        QFETCH(int, shape);
        QFETCH(QString, says);
        const midi::Shapes shapes = seen(stream);
        QVERIFY(shapes.latest() != nullptr);
        QCOMPARE(static_cast<int>(shapes.latest()->shape), shape);
        QCOMPARE(QString::fromStdString(describe::heard(*shapes.latest(), stream.back().first)), says);
    }

    void theLowHalfOfAPairIsNoControlOfItsOwn() {
        Stream stream;
        for (int i = 0; i < 4; ++i) {
            stream.push_back({i * 10000, {0xB0, 1, 5}});
            stream.push_back({i * 10000 + 300, {0xB0, 33, static_cast<std::uint8_t>(i)}});
        }
        const midi::Shapes shapes = seen(stream);
        QCOMPARE(shapes.all().size(), std::size_t{1});
        QCOMPARE(shapes.latest()->low, 5 << 7 | 1);
        QCOMPARE(shapes.latest()->high, 5 << 7 | 3);
    }

    void itRestsWhenNothingComes() {
        const midi::Shapes shapes = seen(controls({10, 20}, 1000));
        QCOMPARE(describe::heard(*shapes.latest(), 2000000), std::string("CC 20 at 20 on channel 1, 7 bits"));
        QCOMPARE(shapes.latest()->low, 10);
    }

    void whateverComesIsTaken() {
        std::mt19937 random(3);
        midi::Shapes shapes;
        for (int i = 0; i < 20000; ++i) {
            std::vector<std::uint8_t> bytes{static_cast<std::uint8_t>(random() % 256),
                                            static_cast<std::uint8_t>(random() % 128),
                                            static_cast<std::uint8_t>(random() % 128)};
            if (midi::isWhole(bytes)) shapes.see(i * 100, bytes);
        }
        for (const auto& [key, control] : shapes.all()) {
            QVERIFY(control.low <= control.value && control.value <= control.high);
            QVERIFY(!describe::heard(control, 0).empty());
        }
    }
};

QTEST_APPLESS_MAIN(ShapesTest)
#include "shapes.moc"
