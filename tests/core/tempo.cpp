// Tempo that is tapped, and tempo that the transport gives.
#include <QtTest>

#include "core/engine/compiling/compile.h"
#include "core/engine/playing/engine.h"
#include "core/takes/tap_tempo.h"
#include "support/build.h"

using namespace mellow;
using namespace mellow::test;

class TempoTest : public QObject {
    Q_OBJECT

 private slots:
    void tapsAreAveragedAndBeginAnewAfterAPause() {
        TapTempo taps;
        QVERIFY(!taps.tap(0));
        QCOMPARE(taps.tap(500000), std::optional(120.0));
        QCOMPARE(taps.tap(1100000), std::optional(109.1));
        QVERIFY(!taps.tap(9000000));
        QCOMPARE(taps.tap(9100000), std::optional(400.0));
        for (int i = 1; i <= 20; ++i) (void)taps.tap(9100000 + i * 750000);
        QCOMPARE(taps.tap(9100000 + 21 * 750000), std::optional(80.0));
    }

    void theTransportIsFollowedWhereTheEnsembleSaysSo() {
        Ensemble ensemble = test::ensemble({instrument()});
        ensemble.tempo.bpm = 100;
        auto plain = engine::compile(ensemble);
        engine::Engine without(plain.get());
        without.followTransport(90, true);
        QCOMPARE(without.tempo(), 100.0);
        ensemble.tempo.follow = Follow::transport;
        auto program = engine::compile(ensemble);
        engine::Engine with(program.get());
        QCOMPARE(with.tempo(), 100.0);
        with.followTransport(0, false);
        QCOMPARE(with.tempo(), 100.0);
        with.followTransport(90, false);
        QCOMPARE(with.tempo(), 90.0);
        with.followTransport(4000, false);
        QCOMPARE(with.tempo(), 400.0);
    }

    /// A cycle in beats begins anew when the transport starts.
    void aStartOfTheTransportRestartsCycles() {
        Instrument one = instrument();
        Source cycle = makeSource(SourceKind::lfo);
        const auto set = [&cycle](const char* key, FieldValue value) {
            const auto fields = row(SourceKind::lfo).fields;
            for (std::size_t i = 0; i < fields.size(); ++i) {
                if (fields[i].key == key) cycle.values[i] = std::move(value);
            }
        };
        const auto choice = [](const char* key, const char* word) {
            for (const Field& field : row(SourceKind::lfo).fields) {
                if (field.key != key) continue;
                for (std::size_t i = 0; i < field.choices.size(); ++i) {
                    if (field.choices[i] == word) return static_cast<int>(i);
                }
            }
            return -1;
        };
        QVERIFY(choice("restart", "start") >= 0);
        set("shape", choice("shape", "rampUp"));
        set("restart", choice("restart", "start"));
        one.chains = {chain("c", cycle, {}, {branch("expression", 0, 127)})};
        Ensemble ensemble = test::ensemble({one});
        ensemble.tempo.follow = Follow::transport;
        Feeder feeder(ensemble);
        QVERIFY(!feeder.until(300000).empty());
        feeder.engine().followTransport(0, true);
        const auto after = feeder.until(310000);
        QVERIFY(!after.empty());
        // From the bottom again.
        QVERIFY2(after.front().ends_with("B0 0B 00") || after.front().ends_with("B0 0B 01"),
                 after.front().c_str());
    }
};

QTEST_APPLESS_MAIN(TempoTest)
#include "tempo.moc"
