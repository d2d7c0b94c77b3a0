// Each step against its formula in the signal rules (section 2), written out here a second time.
#include <rapidcheck.h>
#include <QtTest>
#include <cmath>

#include "core/steps/step.h"
#include "core/steps/typed.h"
#include "support/build.h"

using namespace mellow;
using test::step;

namespace {

Step points(std::vector<Point> list, int join) {
    Step made = makeStep(*findStepKind("points"));
    made.values = {std::move(list), join};
    return made;
}

/// What a step with memory gives, input by input, all at time 0.
std::vector<double> outputs(const Step& step, const std::vector<double>& inputs) {
    StepState state;
    std::vector<double> found;
    for (const double input : inputs) {
        step.kind->take(step, state, input, 0);
        found.push_back(state.output);
    }
    return found;
}

/// What smooth gives for one input, grid point by grid point.
std::vector<double> glide(const Step& step, double from, double to, int count) {
    StepState state;
    step.kind->take(step, state, from, 0);
    step.kind->take(step, state, to, 0);
    std::vector<double> outputs{state.output};
    for (int i = 0; i < count; ++i) {
        step.kind->tick(step, state, i * 1000);
        outputs.push_back(state.output);
    }
    return outputs;
}

}  // namespace

class StepsTest : public QObject {
    Q_OBJECT

 private slots:
    void window() {
        QCOMPARE(shapePosition(step("window", {0.25, 0.75}), 0.5), 0.5);
        QCOMPARE(shapePosition(step("window", {0.25, 0.75}), 0.1), 0.0);
        QCOMPARE(shapePosition(step("window", {0.75, 0.25}), 0.25), 1.0);
        QCOMPARE(shapePosition(step("window", {0.5, 0.5}), 0.5), 1.0);
        QCOMPARE(shapePosition(step("window", {0.5, 0.5}), 0.499), 0.0);
    }

    /// A name, and what its numbers are to be.
    void typed() {
        const auto made = [](const char* kind, const char* text) {
            return stepAsTyped(*findStepKind(kind), typedStep(text));
        };
        QCOMPARE(typedStep("dead zone 50 10").words, std::string("dead zone"));
        QCOMPARE(typedStep("s-curve 1/2").words, std::string("s-curve"));
        QCOMPARE(typedStep("smooth 200 ms 1.5 s").values, (std::vector<std::string>{"200 ms", "1.5 s"}));
        QVERIFY(*made("limit", "limit 0 70") == step("limit", {0.0, 0.7}));
        QVERIFY(*made("limit", "limit 10% 70%") == step("limit", {0.1, 0.7}));
        QVERIFY(*made("window", "window 50 0") == step("window", {0.5, 0.0}));
        QVERIFY(*made("bend", "bend -0.5") == step("bend", {-0.5}));
        QVERIFY(*made("bend", "bend \u22120.5") == step("bend", {-0.5}));
        QCOMPARE(numberOf(*made("smooth", "smooth 200 ms 1.5 s"), 1), 1500.0);
        QCOMPARE(textOf(*made("formula", "formula min(x, 1 - x)"), 0), std::string("min(x, 1 - x)"));
        QVERIFY(*made("smooth", "smooth") == makeStep(*findStepKind("smooth")));
        // More than it has, beyond what it takes, and no numbers.
        for (const char* text :
             {"limit 1 2 3", "limit 70 0", "limit 0 101", "limit 1x", "limit 1/0", "limit -"})
            QVERIFY2(!made("limit", text), text);
        QVERIFY(!made("reverse", "reverse 3"));
        QVERIFY(!made("formula", "formula 1+"));
        QVERIFY(!made("levels", "levels 1"));
    }

    /// Whatever is typed is no step or one that can run.
    void typedAnything() {
        QVERIFY(rc::check([] {
            const auto text = *rc::gen::container<std::string>(
                rc::gen::elementOf(std::string("limt 0123456789.-+*/()%xk\xE2\x88\x92")));
            for (const StepKind* kind : stepKinds()) {
                const auto made = stepAsTyped(*kind, typedStep(text));
                const bool canRun = !made || *made == makeStep(*kind) || flawOf(*made).empty();
                RC_ASSERT(canRun);
            }
        }));
    }

    /// What a step says of itself, and what it says is wrong with it, at the values where that changes.
    void words_data() {
        QTest::addColumn<Step>("said");
        QTest::addColumn<QString>("phrase");
        QTest::addColumn<QString>("flaw");
        int number = 0;
        const auto row = [&number](const Step& said, const char* phrase, const char* flaw = "") {
            QTest::addRow("%d %s", ++number, said.kind->name.data())
                << said << QString::fromUtf8(phrase) << QString::fromUtf8(flaw);
        };
        const auto choosing = [](const char* kind, int choice) {
            Step made = makeStep(*findStepKind(kind));
            made.values[0] = choice;
            return made;
        };
        const auto levels = [](double count, double hysteresis, std::vector<std::string> names) {
            Step made = makeStep(*findStepKind("levels"));
            made.values = {count, hysteresis, std::move(names)};
            return made;
        };
        const auto formula = [](std::string text) {
            Step made = makeStep(*findStepKind("formula"));
            made.values = {std::move(text)};
            return made;
        };
        row(step("window", {0, 1}), "");
        row(step("window", {0.25, 0.5}), "25 %–50 %");
        row(step("window", {0.5, 0.25}), "25 %–50 % turned round");
        row(step("window", {0.5, 0.5}), "on from 50 %");
        row(step("window", {0, 0.5}), "0 %–50 %");
        row(step("reverse"), "reversed");
        row(step("bend", {0}), "");
        row(step("bend", {0.14}), "slightly eased in");
        row(step("bend", {0.15}), "eased in");
        row(step("bend", {0.6}), "eased in");
        row(step("bend", {-0.61}), "strongly quick at first");
        row(step("bend", {1.01}), "strongly eased in", "amount 1.01 is outside −1 to 1");
        row(step("sCurve", {0}), "");
        row(step("sCurve", {0.1}), "gentle at both ends");
        row(step("sCurve", {-0.1}), "gentle in the middle");
        row(step("restAt", {0.5, 0.5}), "");
        row(step("restAt", {0.5, 0.25}), "resting 50 % at 25 %");
        row(step("restAt", {0, 0.25}), "resting 0 % at 25 %", "both places must lie between 0 % and 100 %");
        row(step("restAt", {0.5, 1}), "resting 50 % at 100 %", "both places must lie between 0 % and 100 %");
        row(step("deadZone", {0.5, 0}), "");
        row(step("deadZone", {0.5, 0.1}), "dead from 45 % to 55 %");
        row(step("deadZone", {0, 0.1}), "dead from 0 % to 5 %");
        row(step("deadZone", {1, 0.1}), "dead from 95 % to 100 %");
        row(step("deadZone", {1.1, 0.1}), "dead from 105 % to 100 %",
            "the centre must lie from 0 % to 100 %");
        row(step("deadZone", {0.5, -0.1}), "dead from 55 % to 45 %", "the width cannot be below 0 %");
        row(levels(2, 0, {}), "in 2 levels");
        row(levels(3, 0.1, {"Calm", "Breeze", "Storm"}), "in 3 levels (Calm, Breeze and Storm)");
        row(levels(2, -0.1, {}), "in 2 levels", "the hysteresis cannot be below 0");
        row(levels(1, 0.1, {}), "in 1 levels", "levels 1 is outside 2 to 128");
        row(step("gate", {0.5, 0}), "on from 50 %");
        row(step("gate", {0.5, -0.01}), "on from 50 %", "the hysteresis cannot be below 0 %");
        row(step("latch"), "latched, on and off in turn");
        row(choosing("hold", 0), "held until the next note");
        row(choosing("hold", 1), "held until the sustain pedal goes down");
        row(step("smooth", {0, 0}), "");
        row(step("smooth", {0, 20}), "smoothed over 0 ms up and 20 ms down");
        row(step("smooth", {20, 20}), "smoothed over 20 ms");
        row(step("smooth", {-1, 20}), "smoothed over −1 ms up and 20 ms down",
            "rise and fall cannot be below 0 ms");
        row(step("smooth", {20, -1}), "smoothed over 20 ms up and −1 ms down",
            "rise and fall cannot be below 0 ms");
        row(step("scale", {1, 0}), "");
        row(step("scale", {2, 0}), "times 2");
        row(step("scale", {1, 0.1}), "raised by 10 %");
        row(step("scale", {0.5, -0.1}), "times 0.5, lowered by 10 %");
        row(choosing("combine", 0), "plus it");
        row(choosing("combine", 2), "or it where that is higher");
        row(choosing("combine", 3), "held below it");
        row(formula("x^2"), "by the formula x^2");
        row(formula("  "), "by the formula   ", "there is no expression in it");
        row(step("thin", {0, 0}), "");
        row(step("thin", {0.1, 0}), "thinned to changes of 10 %");
        row(step("thin", {0, 5}), "thinned to one every 5 ms");
        row(step("thin", {0.1, 5}), "thinned to changes of 10 %, one every 5 ms");
        row(step("thin", {-0.1, 5}), "thinned to one every 5 ms", "change and gap cannot be below 0");
        row(step("thin", {0.1, -5}), "thinned to changes of 10 %", "change and gap cannot be below 0");
        row(points({{0, 0}, {0.5, 0.2}, {1, 1}}, 0), "drawn with 3 points");
        row(points({{0, 0}}, 0), "drawn with 1 points", "a drawn response needs at least two points");
        row(points({{0.1, 0}, {1, 1}}, 0), "drawn with 2 points",
            "the first point must stand at 0 and the last at 1");
        row(points({{0, 0}, {0.9, 1}}, 0), "drawn with 2 points",
            "the first point must stand at 0 and the last at 1");
        row(points({{0, 0}, {0, 0.5}, {1, 1}}, 0), "drawn with 3 points",
            "each point must stand to the right of the one before it");
    }
    void words() {
        QFETCH(Step, said);
        QFETCH(QString, phrase);
        QFETCH(QString, flaw);
        QCOMPARE(QString::fromStdString(said.kind->phrase(said, {0, "it"})), phrase);
        QCOMPARE(QString::fromStdString(flawOf(said)), flaw);
    }

    void reverse() { QCOMPARE(shapePosition(step("reverse"), 0.25), 0.75); }

    void bend() {
        QCOMPARE(shapePosition(step("bend", {0}), 0.3), 0.3);
        QCOMPARE(shapePosition(step("bend", {1}), 0.5), std::pow(0.5, 8.0));
        QCOMPARE(shapePosition(step("bend", {-1}), 0.5), std::pow(0.5, 0.125));
    }

    void bendsUndoEachOther() {
        QVERIFY(rc::check("b then -b", [] {
            const double b = *rc::gen::inRange(-1000, 1001) / 1000.0;
            const double p = *rc::gen::inRange(1, 1001) / 1000.0;
            const double there = shapePosition(step("bend", {b}), p);
            RC_PRE(there > 1e-6);
            RC_ASSERT(std::abs(shapePosition(step("bend", {-b}), there) - p) < 1e-6);
        }));
    }

    void straightPoints() {
        const Step drawn = points({{0, 0}, {0.25, 1}, {1, 0.5}}, 0);
        QCOMPARE(shapePosition(drawn, 0.125), 0.5);
        QCOMPARE(shapePosition(drawn, 0.25), 1.0);
        QCOMPARE(shapePosition(drawn, 0.625), 0.75);
        QCOMPARE(shapePosition(drawn, 1), 0.5);
    }

    void smoothPointsPassThroughAndNeverSwingPast() {
        QVERIFY(rc::check("monotone between points", [] {
            std::vector<Point> list;
            const int count = *rc::gen::inRange(2, 7);
            for (int i = 0; i < count; ++i) {
                list.push_back({static_cast<double>(i) / (count - 1), *rc::gen::inRange(0, 101) / 100.0});
            }
            const Step drawn = points(list, 1);
            for (int i = 0; i + 1 < count; ++i) {
                const Point a = list[static_cast<std::size_t>(i)];
                const Point b = list[static_cast<std::size_t>(i) + 1];
                RC_ASSERT(std::abs(shapePosition(drawn, a.x) - a.y) < 1e-12);
                for (int k = 0; k <= 10; ++k) {
                    const double y = shapePosition(drawn, a.x + (b.x - a.x) * k / 10);
                    RC_ASSERT(y >= std::min(a.y, b.y) - 1e-9);
                    RC_ASSERT(y <= std::max(a.y, b.y) + 1e-9);
                }
            }
        }));
    }

    void smoothPointsByTheFormula() {
        // Three points, h = ½ each, secants 0.4 and 1.6: the inner slope is the weighted harmonic mean
        // 3/(1.5/0.4 + 1.5/1.6) = 0.64; the outer slopes are ((1.5)·0.4 − 0.5·1.6)/1 < 0, so 0.
        const Step drawn = points({{0, 0}, {0.5, 0.2}, {1, 1}}, 1);
        const double t = 0.5;
        const double expected = (3 * t * t - 2 * t * t * t) * 0.2 + (t * t * t - t * t) * 0.5 * 0.64;
        QVERIFY(std::abs(shapePosition(drawn, 0.25) - expected) < 1e-12);
    }

    void smoothTakesTheFirstInputAtOnce() {
        const Step s = step("smooth", {20, 20});
        StepState state;
        s.kind->take(s, state, 0.7, 0);
        QCOMPARE(state.output, 0.7);
        QVERIFY(!state.moving);
    }

    void smoothEases() {
        const auto outputs = glide(step("smooth", {20, 50}), 0, 1, 3);
        const double share = 1 - std::exp(-1.0 / 20);
        QCOMPARE(outputs[0], 0.0);
        QCOMPARE(outputs[1], share);
        QCOMPARE(outputs[2], share + (1 - share) * share);
        const auto down = glide(step("smooth", {20, 50}), 1, 0, 1);
        QCOMPARE(down[1], 1 + (0.0 - 1.0) * (1 - std::exp(-1.0 / 50)));
    }

    void smoothArrives() {
        const auto outputs = glide(step("smooth", {10, 10}), 0, 1, 200);
        QCOMPARE(outputs.back(), 1.0);
        const auto arrived = std::find(outputs.begin(), outputs.end(), 1.0) - outputs.begin();
        QCOMPARE(arrived, std::ceil(10 * std::log(32768.0)));
    }

    void smoothAtConstantSpeed() {
        Step s = step("smooth", {4, 8});
        s.values[2] = 1;
        QCOMPARE(glide(s, 0, 1, 5), (std::vector<double>{0, 0.25, 0.5, 0.75, 1, 1}));
        QCOMPARE(glide(s, 1, 0.8, 2), (std::vector<double>{1, 0.875, 0.8}));
    }

    void smoothWithoutTimeFollowsAtOnce() {
        QCOMPARE(glide(step("smooth", {0, 30}), 0.2, 0.9, 0).front(), 0.9);
        QCOMPARE(glide(step("smooth", {0, 30}), 0.9, 0.2, 0).front(), 0.9);
    }

    void everyStatelessResultIsAPosition() {
        QVERIFY(rc::check("clamped", [] {
            const double low = *rc::gen::inRange(-3000, 3000) / 1000.0;
            const double high = *rc::gen::inRange(-3000, 3000) / 1000.0;
            const double p = *rc::gen::inRange(0, 1001) / 1000.0;
            const double result = shapePosition(step("window", {low, high}), p);
            RC_ASSERT(result >= 0 && result <= 1);
        }));
    }

    void sCurve() {
        QCOMPARE(shapePosition(step("sCurve", {0}), 0.3), 0.3);
        QCOMPARE(shapePosition(step("sCurve", {1}), 0.25), 0.5 * std::pow(0.5, 8.0));
        QCOMPARE(shapePosition(step("sCurve", {1}), 0.75), 1 - 0.5 * std::pow(0.5, 8.0));
        QCOMPARE(shapePosition(step("sCurve", {-0.4}), 0.5), 0.5);
    }

    void restAt() {
        QCOMPARE(shapePosition(step("restAt", {0.5, 0.25}), 0.5), 0.25);
        QCOMPARE(shapePosition(step("restAt", {0.5, 0.25}), 0.3), 0.3 * 0.3);
        QCOMPARE(shapePosition(step("restAt", {0.2, 0.7}), 0.0), 0.0);
        QCOMPARE(shapePosition(step("restAt", {0.2, 0.7}), 1.0), 1.0);
    }

    void deadZone() {
        const Step dead = step("deadZone", {0.5, 0.2});
        for (const double p : {0.4, 0.45, 0.5, 0.6}) QCOMPARE(shapePosition(dead, p), 0.5);
        QCOMPARE(shapePosition(dead, 0.2), 0.25);
        QCOMPARE(shapePosition(dead, 0.8), 0.75);
        QCOMPARE(shapePosition(dead, 0.0), 0.0);
        QCOMPARE(shapePosition(dead, 1.0), 1.0);
        QCOMPARE(shapePosition(step("deadZone", {0, 0.2}), 0.1), 0.0);
        QCOMPARE(shapePosition(step("deadZone", {1, 0.2}), 0.45), 0.5);
    }

    void scale() {
        QCOMPARE(shapePosition(step("scale", {2, -0.5}), 0.5), 0.5);
        QCOMPARE(shapePosition(step("scale", {2, -0.5}), 0.9), 1.0);
        QCOMPARE(shapePosition(step("scale", {-1, 1}), 0.25), 0.75);
    }

    void levelsHoldOnAtTheirEdges() {
        const Step levels = step("levels", {4, 0.1});
        QCOMPARE(outputs(levels, {0.0, 0.26, 0.276, 0.24, 0.224, 1.0, 0.76, 0.0}),
                 (std::vector<double>{0, 0, 1 / 3.0, 1 / 3.0, 0, 1, 1, 0}));
        // The first input knows no hysteresis.
        QCOMPARE(outputs(levels, {0.26}), (std::vector<double>{1 / 3.0}));
    }

    void gateSwitchesWithADistance() {
        QCOMPARE(outputs(step("gate", {0.5, 0.1}), {0.49, 0.5, 0.41, 0.4, 0.39, 0.45, 0.5}),
                 (std::vector<double>{0, 1, 1, 1, 0, 0, 1}));
        QCOMPARE(outputs(step("gate", {0.5, 0.1}), {0.45}), (std::vector<double>{0}));
    }

    void latchStays() {
        QCOMPARE(outputs(step("latch"), {0, 1, 0, 0.6, 0.9, 0.4, 0.5}),
                 (std::vector<double>{0, 1, 1, 0, 0, 0, 1}));
        QCOMPARE(outputs(step("latch"), {1}), (std::vector<double>{1}));
    }

    void thinLeavesOutSmallChanges() {
        QCOMPARE(outputs(step("thin", {0.25, 0}), {0.5, 0.6, 0.75, 0.55, 0.5, 0.001, 0.0, 0.1, 1.0}),
                 (std::vector<double>{0.5, 0.5, 0.75, 0.75, 0.5, 0.001, 0.0, 0.0, 1.0}));
    }

    void thinWaitsOutTheGapAndLosesNothing() {
        const Step thin = step("thin", {0, 5});
        StepState state;
        thin.kind->take(thin, state, 0.1, 500);
        QCOMPARE(state.output, 0.1);
        thin.kind->take(thin, state, 0.2, 1500);
        thin.kind->take(thin, state, 0.3, 2500);
        QCOMPARE(state.output, 0.1);
        QVERIFY(state.moving);
        thin.kind->tick(thin, state, 5000);
        QCOMPARE(state.output, 0.1);
        thin.kind->tick(thin, state, 6000);
        QCOMPARE(state.output, 0.3);
        QVERIFY(!state.moving);
        thin.kind->take(thin, state, 0.4, 11000);
        QCOMPARE(state.output, 0.4);
    }

    void flawsAreNamed() {
        QCOMPARE(flawOf(step("levels", {2.5, 0.1})), std::string("levels 2.5 is no whole number"));
        QCOMPARE(flawOf(step("levels", {1, 0.1})), std::string("levels 1 is outside 2 to 128"));
        QVERIFY(!flawOf(step("restAt", {0, 0.5})).empty());
        QVERIFY(!flawOf(step("restAt", {0.5, 1})).empty());
        QVERIFY(!flawOf(step("deadZone", {0.5, -0.1})).empty());
        QVERIFY(!flawOf(step("thin", {0, -1})).empty());

        QCOMPARE(flawOf(step("bend", {3})), std::string("amount 3 is outside −1 to 1"));
        QVERIFY(flawOf(step("bend", {0.5})).empty());
        QVERIFY(!flawOf(step("smooth", {-1, 20})).empty());
        QVERIFY(!flawOf(points({{0, 0}, {0.5, 1}, {0.5, 0}, {1, 1}}, 0)).empty());
        QVERIFY(!flawOf(points({{0, 0}}, 0)).empty());
        QVERIFY(!flawOf(points({{0.1, 0}, {1, 1}}, 0)).empty());
    }
};

QTEST_APPLESS_MAIN(StepsTest)
#include "steps.moc"
