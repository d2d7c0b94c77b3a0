// What a hand meant, told from what its ports send.
#include "core/learning/learner.h"

#include <QtTest>
#include <random>

#include "core/assignments/users.h"
#include "core/learning/heard_as.h"
#include "support/build.h"

using namespace mellow;
using learning::Candidate;
using learning::Learner;

namespace {

using Bytes = std::vector<std::uint8_t>;

std::uint8_t byte(int value) {
    return static_cast<std::uint8_t>(value);
}

/// Messages ten milliseconds apart.
class Hand {
 public:
    Learner learner;
    void send(const std::vector<Bytes>& messages, int apart = 10'000, const char* port = "keys") {
        for (const Bytes& message : messages) learner.hear(port, time_ += apart, message);
    }
    /// A control from one value to another, one by one.
    void move(int number, int from, int to, int step = 4) {
        for (int value = from; from < to ? value <= to : value >= to; value += from < to ? step : -step)
            send({{0xB0, byte(number), byte(value)}});
    }
    [[nodiscard]] Candidate best() const {
        const auto all = learner.candidates();
        return all.empty() ? Candidate{} : all.front();
    }

 private:
    std::int64_t time_ = 0;
};

QString text(const Source& source) {
    QString words = QString::fromUtf8(row(source.kind).name.data());
    if (row(source.kind).numbered) words += QStringLiteral(" %1").arg(source.number);
    if (source.kind == SourceKind::relative) words += QStringLiteral(" e%1").arg(choiceOf(source, 0));
    return words;
}

using Play = std::function<void(Hand&)>;

}  // namespace

Q_DECLARE_METATYPE(Play)

class LearningTest : public QObject {
    Q_OBJECT

 private slots:
    void kindsOfControls_data() {
        QTest::addColumn<Play>("play");
        QTest::addColumn<QString>("source");
        const auto row = [](const char* name, const Play& play, const char* source) {
            QTest::newRow(name) << play << QString::fromLatin1(source);
        };
        row(
            "a wheel", [](Hand& h) { h.move(1, 0, 80); }, "cc 1");
        row(
            "a wheel of fourteen bits, by its lower number",
            [](Hand& h) {
                for (int v = 0; v < 40; ++v) h.send({{0xB2, 2, byte(v)}, {0xB2, 34, byte(v * 3)}}, 300);
            },
            "cc14 2");
        row(
            "an RPN",
            [](Hand& h) {
                for (int v = 0; v < 60; v += 5)
                    h.send({{0xB0, 101, 0}, {0xB0, 100, 2}, {0xB0, 6, byte(v)}, {0xB0, 38, 0}}, 500);
            },
            "rpn 2");
        row(
            "an NRPN that selects once",
            [](Hand& h) {
                h.send({{0xB0, 99, 2}, {0xB0, 98, 44}});
                for (int v = 0; v < 60; v += 5) h.send({{0xB0, 6, byte(v)}});
            },
            "nrpn 300");
        row(
            "bend",
            [](Hand& h) {
                for (int v = 64; v < 120; v += 3) h.send({{0xE0, 0, byte(v)}});
            },
            "bend");
        row(
            "channel pressure under a key",
            [](Hand& h) {
                h.send({{0x90, 60, 90}});
                for (int v = 0; v < 100; v += 5) h.send({{0xD0, byte(v)}});
                h.send({{0x80, 60, 64}});
            },
            "pressure");
        row(
            "key pressure",
            [](Hand& h) {
                h.send({{0x90, 60, 90}});
                for (int v = 0; v < 100; v += 5) h.send({{0xA0, 60, byte(v)}});
            },
            "keyPressure");
        row(
            "a key",
            [](Hand& h) {
                h.send({{0x90, 61, 90}, {0x80, 61, 64}});
            },
            "key 61");
        row(
            "a program",
            [](Hand& h) {
                h.send({{0xC0, 5}});
            },
            "program -1");
        row(
            "an encoder of two's complement",
            [](Hand& h) {
                for (int i = 0; i < 6; ++i) h.send({{0xB0, 16, 1}});
                for (int i = 0; i < 6; ++i) h.send({{0xB0, 16, 127}});
            },
            "relative 16 e0");
        row(
            "an encoder with an offset",
            [](Hand& h) {
                for (int i = 0; i < 8; ++i) h.send({{0xB0, 16, byte(i < 4 ? 65 : 63)}});
            },
            "relative 16 e1");
        row(
            "an encoder with a sign",
            [](Hand& h) {
                for (int i = 0; i < 8; ++i) h.send({{0xB0, 16, byte(i < 4 ? 1 : 65)}});
            },
            "relative 16 e2");
        row(
            "a button",
            [](Hand& h) {
                h.send({{0xB0, 80, 127}, {0xB0, 80, 0}}, 200'000);
            },
            "cc 80");
        row(
            "a wheel beside one that trembles more often",
            [](Hand& h) {
                for (int i = 0; i < 30; ++i) {
                    h.send({{0xB0, 7, byte(60 + i % 2)}, {0xB0, 7, byte(61)}});
                    h.send({{0xB0, 1, byte(i * 3)}});
                }
            },
            "cc 1");
        row(
            "a wheel among clock, sensing and held keys",
            [](Hand& h) {
                h.send({{0x90, 60, 90}, {0x90, 64, 90}});
                for (int i = 0; i < 30; ++i) h.send({{0xF8}, {0xFE}, {0xB0, 1, byte(i * 3)}});
            },
            "cc 1");
    }
    void kindsOfControls() {
        QFETCH(Play, play);
        QFETCH(QString, source);
        Hand hand;
        play(hand);
        QCOMPARE(text(hand.best().source), source);
        QVERIFY2(hand.best().sure >= Learner::enough, qPrintable(QString::number(hand.best().sure)));
    }

    void whatMovesNothingIsNotSure_data() {
        QTest::addColumn<Play>("play");
        const auto row = [](const char* name, const Play& play) { QTest::newRow(name) << play; };
        row("nothing", [](Hand&) {});
        row("clock", [](Hand& h) { h.send({{0xF8}, {0xFA}, {0xFE}}); });
        row("trembling", [](Hand& h) {
            for (int i = 0; i < 200; ++i) h.send({{0xB0, 1, byte(60 + i % 3)}});
        });
        row("a melody", [](Hand& h) {
            for (int key : {60, 62, 64, 65}) h.send({{0x90, byte(key), 90}, {0x80, byte(key), 64}});
        });
        row("one value", [](Hand& h) { h.send({{0xB0, 1, 64}}); });
        row("a panic", [](Hand& h) { h.send({{0xB0, 123, 0}, {0xB0, 121, 0}}); });
    }
    void whatMovesNothingIsNotSure() {
        QFETCH(Play, play);
        Hand hand;
        play(hand);
        QVERIFY2(hand.best().sure < Learner::enough, qPrintable(text(hand.best().source)));
    }

    /// One stick, three messages: all are offered.
    void whatSendsThreeThingsOffersThree() {
        Hand hand;
        for (int i = 0; i < 40; ++i)
            hand.send({{0xB0, 16, byte(i * 3)}, {0xB0, 17, byte(127 - i * 3)}, {0xE0, 0, byte(64 + i)}}, 200);
        const auto all = hand.learner.candidates();
        QCOMPARE(all.size(), std::size_t{3});
        for (const Candidate& each : all) QVERIFY(each.sure >= Learner::enough);
        // The first that was heard is the first.
        QCOMPARE(text(all[0].source), QStringLiteral("cc 16"));
    }

    /// A key that was struck on the way to the wheel is not what was meant, nor the first half of a pair
    /// alone.
    void aKeyOnTheWayToAWheel() {
        Hand hand;
        hand.send({{0x90, 60, 90}, {0x80, 60, 64}});
        hand.move(1, 0, 120);
        QCOMPARE(text(hand.best().source), QStringLiteral("cc 1"));
        QVERIFY(hand.best().sure >= Learner::enough);
    }
    void aPairThatBeginsWithItsHighByteAlone() {
        Hand hand;
        hand.send({{0xB0, 2, 3}});
        for (int i = 400; i < 12'000; i += 130)
            hand.send({{0xB0, 2, byte(i >> 7)}, {0xB0, 34, byte(i & 127)}}, 500);
        QCOMPARE(text(hand.best().source), QStringLiteral("cc14 2"));
        QCOMPARE(hand.learner.candidates().size(), std::size_t{1});
    }

    void oscIsLearnedByItsTravel() {
        Learner learner;
        for (int i = 0; i < 20; ++i) {
            learner.hearOsc("osc.udp://:9000", i, "/tile/still", 0.5);
            learner.hearOsc("osc.udp://:9000", i, "/tile/tilt", i / 20.0);
        }
        const auto all = learner.candidates();
        QCOMPARE(textOf(all[0].source, 0), std::string("/tile/tilt"));
        QVERIFY(all[0].sure >= Learner::enough);
        QVERIFY(all[1].sure < Learner::enough);
    }

    void portsAreToldApart() {
        Hand hand;
        hand.send({{0xB0, 1, 0}, {0xB0, 1, 100}}, 10'000, "one");
        hand.send({{0xB3, 1, 3}}, 10'000, "two");
        QCOMPARE(hand.best().port, std::string("one"));
        QCOMPARE(hand.best().channel, 1);
        QCOMPARE(hand.learner.candidates().size(), std::size_t{2});
    }

    /// Whatever comes, the source that is learned hears what was heard.
    void whatIsLearnedFitsWhatWasHeard() {
        std::mt19937 random(3);
        for (int round = 0; round < 300; ++round) {
            Hand hand;
            for (int i = 0; i < 40; ++i) {
                const auto status = byte(0x80 + static_cast<int>(random() % 0x70));
                Bytes message{status, byte(static_cast<int>(random() % 128))};
                if (midi::dataLength(status) == 2) message.push_back(byte(static_cast<int>(random() % 128)));
                hand.send({message}, static_cast<int>(random() % 20'000));
            }
            for (const Candidate& each : hand.learner.candidates()) {
                QVERIFY(isHeardAs(each.source, each.heard));
                QVERIFY(flawOf(each.source).empty());
                QVERIFY(each.sure >= 0 && each.sure <= 1);
            }
        }
    }

    void usersOfAControlAreFound() {
        Instrument one = test::instrument();
        one.chains.push_back(test::chain("a", test::ccSource(1), {}, {}));
        one.chains.push_back(test::chain("b", test::ccSource(2), {}, {}));
        Step both = test::step("combine");
        both.with = test::ccSource(1);
        one.chains.push_back(test::chain("c", test::ccSource(3), {both}, {}));
        Source fine = makeSource(SourceKind::cc14);
        fine.number = 1;
        one.chains.push_back(test::chain("d", fine, {}, {}));
        QStringList ids;
        const Ensemble ensemble = test::ensemble({one});
        for (const auto& user : usersOf(ensemble, test::ccSource(1)))
            ids << QString::fromStdString(user.chain->id);
        QCOMPARE(ids, (QStringList{QStringLiteral("a"), QStringLiteral("c"), QStringLiteral("d")}));
    }
};

QTEST_APPLESS_MAIN(LearningTest)
#include "learning.moc"
