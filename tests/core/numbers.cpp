// Numbers as people read and type them.
#include "core/text/numbers.h"
#include "core/text/calculation.h"
#include "core/text/printable.h"

#include <QtTest>
#include <limits>

using namespace mellow;

class NumbersTest : public QObject {
    Q_OBJECT

 private slots:
    void shown_data() {
        QTest::addColumn<double>("value");
        QTest::addColumn<QString>("unit");
        QTest::addColumn<QString>("text");
        QTest::newRow("kilo") << 6200.0 << "Hz"
                              << "6.2 kHz";
        QTest::newRow("plain hertz") << 400.0 << "Hz"
                                     << "400 Hz";
        QTest::newRow("rounded") << 5.2263 << "Hz"
                                 << "5.23 Hz";
        QTest::newRow("seconds") << 1500.0 << "ms"
                                 << "1.5 s";
        QTest::newRow("negative") << -12.0 << "dB"
                                  << "−12 dB";
        QTest::newRow("silence") << -std::numeric_limits<double>::infinity() << "dB"
                                 << "−∞ dB";
        QTest::newRow("bare") << 30.0 << ""
                              << "30";
        QTest::newRow("no minus zero") << -0.0001 << ""
                                       << "0";
    }
    void shown() {
        QFETCH(double, value);
        QFETCH(QString, unit);
        QTEST(QString::fromStdString(text::withUnit(value, unit.toStdString())), "text");
    }

    void typed_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("unit");
        QTest::addColumn<double>("value");
        QTest::newRow("k") << "6.2k"
                           << "Hz" << 6200.0;
        QTest::newRow("kHz") << "6.2 kHz"
                             << "Hz" << 6200.0;
        QTest::newRow("dB") << "-12 dB"
                            << "dB" << -12.0;
        QTest::newRow("real minus") << "−12"
                                    << "dB" << -12.0;
        QTest::newRow("share") << "40%"
                               << "" << 0.4;
        QTest::newRow("per cent") << "40 %"
                                  << "%" << 40.0;
        QTest::newRow("comma") << "1,5 s"
                               << "ms" << 1500.0;
        QTest::newRow("spaces before and behind") << "  12 "
                                                  << "Hz" << 12.0;
        QTest::newRow("plus") << "+0.35"
                              << "" << 0.35;
        QTest::newRow("spaces before and behind") << "  12 "
                                                  << "Hz" << 12.0;
        QTest::newRow("silence") << "-inf"
                                 << "dB" << -std::numeric_limits<double>::infinity();
    }
    void typed() {
        QFETCH(QString, text);
        QFETCH(QString, unit);
        const auto number = text::parse(text.toStdString(), unit.toStdString());
        QVERIFY(number.has_value());
        QTEST(*number, "value");
    }

    /// What is whole UTF-8 is kept, at the edges of each length; what is not becomes a mark for each of its
    /// bytes.
    void printableText() {
        constexpr std::size_t longest = 40;
        for (const char* kept : {"é", "\u07FF", "\u0800", "\uFFFD", "\U00010000", "\U0010FFFF"})
            QCOMPARE(text::printable(kept, longest), std::string(kept));
        QCOMPARE(text::printable("a\xC3(b", longest), std::string("a\\xC3(b"));
        QCOMPARE(text::printable("\xE0\x80\x80", longest), std::string("\\xE0\\x80\\x80"));
        QCOMPARE(text::printable("\xF0\x80\x80\x80", longest), std::string("\\xF0\\x80\\x80\\x80"));
        QCOMPARE(text::printable(std::string(1, '\0'), longest), std::string("\\x00"));
    }

    void nonsenseIsNoNumber() {
        for (const char* nonsense : {"", "loud", "12 parsecs", "--3", "6.2kk", "nan", "1e999"}) {
            QVERIFY2(!text::parse(nonsense, "Hz"), nonsense);
        }
    }

    void sumsAreWorkedOut() {
        const auto is = [](const char* typed, const char* unit, double value) {
            const auto number = text::calculated(typed, unit);
            QVERIFY2(number.has_value(), typed);
            QVERIFY2(std::abs(*number - value) < 1e-9, typed);
        };
        is("1/1.5", "", 1 / 1.5);
        is("1,5 * 2", "", 3);
        is("127 − 10", "", 117);
        is("2*440 Hz", "Hz", 880);
        is("(1+2)/2 kHz", "Hz", 1500);
        is("3/4 s", "ms", 750);
        is("1/4", "%", 0.25);
        is("-12 dB", "dB", -12);
        for (const char* nonsense : {"", "/", "1/0", "1//2", "(1", "x+1", "2*3 parsecs", "1;2", "sin(1)"})
            QVERIFY2(!text::calculated(nonsense, "Hz"), nonsense);
        QVERIFY(!text::calculated(std::string(10000, '('), "Hz"));
    }
};

QTEST_APPLESS_MAIN(NumbersTest)
#include "numbers.moc"
