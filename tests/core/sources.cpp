// Generators, encoders and pairs against the signal rules (sections 5 and 7), written out here a second time.
#include <rapidcheck.h>
#include <QtTest>
#include <cmath>
#include <numbers>

#include "core/engine/driving/file_run.h"
#include "core/midi/pairs.h"
#include "core/sources/encoder.h"
#include "core/sources/generator.h"
#include "support/build.h"

using namespace mellow;

namespace {

Source cycle(int shape, double hz, double phase = 0) {
    Source source = makeSource(SourceKind::lfo);
    source.values = {shape, hz, 0.0, phase, 0, 7.0};
    return source;
}

double at(const Source& source, double seconds, double tempo = unknownTempo) {
    return cyclePosition(source, cycleFrequency(source, tempo) * seconds);
}

bool near(double a, double b) {
    return std::abs(a - b) < 1e-12;
}

std::vector<midi::PairReading> readings;
const auto keep = [](const midi::PairReading& reading) { readings.push_back(reading); };

}  // namespace

class SourcesTest : public QObject {
    Q_OBJECT

 private slots:
    void shapes() {
        QVERIFY(near(at(cycle(0, 1), 0.25), 0.5));
        QVERIFY(near(at(cycle(0, 1), 0.5), 1));
        QVERIFY(near(at(cycle(1, 1), 0.25), 0.5) && near(at(cycle(1, 1), 0.75), 0.5));
        QVERIFY(near(at(cycle(2, 2), 0.125), 0.25) && near(at(cycle(3, 2), 0.125), 0.75));
        QCOMPARE(at(cycle(4, 1), 0.49), 1.0);
        QCOMPARE(at(cycle(4, 1), 0.5), 0.0);
        QVERIFY(near(at(cycle(2, 1, 0.75), 0.5), 0.25));
    }

    void beatsFollowTheTempo() {
        Source source = cycle(2, 1);
        source.values[2] = 2.0;
        QVERIFY(near(at(source, 0.25, 120), 0.25));
        QVERIFY(near(at(source, 0.25, 60), 0.125));
    }

    void aFilesTempoIsFollowed() {
        // A square over one beat: at 120 a minute it falls after 250 ms and has turned once by tick 480,
        // where the beat becomes a second long and the cycle goes on from there: half of it lasts 240 ticks
        // again.
        Instrument one = test::instrument();
        Source square = cycle(4, 1);
        square.values[2] = 1.0;
        one.chains = {test::chain("c", square, {}, {test::branch("expression", 0, 127)})};
        smf::File file;
        file.tracks.resize(1);
        file.add(file.tracks[0], 0, smf::EventKind::meta, std::array<std::uint8_t, 3>{0x07, 0xA1, 0x20},
                 smf::tempo);
        file.add(file.tracks[0], 480, smf::EventKind::meta, std::array<std::uint8_t, 3>{0x0F, 0x42, 0x40},
                 smf::tempo);
        file.tracks[0].endTick = 960;
        const smf::File result = test::played(test::ensemble({one}), file);
        QStringList changes;
        for (const smf::Event& event : result.tracks[1].events) {
            if (event.kind != smf::EventKind::channel || event.tick > 960) continue;
            changes << QStringLiteral("%1 %2").arg(event.tick).arg(result.body(event)[2]);
        }
        QCOMPARE(changes, (QStringList{"0 127", "240 0", "480 127", "720 0", "960 127"}));
    }

    void randomShapesDrawOnceACycle() {
        const Source steps = cycle(5, 1);
        const Source drift = cycle(6, 1);
        for (int n = 1; n < 50; ++n) {
            QCOMPARE(at(steps, n + 0.1), randomDraw(7, static_cast<std::uint64_t>(n)));
            QCOMPARE(at(steps, n + 0.1), at(steps, n + 0.9));
            const double half = 0.5 - 0.5 * std::cos(std::numbers::pi * 0.5);
            const double before = randomDraw(7, static_cast<std::uint64_t>(n) - 1);
            const double now = randomDraw(7, static_cast<std::uint64_t>(n));
            QVERIFY(near(at(drift, n + 0.5), before + (now - before) * half));
        }
    }

    void drawsAreSplitMix64() {
        // The generator of the paper, step by step.
        std::uint64_t state = 1234567;
        for (std::uint64_t i = 0; i < 100; ++i) {
            std::uint64_t z = (state += 0x9E3779B97F4A7C15U);
            z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9U;
            z = (z ^ (z >> 27)) * 0x94D049BB133111EBU;
            QCOMPARE(randomDraw(1234567, i), static_cast<double>((z ^ (z >> 31)) >> 11) * std::pow(2.0, -53));
        }
    }

    void anEnvelopeIsReleasedFromWhereItIs() {
        Source source = makeSource(SourceKind::envelope);
        source.values = {100.0, 0.0, 100.0, 0.5, 50.0};
        GeneratorState state;
        QCOMPARE(movedTo(source, state, 0, 120), 0.0);
        QVERIFY(!keepsMoving(source, state));
        noteBegins(source, state, 500);
        QVERIFY(near(movedTo(source, state, 50500, 120), 0.5));
        lastNoteEnds(source, state, 50900);
        QVERIFY(near(movedTo(source, state, 75900, 120), 0.25));
        noteBegins(source, state, 75900);
        QVERIFY(near(movedTo(source, state, 125900, 120), 0.25 + 0.75 * 0.5));
        lastNoteEnds(source, state, 126000);
        QCOMPARE(movedTo(source, state, 200000, 120), 0.0);
        QVERIFY(!keepsMoving(source, state));
    }

    void generatorsStayInRange() {
        QVERIFY(rc::check("a position", [](std::uint32_t seed, std::uint32_t rate) {
            Source walk = makeSource(SourceKind::walk);
            walk.values = {static_cast<double>(rate % 1000), (seed % 101) / 100.0,
                           static_cast<double>(seed % 1000)};
            GeneratorState state;
            for (int grid = 0; grid < 300; ++grid) {
                const double p = movedTo(walk, state, grid * 1000, 120);
                RC_ASSERT(p >= 0 && p <= 1);
            }
            for (int shape = 0; shape < 7; ++shape) {
                const double p = at(cycle(shape, rate % 1000), seed / 1e6);
                RC_ASSERT(p >= 0 && p <= 1);
            }
        }));
    }

    void encoders() {
        Source source = makeSource(SourceKind::relative);
        const auto moves = [&source](int encoding, int value) {
            source.values[0] = encoding;
            return encoderMove(source, value) * 127;
        };
        QCOMPARE(moves(0, 1), 1.0);
        QCOMPARE(moves(0, 63), 63.0);
        QCOMPARE(moves(0, 127), -1.0);
        QCOMPARE(moves(0, 65), -63.0);
        QCOMPARE(moves(0, 64), 0.0);
        QCOMPARE(moves(1, 65), 1.0);
        QCOMPARE(moves(1, 63), -1.0);
        QCOMPARE(moves(1, 0), -64.0);
        QCOMPARE(moves(2, 63), 63.0);
        QCOMPARE(moves(2, 65), -1.0);
        QCOMPARE(moves(2, 127), -63.0);
        QCOMPARE(moves(2, 64), 0.0);
    }

    void pairsForgetNothingThatTheyCanHold() {
        midi::Pairs pairs;
        readings.clear();
        for (std::uint16_t port = 0; port < 20; ++port) {
            for (std::uint8_t channel = 0; channel < 16; ++channel)
                pairs.high({port, channel, midi::PairKind::control, 1}, port, 0, keep);
        }
        QVERIFY(readings.empty() && pairs.waiting());
        for (std::uint16_t port = 0; port < 20; ++port) {
            for (std::uint8_t channel = 0; channel < 16; ++channel)
                pairs.low({port, channel, midi::PairKind::control, 1}, channel, keep);
        }
        QCOMPARE(readings.size(), std::size_t{320});
        QCOMPARE(readings[37].value, 2 << 7 | 5);
        QVERIFY(!pairs.waiting());
    }

    void aFloodOfPairsIsSurvived() {
        midi::Pairs pairs;
        readings.clear();
        for (int i = 0; i < 100000; ++i) {
            pairs.high({static_cast<std::uint16_t>(i % 300), static_cast<std::uint8_t>(i % 16),
                        midi::PairKind::nrpn, static_cast<std::uint16_t>(i % 16000)},
                       i % 128, i, keep);
        }
        pairs.due(1000000, keep);
        QVERIFY(!pairs.waiting());
    }

    /// The limits of ensemble-format: at them a value has its meaning, beyond them it has none.
    void limits_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<QString>("key");
        QTest::addColumn<double>("low");
        QTest::addColumn<double>("high");
        const auto row = [](SourceKind kind, const char* key, double low, double high) {
            QTest::addRow("%s %s", mellow::row(kind).name.data(), key)
                << static_cast<int>(kind) << QString::fromLatin1(key) << low << high;
        };
        row(SourceKind::lfo, "hz", 0, 1000);
        row(SourceKind::lfo, "beats", 0, 1024);
        row(SourceKind::lfo, "phase", 0, 1);
        row(SourceKind::lfo, "seed", 0, 1e9);
        row(SourceKind::envelope, "attack", 0, 60000);
        row(SourceKind::envelope, "hold", 0, 60000);
        row(SourceKind::envelope, "decay", 0, 60000);
        row(SourceKind::envelope, "sustain", 0, 1);
        row(SourceKind::envelope, "release", 0, 60000);
        row(SourceKind::walk, "stepsPerSecond", 0, 1000);
        row(SourceKind::walk, "size", 0, 1);
        row(SourceKind::walk, "seed", 0, 1e9);
    }
    void limits() {
        QFETCH(int, kind);
        QFETCH(QString, key);
        QFETCH(double, low);
        QFETCH(double, high);
        Source source = makeSource(static_cast<SourceKind>(kind));
        const auto fields = row(source.kind).fields;
        const auto field = std::find_if(fields.begin(), fields.end(), [&](const Field& each) {
            return QString::fromStdString(std::string(each.key)) == key;
        });
        QVERIFY(field != fields.end());
        FieldValue& value = source.values[static_cast<std::size_t>(field - fields.begin())];
        for (const double inside : {low, high}) {
            value = inside;
            QCOMPARE(flawOf(source), std::string());
        }
        for (const double outside : {low - 1, high + 1}) {
            value = outside;
            QVERIFY2(flawOf(source).find("is outside") != std::string::npos, flawOf(source).c_str());
        }
    }
};

QTEST_APPLESS_MAIN(SourcesTest)
#include "sources.moc"
