// Numbers as people read and type them.
#include "core/text/numbers.h"

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
        QTest::newRow("plus") << "+0.35"
                              << "" << 0.35;
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

    void nonsenseIsNoNumber() {
        for (const char* nonsense : {"", "loud", "12 parsecs", "--3", "6.2kk", "nan", "1e999"}) {
            QVERIFY2(!text::parse(nonsense, "Hz"), nonsense);
        }
    }
};

QTEST_APPLESS_MAIN(NumbersTest)
#include "numbers.moc"
