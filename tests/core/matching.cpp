// Matching: one instrument's loudness along a gesture becomes the goal of others, each in its own way.
#include "core/balance/matching.h"

#include <QtTest>
#include <cmath>

#include "core/balance/motions.h"
#include "core/model/resolve.h"
#include "support/build.h"
#include "support/known_synth.h"

using namespace mellow;
using namespace mellow::balance;
using test::KnownSynth;

namespace {

/// Mod wheel to expression, and a volume that nothing moves.
Instrument swelling(const std::string& id) {
    Instrument one = test::instrument(id);
    one.parameters.push_back(test::ccParameter("volume", 7));
    one.chains.push_back(test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
    return one;
}

/// Two that a wheel moves, of which one is louder, and steeper, and one that it does not.
Ensemble three() {
    Instrument still = test::instrument("still");
    still.chains.clear();
    return test::ensemble({swelling("leads"), swelling("follows"), still});
}

LevelWish alongTheWheel() {
    LevelWish wish;
    wish.chain = "swell";
    wish.plan.instrument = "leads";
    wish.plan.motion = motionOf(test::ccSource(1));
    wish.plan.positions = 24;
    wish.plan.keys = {67};
    wish.plan.settle = 123'000;
    wish.parameter = "volume";
    return wish;
}

/// What was measured, and the loudness of each as a function of what it is sent.
struct Studio {
    std::vector<SweepPlan> asked;
    double leadsAt = -14;

    Result<Curve> measure(const Ensemble& ensemble, const SweepPlan& plan) {
        asked.push_back(plan);
        const bool leads = plan.instrument == "leads";
        KnownSynth synth;
        synth.level = [this, leads](const KnownSynth::Heard& heard) {
            const double swell = KnownSynth::attenuation(heard.controls[11]);
            const double volume = KnownSynth::attenuation(heard.controls[7]);
            return leads ? leadsAt + swell / 2 : -6 + swell + volume;
        };
        return synth.measure(ensemble, plan);
    }
    Measure asMeasure() {
        return [this](const Ensemble& ensemble, const SweepPlan& plan, const std::string&) {
            return measure(ensemble, plan);
        };
    }
};

}  // namespace

class MatchingTest : public QObject {
    Q_OBJECT

 private slots:
    /// Keys and settling that were set for the one that leads are its own, and others have theirs.
    void eachInItsOwnWay() {
        const Ensemble ensemble = three();
        const LevelWish wish = alongTheWheel();
        const LevelWish same = balance::wishFor(ensemble, wish, "leads");
        QCOMPARE(same.plan.keys, wish.plan.keys);
        QCOMPARE(same.plan.settle, wish.plan.settle);
        QCOMPARE(same.chain, wish.chain);
        const LevelWish other = balance::wishFor(ensemble, wish, "follows");
        QCOMPARE(other.plan.instrument, std::string("follows"));
        QCOMPARE(other.plan.keys, usualKeys(ensemble.instruments[1], wish.plan.motion));
        QCOMPARE(other.plan.settle, settleFor(&ensemble.instruments[1].chains[0]));
        QCOMPARE(other.plan.positions, wish.plan.positions);
        QVERIFY(other.chain.empty());
    }

    void theVolumeOfAnInstrument() {
        Instrument one = test::instrument("one");
        QCOMPARE(volumeOf(one), std::string("cc 7"));
        one.parameters.push_back(test::ccParameter("loud", 7));
        QCOMPARE(volumeOf(one), std::string("loud"));
    }

    void loudnessAsAGoal() {
        Studio studio;
        const auto curve = studio.measure(three(), alongTheWheel().plan);
        QVERIFY(curve);
        const auto goal = goalFrom(*curve);
        QVERIFY(goal);
        QVERIFY(goal->kind == Goal::Kind::line);
        for (const CurvePoint& each : meanOf(*curve)) {
            if (!each.heard.loudness) continue;
            const auto there = goal->at(each.position);
            QVERIFY(there && std::abs(*there - *each.heard.loudness) < 1e-9);
        }
        studio.leadsAt = -160;
        const auto silence = studio.measure(three(), alongTheWheel().plan);
        QVERIFY(silence && !goalFrom(*silence));
    }

    /// Measured once more by somebody else, it is as loud as the one that leads wherever there is room.
    void matched() {
        Studio studio;
        const Ensemble ensemble = three();
        const auto made =
            match(ensemble, alongTheWheel(), {"follows", "still", "nobody"}, studio.asMeasure());
        QVERIFY(made);
        QCOMPARE(studio.asked.front().keys, alongTheWheel().plan.keys);
        // What cannot be moved by the wheel gets a chain of its own, or is named.
        QCOMPARE(made->levelled.size() + made->troubles.size(), std::size_t{2});
        const auto& [levelled, wish] = made->levelled.front();
        QCOMPARE(wish.plan.instrument, std::string("follows"));
        const auto leads = studio.measure(ensemble, alongTheWheel().plan);
        const auto follows = studio.measure(levelled.ensemble, wish.plan);
        QVERIFY(leads && follows);
        int compared = 0;
        for (const CurvePoint& each : meanOf(*follows)) {
            const auto wanted = loudnessAt(meanOf(*leads), each.position);
            const bool hasRoom = std::none_of(
                levelled.noRoom.begin(), levelled.noRoom.end(),
                [&](const NoRoom& no) { return each.position >= no.from && each.position <= no.to; });
            if (!hasRoom || !wanted || !each.heard.loudness) continue;
            ++compared;
            QVERIFY2(std::abs(*wanted - *each.heard.loudness) <= 0.6,
                     qPrintable(QStringLiteral("%1: %2, wanted %3")
                                    .arg(each.position)
                                    .arg(*each.heard.loudness)
                                    .arg(*wanted)));
        }
        QVERIFY2(compared > 8, qPrintable(QString::number(compared)));
        // The one that leads is as it was.
        QVERIFY(*findById(levelled.ensemble.instruments, "leads") == ensemble.instruments[0]);
    }

    void whatCannotLeadIsSaid() {
        Studio studio;
        studio.leadsAt = -160;
        const auto silent = match(three(), alongTheWheel(), {"follows"}, studio.asMeasure());
        QVERIFY(!silent);
        QCOMPARE(studio.asked.size(), std::size_t{1});
        const auto broken = match(three(), alongTheWheel(), {"follows"},
                                  [](const Ensemble&, const SweepPlan&, const std::string&) -> Result<Curve> {
                                      return Problem{"the rack", "it is gone", "open it again"};
                                  });
        QVERIFY(!broken);
        QCOMPARE(broken.problem().where, std::string("the rack"));
    }
};

QTEST_GUILESS_MAIN(MatchingTest)
#include "matching.moc"
