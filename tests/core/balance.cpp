// Balance: instruments whose loudness is a known function of what they are sent are measured, and levelled,
// and measured again; what was made elsewhere is laid over its sweep by its click.
#include <rapidcheck.h>
#include <QtTest>
#include <cmath>

#include "core/balance/curve_folder.h"
#include "core/balance/levelling.h"
#include "core/balance/motions.h"
#include "core/balance/recorded.h"
#include "core/balance/trunk.h"
#include "core/describe/sentence.h"
#include "core/reuse/parts.h"
#include "core/steps/step.h"
#include "core/store/instrument_state.h"
#include "core/store/part_json.h"
#include "support/build.h"
#include "support/known_synth.h"

using namespace mellow;
using namespace mellow::balance;
using test::KnownSynth;

namespace {

/// Mod wheel to expression, and a volume that nothing moves.
Ensemble swelling() {
    Instrument one = test::instrument("one");
    one.parameters.push_back(test::ccParameter("volume", 7));
    one.chains.push_back(test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
    return test::ensemble({one});
}

SweepPlan along(const Source& source, int positions = 24) {
    SweepPlan plan;
    plan.instrument = "one";
    plan.motion = motionOf(source);
    plan.positions = positions;
    return plan;
}

/// Louder with expression and volume, from −8 dB of full scale down.
KnownSynth loudBy(const std::function<double(const KnownSynth::Heard&)>& more = {}) {
    KnownSynth synth;
    synth.level = [more](const KnownSynth::Heard& heard) {
        return -8 + KnownSynth::attenuation(heard.controls[7]) + KnownSynth::attenuation(heard.controls[11]) +
               (more ? more(heard) : 0);
    };
    return synth;
}

Measure by(const KnownSynth& synth, int* count = nullptr) {
    return [&synth, count](const Ensemble& ensemble, const SweepPlan& plan, const std::string&) {
        if (count != nullptr) ++*count;
        return synth.measure(ensemble, plan);
    };
}

LevelWish wishFor(const SweepPlan& plan, const Goal& goal = {}) {
    LevelWish wish;
    wish.plan = plan;
    wish.parameter = "volume";
    wish.goal = goal;
    return wish;
}

Goal line(std::vector<std::pair<double, double>> points) {
    Goal goal;
    goal.kind = Goal::Kind::line;
    goal.points = std::move(points);
    return goal;
}

/// LU from the goal at worst, measured by somebody else once more.
double offGoal(const Levelled& levelled, const LevelWish& wish, const KnownSynth& synth) {
    const auto curve = synth.measure(levelled.ensemble, wish.plan);
    const auto mean = meanOf(*curve);
    double off = 0;
    for (const auto& [position, level] : levelled.goal) {
        const bool hasRoom =
            std::none_of(levelled.noRoom.begin(), levelled.noRoom.end(),
                         [at = position](const NoRoom& each) { return at >= each.from && at <= each.to; });
        if (hasRoom) off = std::max(off, std::abs(loudnessAt(mean, position).value_or(-200) - level));
    }
    return off;
}

QString toQt(const std::string& text) {
    return QString::fromStdString(text);
}

}  // namespace

class BalanceTest : public QObject {
    Q_OBJECT

 private slots:
    /// A case measures five sweeps, and takes most of a second.
    void initTestCase() { qputenv("RC_PARAMS", "max_success=15"); }

    void whatIsMeasuredIsWhatSounds() {
        const KnownSynth synth = loudBy();
        const auto curve = synth.measure(swelling(), along(test::ccSource(1)));
        QVERIFY2(curve, qPrintable(curve ? QString() : toQt(curve.problem().sentence())));
        QCOMPARE(curve->keys.size(), std::size_t{1});
        const auto& points = curve->keys[0].points;
        QCOMPARE(points.size(), std::size_t{24});
        QVERIFY(!points.front().heard.loudness);
        for (const CurvePoint& each : points) {
            const int value = static_cast<int>(std::lround(each.position * 127));
            const double level = -8 + KnownSynth::attenuation(value);
            if (level < -70) continue;
            QVERIFY(each.heard.loudness.has_value());
            QVERIFY2(
                std::abs(*each.heard.loudness - level) < 0.1,
                qPrintable(QStringLiteral("%1: %2, not %3").arg(value).arg(*each.heard.loudness).arg(level)));
            QVERIFY(std::abs(each.heard.peak - level) < 0.3);
            QVERIFY2(std::abs(each.heard.centroid - 997) < 60,
                     qPrintable(QString::number(each.heard.centroid)));
            QVERIFY(!each.heard.dies);
        }
    }

    void fiveNumbersOfACurve() {
        std::vector<CurvePoint> points;
        for (int i = 0; i <= 10; ++i) {
            CurvePoint point;
            point.position = i / 10.0;
            if (i > 0) point.heard.loudness = -40 + 2 * i - (i == 6 ? 5 : 0);
            point.heard.peak = -20 + i;
            points.push_back(point);
        }
        const Readout readout = readoutOf(points);
        QVERIFY(!readout.rest);
        QCOMPARE(*readout.half, -30.0);
        QCOMPARE(*readout.full, -20.0);
        QCOMPARE(readout.range, 18.0);
        QCOMPARE(readout.bump, 3.0);
        QCOMPARE(readout.bumpAt, 0.6);
        QCOMPARE(readout.peak, -10.0);
        QCOMPARE(readout.quiet, std::size_t{1});
        QVERIFY(!loudnessAt(points, 0.05));
        QCOMPARE(*loudnessAt(points, 0.15), -37.0);
    }

    /// Each of them puts its own message into the instrument.
    void everythingThatMovesCanBeMeasured_data() {
        QTest::addColumn<QString>("words");
        for (const char* words : {"cc 1", "14-bit cc 1", "bend", "pressure", "key pressure", "velocity",
                                  "keys", "rpn 5", "nrpn 300", "osc /tilt", "desk pad y", "tie line storm",
                                  "control north keys wheel", "parameter volume"})
            QTest::newRow(words) << QString::fromLatin1(words);
    }
    void everythingThatMovesCanBeMeasured() {
        QFETCH(QString, words);
        Ensemble e = swelling();
        e.tieLines.push_back({"storm", "Storm", 0, {}});
        DeskPage page;
        page.id = "page";
        DeskElement pad;
        pad.id = "pad";
        pad.kind = ElementKind::pad;
        page.elements.push_back(pad);
        e.desk.pages.push_back(page);
        Controller north;
        north.id = "north keys";
        ControllerControl wheel;
        wheel.id = "wheel";
        wheel.message.kind = MessageKind::cc;
        wheel.message.number = 9;
        north.controls.push_back(wheel);
        e.controllers.push_back(north);
        const auto motion = parseMotion(e, e.instruments[0], words.toStdString());
        QVERIFY2(motion, qPrintable(motion ? QString() : toQt(motion.problem().sentence())));
        QCOMPARE(toQt(printMotion(*motion)), words);
        SweepPlan plan;
        plan.instrument = "one";
        plan.motion = *motion;
        plan.positions = 9;
        if (isKeys(plan.motion)) plan.keys = {36, 96};
        Instrument& one = e.instruments[0];
        if (motion->parameter.empty()) {
            one.chains[0].source = motion->source;
        } else {
            one.chains.clear();
        }
        // Silent at 0, loud at the top: what is moved arrives, through the chain, as it should.
        const KnownSynth synth = loudBy();
        const auto curve = synth.measure(e, plan);
        QVERIFY2(curve, qPrintable(curve ? QString() : toQt(curve.problem().sentence())));
        const auto& points = curve->keys[0].points;
        QVERIFY(points.size() >= 8);
        for (std::size_t i = 1; i < points.size(); ++i) {
            const double level =
                -8 + KnownSynth::attenuation(static_cast<int>(points[i].position * 127 + 0.5));
            if (level > -60) QVERIFY2(std::abs(*points[i].heard.loudness - level) < 0.4, qPrintable(words));
        }
    }

    /// At second hand, too: a wheel that writes the tie line that a chain follows. What moves by itself, and
    /// what leads to others, is not offered.
    void whatAnInstrumentIsMovedBy() {
        Ensemble e = swelling();
        e.tieLines.push_back({"storm", "Storm", 0, {}});
        Source storm = makeSource(SourceKind::tieLine);
        storm.tieLine = "storm";
        Instrument& one = e.instruments[0];
        one.chains.push_back(test::chain("gale", storm, {}, {test::branch("tone", 0, 127)}));
        one.chains.push_back(
            test::chain("sway", makeSource(SourceKind::lfo), {}, {test::branch("tone", 0, 127)}));
        e.instruments.push_back(test::instrument("two", 2));
        e.sharedChains.push_back(
            test::chain("whirl", test::ccSource(21), {}, {test::branch("tieLine:storm", 0, 1)}));
        e.sharedChains.push_back(
            test::chain("reach", test::ccSource(22), {}, {test::branch("one/expression", 0, 127)}));
        e.sharedChains.push_back(
            test::chain("other", test::ccSource(23), {}, {test::branch("two/expression", 0, 127)}));
        QStringList words;
        for (const Motion& each : motionsOf(e, "one")) words << toQt(printMotion(each));
        QCOMPARE(words, QStringList({"cc 1", "tie line storm", "cc 21", "cc 22", "velocity", "keys",
                                     "parameter volume", "parameter expression", "parameter tone"}));
        QVERIFY(motionsOf(e, "none").empty());
    }

    void whatCannotBeMovedIsSaid() {
        Ensemble e = swelling();
        for (const char* words : {"", "nothing", "cc 128", "tie line none", "desk none x", "parameter none",
                                  "control none", "control none none", "key"}) {
            const auto motion = parseMotion(e, e.instruments[0], words);
            QVERIFY2(!motion, words);
        }
        for (const SourceKind kind :
             {SourceKind::lfo, SourceKind::walk, SourceKind::key, SourceKind::relative,
              SourceKind::releaseVelocity, SourceKind::program}) {
            const auto sweep = sweepOf(e, along(makeSource(kind)));
            QVERIFY(!sweep);
            QVERIFY(sweep.problem().what.find("cannot be measured along") != std::string::npos);
        }
        SweepPlan plan = along(test::ccSource(1));
        plan.keys = {};
        QVERIFY(!sweepOf(e, plan));
        plan.keys = {60};
        plan.hold = 399'999;
        QVERIFY(!sweepOf(e, plan));
        SweepPlan nobody = along(test::ccSource(1));
        nobody.instrument = "none";
        QVERIFY(!sweepOf(e, nobody));
        e.instruments[0].input.channel = 2;
        Source elsewhere = test::ccSource(1);
        elsewhere.channel = 3;
        QVERIFY(!sweepOf(e, along(elsewhere)));
    }

    /// What is too quiet is no number, and what dies away is told.
    void quietAndDying() {
        KnownSynth synth = loudBy();
        synth.fall = 40;
        auto curve = synth.measure(swelling(), along(test::ccSource(1), 8));
        QVERIFY(readoutOf(curve->keys[0].points).dying > 4);
        QVERIFY(toQt(doubtsAbout(*curve).back()).contains(QStringLiteral("dies away")));
        synth = loudBy([](const auto&) { return -90.0; });
        curve = synth.measure(swelling(), along(test::ccSource(1), 8));
        QCOMPARE(readoutOf(curve->keys[0].points).quiet, std::size_t{8});
        QCOMPARE(doubtsAbout(*curve).size(), std::size_t{1});
        QVERIFY(toQt(doubtsAbout(*curve)[0]).contains(QStringLiteral("nothing is heard")));
    }

    /// A chain that makes it brighter and so louder, in a way of its own, is levelled by volume.
    void levelled() {
        Ensemble e = swelling();
        e.instruments[0].chains[0].branches[0] = test::branch("tone", 0, 127);
        const KnownSynth synth = loudBy([](const KnownSynth::Heard& heard) {
            const double x = heard.controls[74] / 127.0;
            return -18 + 12 * x + 2.5 * std::sin(9 * x);
        });
        const LevelWish wish = wishFor(along(test::ccSource(1), 32));
        int measured = 0;
        const auto levelled = level(e, wish, by(synth, &measured));
        QVERIFY2(levelled, qPrintable(levelled ? QString() : toQt(levelled.problem().sentence())));
        QCOMPARE(levelled->chain, std::string("swell"));
        QVERIFY(levelled->offBefore > 4);
        QVERIFY2(levelled->off <= 0.5, qPrintable(QString::number(levelled->off)));
        QVERIFY(std::abs(offGoal(*levelled, wish, synth) - levelled->off) < 0.01);
        QVERIFY2(levelled->points <= 12, qPrintable(QString::number(levelled->points)));
        QVERIFY(levelled->noRoom.empty());
        QVERIFY(measured >= 4 && measured <= 7);
        // Nothing but one branch has come.
        Ensemble without = levelled->ensemble;
        without.instruments[0].chains[0].branches.pop_back();
        QVERIFY(without == e);
        const Branch& branch = levelled->ensemble.instruments[0].chains[0].branches[1];
        QCOMPARE(branch.target, std::string("volume"));
        QCOMPARE(branch.steps.size(), std::size_t{1});
        QCOMPARE(pointsOf(branch.steps[0], 0).size(), levelled->points);
        const auto sentences = sentencesOf(*levelled, wish);
        QVERIFY(toQt(sentences[0]).startsWith(QStringLiteral("Mod wheel, drawn in")));
        QVERIFY(toQt(sentences[1]).contains(QStringLiteral("LU, was")));
        // Levelled again it stays as it is, and no second branch comes.
        const auto again = level(levelled->ensemble, wish, by(synth));
        QVERIFY(again);
        QCOMPARE(again->ensemble.instruments[0].chains[0].branches.size(), std::size_t{2});
        QVERIFY(again->off <= 0.5);
    }

    /// Any smooth swell, by a parameter of any law and direction.
    void anySwellIsLevelled() {
        QVERIFY(rc::check("swells are levelled", [] {
            const auto within = [](int low, int high) { return *rc::gen::inRange(low, high + 1) / 10.0; };
            const double rise = within(-120, 120);
            const double wave = within(0, 30);
            const double turns = within(10, 80);
            const double curve = within(3, 30);
            const bool falls = *rc::gen::arbitrary<bool>();
            KnownSynth synth;
            synth.rate = 16000;
            synth.level = [=](const KnownSynth::Heard& heard) {
                const double x = heard.controls[74] / 127.0;
                const double raw = heard.controls[7] / 127.0;
                const double gain = falls ? 1 - raw : raw;
                return -26 + rise * x + wave * std::sin(turns * x) + 24 * (std::pow(gain, curve) - 1);
            };
            Ensemble e = swelling();
            e.instruments[0].chains[0].branches[0] = test::branch("tone", 0, 127);
            e.instruments[0].chains[0].steps.push_back(test::step("bend", {within(-8, 8)}));
            LevelWish wish = wishFor(along(test::ccSource(1), 24));
            wish.ceiling = within(-300, 60);
            const auto levelled = level(e, wish, by(synth));
            RC_ASSERT(static_cast<bool>(levelled));
            // Where the parameter reaches low enough, no position is above the peak.
            double lowest = -100;
            for (int value = 0; value < 128; ++value) {
                const double x = value / 127.0;
                lowest = std::max(lowest, -50 + rise * x + wave * std::sin(turns * x));
            }
            RC_ASSERT(levelled->peak <= std::max(wish.ceiling, lowest) + 0.2);
            // Where one step of the parameter is more than the error asked for, no value comes nearer.
            const double step = 24 * (1 - std::pow(126.0 / 127, curve));
            const double allowed = std::max(0.5, 0.55 * step);
            if (levelled->off > allowed)
                RC_LOG() << levelled->off << " of " << levelled->offBefore << std::endl;
            RC_ASSERT(levelled->off <= allowed);
            RC_ASSERT(std::abs(offGoal(*levelled, wish, synth) - levelled->off) < 0.02);
        }));
    }

    void goalsAreFollowed() {
        Ensemble e = swelling();
        const KnownSynth synth = loudBy();
        LevelWish wish = wishFor(along(test::ccSource(1), 32), line({{0, -40}, {0.5, -34}, {1, -16}}));
        const auto levelled = level(e, wish, by(synth));
        QVERIFY(levelled);
        QVERIFY2(levelled->off <= 0.5, qPrintable(QString::number(levelled->off)));
        const auto mean = meanOf(levelled->after);
        QVERIFY(std::abs(*loudnessAt(mean, 1) + 16) < 0.5);
        QVERIFY(std::abs(*loudnessAt(mean, 0.75) + 25) < 0.7);
    }

    /// Louder at one key than at another: both together become as loud as it is at the one chosen.
    void asItIsAtAKey() {
        const KnownSynth synth =
            loudBy([](const KnownSynth::Heard& heard) { return heard.key < 60 ? -6.0 : -2.0; });
        SweepPlan plan = along(test::ccSource(1), 12);
        plan.keys = {48, 72};
        LevelWish wish = wishFor(plan);
        wish.goal.kind = Goal::Kind::asAtAKey;
        wish.goal.key = 48;
        const auto levelled = level(swelling(), wish, by(synth));
        QVERIFY2(levelled, qPrintable(levelled ? QString() : toQt(levelled.problem().sentence())));
        QVERIFY2(levelled->off <= 0.5, qPrintable(QString::number(levelled->off)));
        const auto mean = meanOf(levelled->after);
        for (const double place : {0.5, 0.75, 1.0}) {
            const double wanted = *loudnessAt(levelled->before.keys[0].points, place);
            QVERIFY(std::abs(*loudnessAt(mean, place) - wanted) <= 0.6);
            QVERIFY(std::abs(*loudnessAt(meanOf(levelled->before), place) - wanted) > 1.5);
        }
        wish.goal.key = 50;
        const auto none = level(swelling(), wish, by(synth));
        QVERIFY(!none);
        QVERIFY2(toQt(none.problem().sentence()).startsWith(QStringLiteral("D3: it is not among the keys")),
                 qPrintable(toQt(none.problem().sentence())));
    }

    /// Where there is no room it is said where, and how much is left.
    void noRoom() {
        const KnownSynth synth = loudBy();
        const LevelWish wish = wishFor(along(test::ccSource(1), 32), line({{0, -30}, {1, -10}}));
        const auto levelled = level(swelling(), wish, by(synth));
        QVERIFY(levelled);
        QCOMPARE(levelled->noRoom.size(), std::size_t{1});
        QVERIFY(levelled->noRoom[0].left > 10);
        QVERIFY(levelled->noRoom[0].to < 0.6);
        QVERIFY2(levelled->off <= 0.5, qPrintable(QString::number(levelled->off)));
        const auto sentences = roomSentences(*levelled, wish);
        QCOMPARE(sentences.size(), std::size_t{1});
        QVERIFY2(toQt(sentences[0]).startsWith(QStringLiteral("Up to ")), qPrintable(toQt(sentences[0])));
        QVERIFY(toQt(sentences[0]).endsWith(QStringLiteral("left there, too soft")));
        // Where there is none anywhere, nothing is claimed.
        const LevelWish high = wishFor(along(test::ccSource(1), 16), line({{0, 0}, {1, 0}}));
        const auto nowhere = level(swelling(), high, by(synth));
        QVERIFY(nowhere && nowhere->reached == 0);
        QCOMPARE(sentencesOf(*nowhere, high).size(), std::size_t{1});
        QVERIFY(toQt(roomSentences(*nowhere, high)[0])
                    .startsWith(QStringLiteral("Everywhere Volume has no room")) ||
                toQt(roomSentences(*nowhere, high)[0])
                    .startsWith(QStringLiteral("Everywhere volume has no room")));
        // A peak is no room either.
        LevelWish loud = wishFor(along(test::ccSource(1), 32), line({{0, -60}, {1, -8}}));
        loud.ceiling = -12;
        const auto held = level(swelling(), loud, by(synth));
        QVERIFY(held);
        QVERIFY2(held->peak <= -11.9, qPrintable(QString::number(held->peak)));
        QVERIFY(!held->noRoom.empty() && held->noRoom.back().to == 1);
    }

    void overKeysAndVelocities() {
        Ensemble e = swelling();
        e.instruments[0].chains.clear();
        const KnownSynth synth = loudBy([](const KnownSynth::Heard& heard) {
            return -10 - 0.15 * (heard.key - 60) + 10 * (heard.velocity / 127.0 - 1);
        });
        SweepPlan keys = along(makeSource(SourceKind::keyNumber), 25);
        keys.keys = {36, 84};
        const auto even = level(e, wishFor(keys), by(synth));
        QVERIFY2(even, qPrintable(even ? QString() : toQt(even.problem().sentence())));
        QVERIFY(even->offBefore > 3);
        QVERIFY2(even->off <= 0.5, qPrintable(QString::number(even->off)));
        const Chain& chain = even->ensemble.instruments[0].chains.back();
        QVERIFY(chain.source.kind == SourceKind::keyNumber && chain.keepOriginal);
        const auto flat = level(e, wishFor(along(makeSource(SourceKind::velocity), 25)), by(synth));
        QVERIFY(flat);
        QVERIFY(flat->off <= 0.5);
    }

    void whatCannotBeLevelledIsSaid() {
        const KnownSynth synth = loudBy();
        Ensemble e = swelling();
        LevelWish wish = wishFor(along(test::ccSource(1), 8));
        wish.parameter = "tone";
        auto none = level(e, wish, by(synth));
        QVERIFY(!none);
        QVERIFY(none.problem().what.find("does not change the level") != std::string::npos);
        wish.parameter = "no such";
        QVERIFY(!level(e, wish, by(synth)));
        wish.parameter = "volume";
        wish.chain = "none";
        QVERIFY(!level(e, wish, by(synth)));
        wish.chain.clear();
        e.instruments[0].chains.push_back(
            test::chain("fade", test::ccSource(2), {}, {test::branch("volume", 0, 127)}));
        // One that moves when it is moved is told of; one that the same hand moves would undo it.
        const auto told = level(e, wish, by(synth));
        QVERIFY(told);
        QCOMPARE(told->others, std::vector<std::string>{"fade"});
        e.instruments[0].chains.back().source = test::ccSource(1);
        none = level(e, wish, by(synth));
        QVERIFY(!none);
        QVERIFY(none.problem().what.find("moves it too") != std::string::npos);
        e = swelling();
        e.instruments[0].chains[0].fan.mode = FanMode::chosen;
        QVERIFY(!level(e, wish, by(synth)));
        e = swelling();
        wish.plan.motion = motionOfParameter("expression");
        QVERIFY(!level(e, wish, by(synth)));
    }

    /// A parameter that the instrument does not have yet comes with it.
    void aParameterIsMade() {
        Ensemble e = swelling();
        e.instruments[0].parameters.pop_back();
        LevelWish wish = wishFor(along(test::ccSource(1), 16));
        wish.parameter = "cc 7";
        const KnownSynth synth = loudBy();
        const auto levelled = level(e, wish, by(synth));
        QVERIFY(levelled);
        const Parameter& made = levelled->ensemble.instruments[0].parameters.back();
        QCOMPARE(made.id, levelled->parameter);
        QCOMPARE(made.message.number, 7);
        QVERIFY(!made.name.empty());
    }

    void throughTieLines() {
        Ensemble e = swelling();
        e.tieLines.push_back({"storm", "Storm", 0, {}});
        e.sharedChains.push_back(test::chain("in", test::ccSource(1), {test::step("reverse")},
                                             {test::branch("tieLine:storm", 0, 1)}));
        Source storm = makeSource(SourceKind::tieLine);
        storm.tieLine = "storm";
        e.instruments[0].chains[0].source = storm;
        const SweepPlan plan = along(test::ccSource(1), 9);
        QCOMPARE(chainMovedBy(e, e.instruments[0], plan), std::string("swell"));
        const auto trunk = trunkOver(e, "swell", plan);
        QVERIFY(trunk);
        QCOMPARE(trunk->size(), std::size_t{9});
        for (std::size_t i = 0; i < trunk->size(); ++i)
            QVERIFY(std::abs((*trunk)[i] - (1 - std::lround(127 * i / 8.0) / 127.0)) < 1e-6);
    }

    void goalsAreRead() {
        QVERIFY(parseGoal("flat"));
        QCOMPARE(*parseGoal("flat:-23.5")->level, -23.5);
        const auto read = parseGoal("line:-38,−20");
        QVERIFY(read);
        QCOMPARE(*read->at(0.5), -29.0);
        QCOMPARE(*parseGoal("line:0/-38,0.25/-30,1/-20")->at(0.25), -30.0);
        for (const char* words :
             {"", "flat:", "flat:x", "line:", "line:-3", "line:0.5/1,0.5/2", "line:2/1,3/1", "steep"})
            QVERIFY2(!parseGoal(words), words);
    }

    void measurementsAreFiles() {
        const KnownSynth synth = loudBy();
        SweepPlan plan = along(test::ccSource(1), 7);
        plan.keys = {48, 60};
        Curve curve = *synth.measure(swelling(), plan);
        curve.instrument = "one";
        curve.heardFrom = "the \"rack\"\n";
        curve.measured = "2026-11-30T12:00:00Z";
        curve.state = "0123456789abcdef";
        const auto read = readCurve(printCurve(curve));
        QVERIFY2(read, qPrintable(read ? QString() : toQt(read.problem().sentence())));
        QCOMPARE(printCurve(*read), printCurve(curve));
        QCOMPARE(read->keys.size(), std::size_t{2});
        QCOMPARE(read->heardFrom, curve.heardFrom);
        QCOMPARE(read->state, curve.state);
        QCOMPARE(keptAs(curve).state, curve.state);
        QCOMPARE(read->keys[1].points[3].heard.loudness.has_value(), true);
        const QByteArray whole = QByteArray::fromStdString(printCurve(curve));
        for (int i = 0; i < whole.size(); i += 7) (void)readCurve(whole.left(i).toStdString());
        for (const char* text :
             {"", "{}", "[]", "{\"kind\":\"measurement\"}",
              "{\"kind\":\"measurement\",\"keys\":[{\"points\":[[0.5,1,1,1],[0.5,1,1,1]]}]}",
              "{\"kind\":\"measurement\",\"keys\":[{\"points\":[[1e99,1,1,1]]}]}"})
            QVERIFY2(!readCurve(text), text);
        QCOMPARE(QString::fromStdString(printCsv(curve)).count(QLatin1Char('\n')), 15);
    }

    /// A part has no folder, so it carries the curve, through its text and back.
    /// What makes it louder or softer makes its measurements old, and nothing else does.
    void editsMakeMeasurementsOld() {
        Ensemble ensemble = swelling();
        ensemble.sharedChains.push_back(
            test::chain("storm", test::ccSource(2), {}, {test::branch("one/volume", 0, 127)}));
        KeptCurve kept;
        kept.instrument = "one";
        QVERIFY(!store::isOutdated(ensemble, kept));  // nobody said how it was
        kept.state = store::stateOf(ensemble, "one");
        QCOMPARE(kept.state.size(), std::size_t{16});
        QVERIFY(!store::isOutdated(ensemble, kept));
        const std::vector<std::function<void(Ensemble&)>> edits{
            [](Ensemble& e) { e.instruments[0].chains[0].branches[0].high = 100.0; },
            [](Ensemble& e) { e.instruments[0].chains[0].on = false; },
            [](Ensemble& e) {
                e.instruments[0].chains[0].steps.push_back(makeStep(*findStepKind("reverse")));
            },
            [](Ensemble& e) { e.instruments[0].parameters.back().message.number = 8; },
            [](Ensemble& e) { e.instruments[0].chains.clear(); },
            [](Ensemble& e) { e.sharedChains[0].branches[0].low = 10.0; },
            [](Ensemble& e) { e.sharedChains.clear(); },
            [](Ensemble& e) { e.instruments[0].pass.notes = false; },
            [](Ensemble& e) { e.instruments.clear(); }};
        for (std::size_t i = 0; i < edits.size(); ++i) {
            Ensemble edited = ensemble;
            edits[i](edited);
            QVERIFY2(store::isOutdated(edited, kept), qPrintable(QString::number(i)));
        }
        const std::vector<std::function<void(Ensemble&)>> others{
            [](Ensemble& e) { e.title = "Other"; },
            [](Ensemble& e) { e.instruments[0].name = "Other"; },
            [](Ensemble& e) { e.instruments[0].output.port = "Other rack"; },
            [](Ensemble& e) { e.instruments[0].chains[0].name = "Other"; },
            [](Ensemble& e) { e.instruments[0].chains[0].branches[0].note = "Other"; },
            [](Ensemble& e) { e.instruments[0].parameters.back().name = "Other"; },
            [](Ensemble& e) { e.sharedChains[0].name = "Other"; },
            [](Ensemble& e) { e.instruments.push_back(test::instrument("other")); }};
        for (std::size_t i = 0; i < others.size(); ++i) {
            Ensemble edited = ensemble;
            others[i](edited);
            QVERIFY2(!store::isOutdated(edited, kept), qPrintable(QString::number(i)));
        }
        // Under another id it is what it was.
        Ensemble moved = ensemble;
        moved.instruments[0].id = "two";
        moved.sharedChains[0].branches[0].target = "two/volume";
        QCOMPARE(store::stateOf(moved, "two"), kept.state);
    }

    void partsCarryCurves() {
        const auto curve = loudBy().measure(swelling(), along(test::ccSource(1), 8));
        Ensemble e = swelling();
        KeptCurve kept = keptAs(*curve);
        kept.id = "measured";
        kept.instrument = "one";
        kept.file = "measured.json";
        QVERIFY(kept.range && *kept.range > 20);
        QCOMPARE(kept.bump, std::optional(0.0));
        e.measurements.push_back(kept);
        kept.instrument = "another";
        e.measurements.push_back(kept);
        Part part = reuse::takeInstrument(e, "one");
        QCOMPARE(part.measurements.size(), std::size_t{1});
        carry(part.measurements[0], *curve);
        auto read = store::parsePart(store::printPart(part));
        QVERIFY(read);
        auto carried = takeCarried(read->measurements[0]);
        QVERIFY2(carried, qPrintable(carried ? QString() : toQt(carried.problem().sentence())));
        QCOMPARE(printCurve(*carried), printCurve(*curve));
        QVERIFY(read->measurements[0] == std::as_const(e.measurements)[0]);
        // Once it is taken it carries none any more, and neither does one that holds something else.
        QVERIFY(!takeCarried(read->measurements[0]));
        part.measurements[0].extras = {{"curve", "[1, 2]"}};
        QVERIFY(!takeCarried(part.measurements[0]));
        // Put, it is of the instrument that came of it.
        Ensemble other = swelling();
        const auto ids = reuse::putInstruments(other, *read);
        QCOMPARE(other.measurements.size(), std::size_t{1});
        QVERIFY(ids[0] != "one");
        QCOMPARE(std::as_const(other.measurements)[0].instrument, ids[0]);
    }

    /// What is rendered elsewhere lies over its sweep by its click, wherever it begins.
    void recordedElsewhere_data() {
        QTest::addColumn<double>("delay");
        QTest::addColumn<int>("rate");
        QTest::addColumn<int>("channels");
        QTest::newRow("at once") << 0.0 << 48000 << 2;
        QTest::newRow("late") << 3.217 << 44100 << 2;
        QTest::newRow("mono, coarse") << 0.5 << 22050 << 1;
    }
    void recordedElsewhere() {
        QFETCH(double, delay);
        QFETCH(int, rate);
        QFETCH(int, channels);
        SweepPlan plan = along(test::ccSource(1), 8);
        plan.click = true;
        const Ensemble e = swelling();
        const auto sweep = sweepOf(e, plan);
        const KnownSweep known = knownOf(e, plan, *sweep);
        const auto file = printSweep(*sweep, known);
        QVERIFY(file);
        const auto read = readSweep(*file);
        QVERIFY2(read, qPrintable(read ? QString() : toQt(read.problem().sentence())));
        QVERIFY(*read == known);
        KnownSynth synth = loudBy();
        synth.delay = delay;
        synth.rate = rate;
        synth.channels = channels;
        const Sound sound = synth.play(*sweep);
        const auto click = findClick(sound);
        QVERIFY2(click, qPrintable(click ? QString() : toQt(click.problem().sentence())));
        QVERIFY(std::abs(static_cast<double>(*click) / rate - delay - 0.5) < 0.001);
        const auto curve = measureRecorded(sound, *read, {});
        QVERIFY2(curve, qPrintable(curve ? QString() : toQt(curve.problem().sentence())));
        const auto& points = curve->keys[0].points;
        for (std::size_t i = 2; i < points.size(); ++i) {
            const double level =
                -8 + KnownSynth::attenuation(static_cast<int>(std::lround(points[i].position * 127)));
            QVERIFY(std::abs(*points[i].heard.loudness - level + (channels == 1 ? 3.01 : 0)) < 0.1);
        }
        QCOMPARE(curve->moved, std::string("cc 1"));
    }

    void recordingsThatCannotBe() {
        SweepPlan plan = along(test::ccSource(1), 8);
        plan.click = true;
        const Ensemble e = swelling();
        const auto sweep = sweepOf(e, plan);
        const KnownSweep known = knownOf(e, plan, *sweep);
        const KnownSynth synth = loudBy();
        const Sound whole = synth.play(*sweep);
        Sound half = whole;
        half.samples.resize(half.samples.size() / 2);
        const auto tooShort = measureRecorded(half, known, {});
        QVERIFY(!tooShort);
        QVERIFY(tooShort.problem().what.find("before the sweep does") != std::string::npos);
        Sound silent = whole;
        std::fill(silent.samples.begin(), silent.samples.end(), 0.0F);
        QVERIFY(!measureRecorded(silent, known, {}));
        QVERIFY(!measureRecorded(Sound{}, known, {}));
        SweepPlan plain = plan;
        plain.click = false;
        const auto unclicked = sweepOf(e, plain);
        const Sound without = synth.play(*unclicked);
        const KnownSweep unknown = knownOf(e, plain, *unclicked);
        QVERIFY(!measureRecorded(without, unknown, {}));
        QVERIFY(measureRecorded(without, unknown, 0));
        Sound steady = whole;
        for (std::size_t i = 0; i < steady.samples.size(); ++i)
            steady.samples[i] = i % 40 < 20 ? 0.5F : -0.5F;
        const auto noClick = measureRecorded(steady, known, {});
        QVERIFY(!noClick);
        QVERIFY(noClick.problem().what.find("no click") != std::string::npos);
        QVERIFY(!readSweep(test::bytes("00 01")));
        const QByteArray other = test::sourceFile(QStringLiteral("data/demo/barometer-falls.mid"));
        QVERIFY(!readSweep(midi::Bytes(reinterpret_cast<const std::uint8_t*>(other.data()),
                                       static_cast<std::size_t>(other.size()))));
    }
};

QTEST_GUILESS_MAIN(BalanceTest)
#include "balance.moc"
