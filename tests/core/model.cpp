// Scales and laws, by the formulas of the signal rules (sections 1 and 4), and edits of the model.
#include <QtTest>
#include <cmath>
#include <functional>

#include "core/checks/check.h"
#include "core/describe/sentence.h"
#include "core/model/change.h"
#include "core/model/edit.h"
#include "core/model/law.h"
#include "support/build.h"

using namespace mellow;
using namespace mellow::test;

class ModelTest : public QObject {
    Q_OBJECT

 private slots:
    void scalesAreExactRoundTrips() {
        for (const Scale scale : {Scale::edge, Scale::centred}) {
            for (const int max : {127, 16383}) {
                for (int raw = 0; raw <= max; ++raw)
                    QCOMPARE(encode(scale, decode(scale, raw, max), max), raw);
            }
        }
    }

    void copiesOfAListShareUntilOneChanges() {
        SharedList<std::string> list{"a", "b", "c"};
        const SharedList<std::string> before = list;
        QCOMPARE(list.share(1), before.share(1));
        list[1] += "!";
        QCOMPARE(before[1], std::string("b"));
        QCOMPARE(std::as_const(list)[1], std::string("b!"));
        QCOMPARE(list.share(0), before.share(0));
        QVERIFY(!(list == before));
        list[1] = "b";
        QVERIFY(list == before);
        QVERIFY(list.share(1) != before.share(1));
    }

    void aSharedListIsASequence() {
        SharedList<std::string> list{"a", "b", "c", "d"};
        const SharedList<std::string> before = list;
        list.insert(list.begin() + 1, "x");
        list.erase(list.begin() + 3);
        erase_if(list, [](const std::string& each) { return each == "a"; });
        list.push_back("y");
        std::swap(list.front(), list.back());
        QCOMPARE(std::vector<std::string>(list.begin(), list.end()),
                 (std::vector<std::string>{"y", "b", "d", "x"}));
        QCOMPARE(std::count_if(list.begin(), list.end(), [](const auto& each) { return each < "e"; }), 2);
        list.resize(5);
        QCOMPARE(list.back(), std::string());
        QCOMPARE(std::vector<std::string>(before.begin(), before.end()),
                 (std::vector<std::string>{"a", "b", "c", "d"}));
    }

    void changingOneInstrumentLeavesTheOthersShared() {
        Ensemble e = ensemble({instrument("one"), instrument("two")});
        const Ensemble before = e;
        findById(e.instruments, "two")->name = "Second";
        QCOMPARE(e.instruments.share(0), before.instruments.share(0));
        QCOMPARE(before.instruments[1].name, std::string());
    }

    void aCentred64BecomesACentred8192() {
        QCOMPARE(decode(Scale::centred, 64, 127), 0.5);
        QCOMPARE(encode(Scale::centred, 0.5, 16383), 8192);
        QCOMPARE(decode(Scale::centred, 127, 127), 1.0);
    }

    void centredByNature() {
        Source source = ccSource(10);
        QVERIFY(scaleOf(source) == Scale::centred);
        source.rest = Rest::low;
        QVERIFY(scaleOf(source) == Scale::edge);
        Parameter parameter = ccParameter("place", 8);
        QVERIFY(scaleOf(parameter) == Scale::centred);
        parameter.centred = false;
        QVERIFY(scaleOf(parameter) == Scale::edge);
    }

    void lawsGoThereAndBack() {
        Parameter parameter = ccParameter("p", 20);
        const auto check = [&](const Display& display, double shown, double q) {
            parameter.display = display;
            const Range range = rangeOf(parameter);
            QVERIFY(std::abs(*rawPosition(range, shown) - q) < 1e-12);
            QVERIFY(std::abs(displayValue(range, q) - shown) < 1e-9 * std::max(1.0, std::abs(shown)));
        };
        check({}, 64, 64.0 / 127);
        check({-100.0, 100.0, "%", {}, {}, {}}, 50, 0.75);
        check({20.0, 20000.0, "Hz", Law::log, {}, {}}, std::sqrt(20.0 * 20000.0), 0.5);
        check({{}, {}, "", Law::decibel, {}, {}}, -12, std::pow(10, -12.0 / 40));
    }

    void bendIsShownFromItsCentre() {
        Parameter parameter;
        parameter.message.kind = MessageKind::bend;
        const Range range = rangeOf(parameter);
        QCOMPARE(*rawPosition(range, Level(0.0)), 0.5);
        QCOMPARE(*rawPosition(range, Level(8191.0)), 1.0);
        QCOMPARE(*rawPosition(range, Level(-8192.0)), 0.0);
        QCOMPARE(restPosition(parameter), 0.5);
    }

    void wordsInAReach() {
        Parameter parameter = ccParameter("p", 20);
        parameter.display.law = Law::choices;
        parameter.display.choices = {"off", "half", "full"};
        QCOMPARE(*rawPosition(rangeOf(parameter), Level(std::string("half"))), 0.5);
        QVERIFY(!rawPosition(rangeOf(parameter), Level(std::string("loud"))));
        parameter.display.law = Law::decibel;
        QCOMPARE(*rawPosition(rangeOf(parameter), Level(std::string("-inf"))), 0.0);
    }

    /// Three digits are what a display shows, so that is what is stored.
    void levelsAreStoredAsFinelyAsTheyAreShown() {
        Parameter parameter = ccParameter("p", 20);
        parameter.display = {20.0, 20000.0, "Hz", Law::log, {}, {}};
        const Range range = rangeOf(parameter);
        QVERIFY(levelAt(range, *rawPosition(range, Level(1234.5))) == Level(1230.0));
        QVERIFY(levelAt(range, *rawPosition(range, Level(45.67))) == Level(46.0));
    }

    void aNewParameterTakesTheFirstNumberThatIsFree() {
        Instrument one = instrument();
        one.parameters.clear();
        for (int number = 20; number <= 119; ++number) {
            QCOMPARE(newParameter(one).message.number, number);
            one.parameters.push_back(newParameter(one));
        }
        QCOMPARE(newParameter(one).message.number, 119);
    }

    /// An edit says which instruments it touched and which of the lists beside them, and no more.
    void whatAnEditChangedIsKnown() {
        Ensemble before = ensemble({instrument("one"), instrument("two"), instrument("three")});
        before.tieLines = {{"swell", "", 0, {}}};
        Ensemble after = before;
        after.instruments[1].chains = {chain("c", ccSource(1), {}, {branch("tone", 0, 127)})};
        Change change = differenceOf(before, after);
        QCOMPARE(change.instruments, std::vector<std::size_t>{1});
        QVERIFY(!change.order && !change.tieLines && !change.sharedChains && !change.title);
        QVERIFY(change.concerns(1) && !change.concerns(0) && !change.concerns(2));
        QVERIFY(!change.chains);
        Ensemble moved = after;
        moved.instruments[1].chains.push_back(chain("d", ccSource(2), {}, {branch("tone", 0, 127)}));
        after = moved;
        moved.instruments[1].chains[1].branches[0].high = 60.0;
        QCOMPARE(differenceOf(after, moved).chains, std::optional(std::vector<std::size_t>{1}));
        after = before;
        moveWithin(after.instruments, 0, 2);
        change = differenceOf(before, after);
        QVERIFY(change.order && change.concerns(1));
        after = before;
        after.tieLines[0].rest = 0.5;
        change = differenceOf(before, after);
        QVERIFY(change.tieLines && change.instruments.empty() && change.concerns(2));
        after = before;
        after.title = "Storm";
        after.inHand = {"one"};
        after.tempo.bpm = 90;
        after.sharedChains = {chain("s", ccSource(1), {}, {branch("one/tone", 0, 127)})};
        after.controllers = {{"keys", "", "any", {}, {}, {}, {}}};
        change = differenceOf(before, after);
        QVERIFY(change.title && change.inHand && change.tempo && change.sharedChains && change.controllers);
        QVERIFY(change.instruments.empty() && !change.order);
        // Equal by value is the same, whatever the addresses.
        after = before;
        after.instruments[0].name = std::string(after.instruments[0].name);
        change = differenceOf(before, after);
        QVERIFY(change.instruments.empty());
        change.everything = true;
        QVERIFY(change.concerns(0));
    }

    /// Between two labels the upper one is the nearest.
    void theNearestLabelIsShown() {
        Parameter parameter = ccParameter("p", 20);
        parameter.display.law = Law::choices;
        parameter.display.choices = {"off", "on"};
        const Range range = rangeOf(parameter);
        QCOMPARE(displayText(range, 0.5), std::string("on"));
        QCOMPARE(displayText(range, 0.499), std::string("off"));
        QVERIFY(levelAt(range, 0.5) == Level(std::string("on")));
        QCOMPARE(displayValue(range, 0.5), 1.0);
    }

    void newIdsAreReadableAndUnique() {
        Ensemble e = ensemble({instrument("bass-flute")});
        QCOMPARE(newId(e.instruments, "Bass Flute"), std::string("bass-flute-2"));
        QCOMPARE(idFrom("  Größe!  "), std::string("gr-e"));
        QCOMPARE(idFrom("…"), std::string("item"));
    }

    void aNewInstrumentHasAFreeChannelAndWorks() {
        Ensemble e = ensemble({});
        for (int i = 0; i < 17; ++i) e.instruments.push_back(newInstrument(e));
        QCOMPARE(e.instruments[8].output.channel, 9);
        QCOMPARE(e.instruments[9].output.channel, 11);  // 10 is drums on the rack
        e.instruments[0].chains.push_back(newChain(e.instruments[0]));
        e.instruments[0].chains.push_back(newChain(e.instruments[0]));
        QVERIFY(e.instruments[0].chains[0].source != e.instruments[0].chains[1].source);
        // Each leads to the next parameter, and when there is none left nowhere: a person says where.
        const auto& parameters = std::as_const(e).instruments[0].parameters;
        while (e.instruments[0].chains.size() <= parameters.size())
            e.instruments[0].chains.push_back(newChain(e.instruments[0]));
        const auto& made = std::as_const(e).instruments[0].chains;
        for (std::size_t c = 0; c < parameters.size(); ++c)
            QCOMPARE(made[c].branches.at(0).target, parameters[c].id);
        QVERIFY(made[parameters.size()].branches.empty());
        e.instruments[0].chains.resize(2);
        const Findings findings = mellow::check(e);
        QVERIFY(std::none_of(findings.begin(), findings.end(),
                             [](const Finding& f) { return f.severity == Severity::trouble; }));
    }

    void duplicatesStandBehindTheOriginal() {
        Ensemble e = ensemble({instrument("one"), instrument("two", 2)});
        const std::string copy = duplicateInstrument(e, "one");
        QCOMPARE(copy, e.instruments[1].id);
        QCOMPARE(e.instruments.size(), std::size_t{3});
        QVERIFY(e.instruments[1].output.channel != e.instruments[0].output.channel);
    }

    void removingAParameterRemovesItsBranches() {
        Ensemble e = ensemble({instrument()});
        Instrument& i = e.instruments[0];
        i.chains = {chain("c", ccSource(1), {}, {branch("tone", 0, 127), branch("expression", 0, 127)})};
        e.sharedChains = {chain("s", ccSource(2), {}, {branch("one/tone", 0, 127)})};
        removeParameter(e, i, "tone");
        QCOMPARE(i.chains[0].branches.size(), std::size_t{1});
        QCOMPARE(i.parameters.size(), std::size_t{1});
        QVERIFY(e.sharedChains[0].branches.empty());
    }

    void removingAnInstrumentOrATieLineRemovesWhatLeadsThere() {
        Ensemble e = ensemble({instrument("one"), instrument("two", 2)});
        e.tieLines = {{"storm", "", 0, {}}};
        e.inHand = {{"one", "two"}};
        e.sharedChains = {
            chain("s", ccSource(2), {}, {branch("one/tone", 0, 127), branch("tieLine:storm", 0, 1)})};
        removeInstrument(e, "one");
        QCOMPARE(e.instruments.size(), std::size_t{1});
        QCOMPARE(e.sharedChains[0].branches.size(), std::size_t{1});
        QCOMPARE(e.inHand->size(), std::size_t{1});
        removeTieLine(e, "storm");
        QVERIFY(e.tieLines.empty() && e.sharedChains[0].branches.empty());
    }

    void stepsAreLabelledWithWhatSaysMost() {
        QCOMPARE(describe::stepLabel(test::step("smooth", {250, 100}), 127), std::string("Smooth 250 ms"));
        Step levels = makeStep(*findStepKind("levels"));
        levels.values[0] = 5.0;
        QCOMPARE(describe::stepLabel(levels, 127), std::string("Levels 5"));
        QCOMPARE(describe::stepLabel(makeStep(*findStepKind("hold")), 127), std::string("Hold"));
        QCOMPARE(describe::stepLabel(makeStep(*findStepKind("reverse")), 127), std::string("Reverse"));
        QCOMPARE(describe::stepLabel(test::step("limit", {0.1, 0.7}), 0), std::string("Limit 10 %–70 %"));
        levels.on = false;
        QCOMPARE(describe::stepLabel(levels, 127), std::string("Levels (off)"));
    }

    void sentences() {
        Ensemble e = ensemble({instrument()});
        e.instruments[0].parameters[1].name = "Tone";
        e.instruments[0].parameters[1].display = {20.0, 20000.0, "Hz", Law::log, {}, {}};
        e.instruments[0].parameters[0].name = "Expression";
        const Chain c =
            chain("c", ccSource(1), {step("window", {8.0 / 127, 120.0 / 127}), step("bend", {0.35})},
                  {branch("expression", 30, 127), branch("tone", 6200, 400)});
        QCOMPARE(
            QString::fromStdString(describe::chainSentence(e, &e.instruments[0], c)),
            QStringLiteral(
                "Mod wheel 8–120, eased in, reaches Expression 30–127 and Tone 6.2 kHz falling to 400 Hz."));
    }

    void sentencesOfTheWholeLanguage_data() {
        QTest::addColumn<std::function<void(Ensemble&, Chain&)>>("change");
        QTest::addColumn<QString>("says");
        const auto row = [](const char* name, std::function<void(Ensemble&, Chain&)> change,
                            const char* says) { QTest::newRow(name) << change << QString::fromUtf8(says); };
        row(
            "cycle", [](Ensemble&, Chain& c) { c.source = makeSource(SourceKind::lfo); },
            "Sine of 1 Hz reaches expression 0–127.");
        row(
            "cycle in beats",
            [](Ensemble&, Chain& c) {
                c.source = makeSource(SourceKind::lfo);
                c.source.values[0] = 6;
                c.source.values[2] = 4.0;
            },
            "Random drift over 4 beats reaches expression 0–127.");
        row(
            "tie line",
            [](Ensemble&, Chain& c) {
                c.source = makeSource(SourceKind::tieLine);
                c.source.tieLine = "storm";
            },
            "Storm swell reaches expression 0–127.");
        row(
            "key",
            [](Ensemble&, Chain& c) {
                c.source = makeSource(SourceKind::key);
                c.source.number = 36;
            },
            "Key 36 reaches expression 0–127.");
        row(
            "program", [](Ensemble&, Chain& c) { c.source = makeSource(SourceKind::program); },
            "Program change reaches expression 0–127.");
        row(
            "control",
            [](Ensemble&, Chain& c) {
                c.source = makeSource(SourceKind::control);
                c.source.controller = "tile";
                c.source.control = "tilt";
            },
            "Tilt reaches expression 0–127.");
        row(
            "combine and formula",
            [](Ensemble&, Chain& c) {
                c.steps = {step("combine"), step("formula")};
                c.steps[0].values = {1};
                c.steps[0].with = ccSource(2);
                c.steps[1].values = {std::string("x^2")};
            },
            "Mod wheel, times breath, by the formula x^2, reaches expression 0–127.");
        row(
            "chosen",
            [](Ensemble&, Chain& c) {
                c.branches.push_back(branch("tieLine:storm", 0, 1));
                c.fan.mode = FanMode::chosen;
                c.fan.by = makeSource(SourceKind::keyNumber);
            },
            "Mod wheel reaches one of expression 0–127 and Storm swell 0–1, chosen by key number.");
        row(
            "in hand and waiting",
            [](Ensemble&, Chain& c) {
                c.active = Active::inHand;
                c.handover = Handover::meet;
            },
            "Mod wheel reaches expression 0–127; only in hand; the control is waited for.");
    }
    void sentencesOfTheWholeLanguage() {
        QFETCH(std::function<void(Ensemble&, Chain&)>, change);
        QFETCH(QString, says);
        Ensemble e = ensemble({instrument()});
        e.tieLines = {{"storm", "Storm swell", 0, {}}};
        e.controllers = {{"tile", "", "any", {{"tilt", "Tilt", {}, {}, {}}}, {}, {}, {}}};
        e.controllers[0].controls[0].message.number = 22;
        Chain c = chain("c", ccSource(1), {}, {branch("expression", 0, 127)});
        change(e, c);
        QCOMPARE(QString::fromStdString(describe::chainSentence(e, &e.instruments[0], c)), says);
    }
};

QTEST_APPLESS_MAIN(ModelTest)
#include "model.moc"
