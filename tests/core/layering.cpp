// Layers: areas that are dragged stay on the keyboard; spreading shares out; a crossfade is chains that fade
// both ways with the same power, follow the overlap, and go again.
#include <rapidcheck.h>
#include <QtTest>
#include <cmath>

#include "core/checks/check.h"
#include "core/layering/layering.h"
#include "core/steps/step.h"
#include "support/build.h"

using namespace mellow;
using namespace mellow::layering;

namespace {

/// Two instruments, each on a channel of its own, that take some keys and velocities.
Ensemble two(const Area& low, const Area& high) {
    Instrument one = test::instrument("low", 1);
    Instrument other = test::instrument("high", 2);
    Ensemble e = test::ensemble({one, other});
    layering::place(e, "low", low);
    layering::place(e, "high", high);
    return e;
}

/// With which velocity a key comes out on a channel when it is struck; −1: it does not.
int heardOn(const Ensemble& e, int channel, int key, int velocity) {
    test::Feeder feeder(e);
    char line[64];
    std::snprintf(line, sizeof line, "0 keys 90 %02X %02X", key, velocity);
    for (const std::string& out : feeder.feed({line})) {
        const QStringList words = QString::fromStdString(out).split(QLatin1Char(' '));
        if (words[2] == QStringLiteral("9%1").arg(channel - 1)) return words[4].toInt(nullptr, 16);
    }
    return -1;
}

bool isSound(const Area& area) {
    return area == within(area);
}

}  // namespace

class LayeringTest : public QObject {
    Q_OBJECT

 private slots:
    void whatIsDraggedStaysOnTheKeyboard() {
        QVERIFY(rc::check("dragged areas are sound", [] {
            const auto upTo = [](int low, int high) { return *rc::gen::inRange(low, high + 1); };
            const Area area = within({upTo(-20, 150), upTo(-20, 150), upTo(-20, 150), upTo(-20, 150)});
            RC_ASSERT(isSound(area));
            const Grip grip{*rc::gen::arbitrary<bool>(), *rc::gen::arbitrary<bool>(),
                            *rc::gen::arbitrary<bool>(), *rc::gen::arbitrary<bool>()};
            const int keys = upTo(-200, 200);
            const int velocities = upTo(-200, 200);
            RC_ASSERT(isSound(dragged(area, grip, keys, velocities)));
            // By its inside it keeps its size.
            const Area moved = dragged(area, Grip{}, keys, velocities);
            RC_ASSERT(isSound(moved));
            RC_ASSERT(moved.highKey - moved.lowKey == area.highKey - area.lowKey);
            RC_ASSERT(moved.highVelocity - moved.lowVelocity == area.highVelocity - area.lowVelocity);
        }));
    }

    void spreadingSharesOut() {
        Ensemble e = two({36, 60, 1, 127}, {48, 84, 1, 127});
        spread(e, std::vector<std::string>{"high", "low"}, Along::keys);
        QCOMPARE(areaOf(e.instruments[1]).lowKey, 36);
        QCOMPARE(areaOf(e.instruments[1]).highKey, 59);
        QCOMPARE(areaOf(e.instruments[0]).lowKey, 60);
        QCOMPARE(areaOf(e.instruments[0]).highKey, 84);
        spread(e, std::vector<std::string>{"low", "high"}, Along::velocities);
        QCOMPARE(areaOf(e.instruments[0]).highVelocity, 63);
        QCOMPARE(areaOf(e.instruments[1]).lowVelocity, 64);
    }

    void neighboursAreThoseAboveThatTouch() {
        const Ensemble e = two({36, 59, 1, 127}, {60, 84, 1, 127});
        const std::vector<std::string> all{"low", "high"};
        QCOMPARE(neighbourOf(e, "low", all, Along::keys), std::optional<std::string>("high"));
        QVERIFY(!neighbourOf(e, "high", all, Along::keys));
        QVERIFY(!neighbourOf(e, "low", all, Along::velocities));
        QVERIFY(!neighbourOf(two({36, 58, 1, 127}, {60, 84, 1, 127}), "low", all, Along::keys));
    }

    /// Over the overlap the lower one falls and the upper one rises; at its ends one of them is as struck,
    /// and all the way the powers (the fourth power of a velocity) add up to that of the velocity struck.
    void aCrossfadeByKeyKeepsThePower() {
        Ensemble e = two({36, 66, 1, 127}, {55, 84, 1, 127});
        QVERIFY(crossfade(e, "high", "low", Along::keys, Fading::velocity));
        QCOMPARE(fadesOf(e).size(), std::size_t{2});
        QCOMPARE(heardOn(e, 1, 54, 100), 100);
        QCOMPARE(heardOn(e, 2, 54, 100), -1);
        QCOMPARE(heardOn(e, 1, 67, 100), -1);
        QCOMPARE(heardOn(e, 2, 67, 100), 100);
        int before = 128;
        for (int key = 55; key <= 66; ++key) {
            const int falls = heardOn(e, 1, key, 100);
            const int rises = heardOn(e, 2, key, 100);
            QVERIFY(falls > 0 && rises > 0 && falls < before);
            before = falls;
            const double power = std::pow(falls / 100.0, 4) + std::pow(rises / 100.0, 4);
            QVERIFY2(std::abs(power - 1) < 0.05,
                     qPrintable(QStringLiteral("key %1: %2").arg(key).arg(power)));
        }
        // Softer notes fade alike.
        QCOMPARE(heardOn(e, 1, 60, 50), (heardOn(e, 1, 60, 100) + 1) / 2);
        for (const Finding& finding : check(e)) QVERIFY(finding.severity == Severity::note);
    }

    void aCrossfadeByVelocityFadesTheLevel() {
        Ensemble e = two({0, 127, 1, 80}, {0, 127, 50, 127});
        QVERIFY(crossfade(e, "low", "high", Along::velocities, Fading::level));
        test::Feeder feeder(e);
        // Middle of 49 to 81 is 65: half of each, whose fourth root is 0.8409: floor(127 · 0.8409 + 0.5).
        QCOMPARE(feeder.feed({"0 keys 90 3C 41"}),
                 (std::vector<std::string>{"0 low B0 0B 6B", "0 low 90 3C 41", "0 high B1 0B 6B",
                                           "0 high 91 3C 41"}));
    }

    /// Two that only touch are made to overlap by an octave.
    void whatTouchesIsMadeToOverlap() {
        Ensemble e = two({36, 59, 1, 127}, {60, 84, 1, 127});
        QVERIFY(crossfade(e, "low", "high", Along::keys, Fading::velocity));
        QCOMPARE(overlapOf(areaOf(e.instruments[0]), areaOf(e.instruments[1]), Along::keys),
                 std::optional(Overlap{54, 65}));
        QVERIFY(!crossfade(e, "low", "high", Along::velocities, Fading::velocity));
        QVERIFY(!crossfade(e, "low", "nobody", Along::keys, Fading::velocity));
    }

    /// The windows stay over the overlap when areas are moved, transposed ones too; apart and together again
    /// they fade again; what a person has changed by hand is left alone.
    void fadesFollowTheirOverlap() {
        Ensemble e = two({36, 66, 1, 127}, {55, 84, 1, 127});
        e.instruments[1].input.transpose = 12;
        QVERIFY(crossfade(e, "low", "high", Along::keys, Fading::velocity));
        layering::place(e, "high", {50, 84, 1, 127});
        const auto window = [&e](std::size_t instrument) {
            return numberOf(e.instruments[instrument].chains.back().steps[0], 0);
        };
        QCOMPARE(window(0), 49 / 127.0);
        QCOMPARE(window(1), 61 / 127.0);
        QCOMPARE(fadesOf(e).size(), std::size_t{2});
        e.instruments[0].chains.back().steps[0].values[0] = 0.1;
        layering::place(e, "high", {52, 84, 1, 127});
        QCOMPARE(window(0), 0.1);
        QCOMPARE(window(1), 63 / 127.0);
    }

    /// Apart they do not fade, and each sounds as struck; together again they do, edit by edit.
    void apartAndTogetherAgain() {
        Ensemble e = two({36, 66, 1, 127}, {55, 84, 1, 127});
        QVERIFY(crossfade(e, "low", "high", Along::keys, Fading::velocity));
        const Ensemble faded = e;
        layering::place(e, "high", {70, 99, 1, 127});
        QCOMPARE(heardOn(e, 1, 66, 100), 100);
        QCOMPARE(heardOn(e, 2, 70, 100), 100);
        layering::place(e, "high", {68, 97, 1, 127});
        QCOMPARE(heardOn(e, 2, 68, 100), 100);
        layering::place(e, "high", {55, 84, 1, 127});
        QVERIFY(e == faded);
    }

    /// On the way of a drag one may lie inside the other, where nobody can say which is the lower.
    void aDragMayPassThroughTheOther() {
        Ensemble e = two({36, 66, 1, 127}, {55, 84, 1, 127});
        QVERIFY(crossfade(e, "low", "high", Along::keys, Fading::velocity));
        const Ensemble faded = e;
        const std::vector<Fade> fades = fadesOf(e);
        for (const int from : {40, 30, 50, 75, 55})
            layering::place(e, "high", {from, from + 29, 1, 127}, fades);
        QVERIFY(e == faded);
    }

    void removingTakesTheFadesAndNothingElse() {
        Ensemble e = two({36, 66, 1, 127}, {55, 84, 1, 127});
        const std::size_t chains = e.instruments[0].chains.size();
        QVERIFY(crossfade(e, "low", "high", Along::keys, Fading::level));
        QCOMPARE(e.instruments[0].chains.size(), chains + 1);
        // Anew is not twice.
        QVERIFY(crossfade(e, "low", "high", Along::keys, Fading::level));
        QCOMPARE(e.instruments[0].chains.size(), chains + 1);
        removeCrossfade(e, "high", "low", Along::keys);
        QCOMPARE(e.instruments[0].chains.size(), chains);
        QCOMPARE(e.instruments[1].chains.size(), chains);
        QVERIFY(fadesOf(e).empty());
    }
};

QTEST_APPLESS_MAIN(LayeringTest)
#include "layering.moc"
