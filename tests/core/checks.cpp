// Checks: each rule finds what it should, says where and how to mend it, and leaves sound ensembles alone.
#include "core/checks/check.h"

#include <QtTest>
#include <set>

#include "core/checks/checker.h"
#include "core/model/edit.h"
#include "core/store/ensemble_json.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;
using namespace mellow::test;

namespace {

QStringList found(const Ensemble& ensemble) {
    QStringList lines;
    for (const Finding& finding : check(ensemble)) {
        lines << (finding.severity == Severity::trouble ? QStringLiteral("trouble ")
                                                        : QStringLiteral("note ")) +
                     QString::fromStdString(finding.problem.where + ": " + finding.problem.what);
        if (finding.problem.mend.empty()) lines << QStringLiteral("(no mend)");
    }
    return lines;
}

Articulation keySwitch(const std::string& id, int key) {
    Articulation made;
    made.id = id;
    Select select;
    select.number = key;
    made.select = {select};
    return made;
}

DeskElement element(const std::string& id, ElementKind kind) {
    DeskElement made;
    made.id = id;
    made.kind = kind;
    return made;
}

DeskElement tiles(const std::vector<std::string>& names) {
    DeskElement made = element("tiles", ElementKind::articulations);
    made.names = names;
    return made;
}

void putOnDesk(Ensemble& e, const DeskElement& element) {
    if (e.desk.pages.empty()) e.desk.pages.push_back({"page", "", 12, 8, {}, {}});
    e.desk.pages[0].elements.push_back(element);
}

Ensemble sound() {
    Ensemble e = ensemble({instrument()});
    e.instruments[0].chains = {chain("c", ccSource(1), {}, {branch("expression", 0, 127)})};
    return e;
}

}  // namespace

class ChecksTest : public QObject {
    Q_OBJECT

 private slots:
    void nothingToSay() { QCOMPARE(found(sound()), QStringList{}); }

    /// What is at the edge of trouble is none.
    void theEdgesAreSound() {
        Ensemble e = sound();
        e.tempo.bpm = 0.5;
        e.instruments[0].input.lowKey = e.instruments[0].input.highKey = 60;
        QCOMPARE(found(e), QStringList{});
        e = sound();
        Source& source = e.instruments[0].chains[0].source;
        source = makeSource(SourceKind::lfo);
        source.values[1] = 0.0;
        source.values[2] = 4.0;
        QCOMPARE(found(e),
                 (QStringList{"note one, c: its cycle has a rate in Hz and in beats, and the beats count"}));
        source.values[1] = 1.0;
        QCOMPARE(found(e), QStringList{});
    }

    /// The nearest that can be is the nearest.
    void theNearestThatCanBe() {
        Ensemble e = sound();
        e.instruments[0].parameters[0].message.number = -5;
        check(e).front().mends.front().edit(e);
        QCOMPARE(e.instruments[0].parameters[0].message.number, 0);
        e.instruments[0].parameters[0].message.number = 500;
        check(e).front().mends.front().edit(e);
        QCOMPARE(e.instruments[0].parameters[0].message.number, 127);
    }

    void rules_data() {
        QTest::addColumn<std::function<void(Ensemble&)>>("harm");
        QTest::addColumn<QString>("says");
        QTest::addColumn<bool>("stops");
        const auto row = [](const char* name, std::function<void(Ensemble&)> harm, const char* says,
                            bool stops) { QTest::newRow(name) << harm << QString::fromUtf8(says) << stops; };
        row(
            "target", [](Ensemble& e) { e.instruments[0].chains[0].branches[0].target = "gone"; },
            "trouble one, c, branch 1: it leads to the parameter \"gone\", which one does not have", true);
        row(
            "controller", [](Ensemble& e) { e.instruments[0].chains[0].source.controller = "tile"; },
            "trouble one, c: its source names the controller \"tile\"", true);
        const auto zone = [](Ensemble& e, int lower, int upper) {
            e.controllers = {{"tile", "Gesture tile", "any", {}, {}, {}, {}}};
            e.controllers[0].zones.lower = lower;
            e.controllers[0].zones.upper = upper;
        };
        row(
            "zone too large", [zone](Ensemble& e) { zone(e, 16, byMessage); },
            "trouble Controller Gesture tile: its lower zone has 16 members, and a zone has 0 to 15", false);
        row(
            "bend of no notes",
            [zone](Ensemble& e) {
                zone(e, 4, byMessage);
                e.controllers[0].zones.noteBend = 0;
            },
            "trouble Controller Gesture tile: its notes bend by what is not from 0 to 96 semitones", false);
        row(
            "zones beyond the channels", [zone](Ensemble& e) { zone(e, 10, 5); },
            "note Controller Gesture tile: its zones want 15 channels, and there are 14 for two, so the "
            "upper one has 4",
            false);
        row(
            "zone that nobody says",
            [zone](Ensemble& e) {
                zone(e, byMessage, 5);
                e.instruments[0].chains[0].source = makeSource(SourceKind::zoneNote);
            },
            "note one, c: it waits for the keyboard's configuration message, since no controller says what "
            "the lower zone is",
            false);
        row(
            "zone said to be none",
            [zone](Ensemble& e) {
                zone(e, 0, byMessage);
                e.controllers[0].port = anyPort;
                e.instruments[0].chains[0].source = makeSource(SourceKind::zoneNote);
            },
            "trouble one, c: it never hears anything, since a controller says that there is no lower zone",
            false);
        row(
            "zone of less than nothing", [zone](Ensemble& e) { zone(e, -1, byMessage); },
            "trouble Controller Gesture tile: its lower zone has -1 members, and a zone has 0 to 15", false);
        row(
            "bend of no manager",
            [zone](Ensemble& e) {
                zone(e, 5, byMessage);
                e.controllers[0].zones.allBend = 97;
            },
            "trouble Controller Gesture tile: its notes bend together by what is not from 0 to 96 semitones",
            false);
        row(
            "fingers of the other zone",
            [zone](Ensemble& e) {
                zone(e, 5, 5);
                e.instruments[0].input.zone = midi::Zone::lower;
                e.instruments[0].chains[0].source = makeSource(SourceKind::zoneNote);
                e.instruments[0].chains[0].source.values[2] = 1;
            },
            "trouble one, c: it follows the upper zone, and one takes the other one only", false);
        row(
            "reach of one number",
            [](Ensemble& e) {
                e.instruments[0].chains[0].branches[0].low = 64.0;
                e.instruments[0].chains[0].branches[0].high = 64.0;
            },
            "note one, c, branch 1: its reach holds a single number, 64", false);
        row(
            "fingers behind one channel",
            [zone](Ensemble& e) {
                zone(e, 15, byMessage);
                e.instruments[0].chains[0].source = makeSource(SourceKind::zoneNote);
                e.instruments[0].input.channel = 2;
            },
            "note one, c: it follows the fingers of a zone, and hears channel 2 only", false);
        row(
            "instrument of a zone that nobody says",
            [zone](Ensemble& e) {
                zone(e, 15, byMessage);
                e.instruments[0].input.zone = midi::Zone::upper;
            },
            "note one: it waits for the keyboard's configuration message, since no controller says what "
            "the upper zone is",
            false);
        row(
            "channels kept on no manager",
            [](Ensemble& e) {
                e.instruments[0].output.keepChannels = true;
                e.instruments[0].output.channel = 5;
            },
            "note one: it keeps the channels of fingers, and itself plays on channel 5", false);
        row(
            "control of nobody",
            [](Ensemble& e) {
                Source& source = e.instruments[0].chains[0].source;
                source = makeSource(SourceKind::control);
                source.controller = "tile";
                source.control = "tilt";
                e.controllers = {{"tile", "Gesture tile", "any", {}, {}, {}, {}}};
            },
            "its source names the control \"tilt\", which Gesture tile does not have", true);
        row(
            "tie line of nobody",
            [](Ensemble& e) {
                e.instruments[0].chains[0].source = makeSource(SourceKind::tieLine);
                e.instruments[0].chains[0].source.tieLine = "storm";
            },
            "its source names the tie line \"storm\", which does not exist", true);
        row(
            "second source of nobody",
            [](Ensemble& e) {
                e.instruments[0].chains[0].steps = {makeStep(*findStepKind("combine"))};
                e.instruments[0].chains[0].steps[0].with->controller = "tile";
            },
            "a combine step of it names the controller \"tile\"", true);
        row(
            "empty formula",
            [](Ensemble& e) { e.instruments[0].chains[0].steps = {makeStep(*findStepKind("formula"))}; },
            "formula: there is no expression in it", true);
        row(
            "broken formula",
            [](Ensemble& e) {
                e.instruments[0].chains[0].branches[0].steps = {makeStep(*findStepKind("formula"))};
                e.instruments[0].chains[0].branches[0].steps[0].values = {std::string("x +")};
            },
            "trouble one, c, branch 1: formula: ", true);
        row(
            "formula without a number",
            [](Ensemble& e) {
                e.instruments[0].chains[0].steps = {makeStep(*findStepKind("formula"))};
                e.instruments[0].chains[0].steps[0].values = {std::string("sqrt(0.5 - x)")};
            },
            "note one, c: its formula is not a number at x = 0.501", false);
        row(
            "14-bit above 31",
            [](Ensemble& e) {
                e.instruments[0].chains[0].source.kind = SourceKind::cc14;
                e.instruments[0].chains[0].source.number = 40;
            },
            "its source: number 40 is outside 0 to 31", true);
        row(
            "half of a pair",
            [](Ensemble& e) {
                e.instruments[0].parameters[1].message = {MessageKind::cc14, 11, {}, 100, {}, {}, {}};
            },
            "trouble one: expression is CC 11, which is half of tone, a 14-bit control", false);
        row(
            "half of a pair as source",
            [](Ensemble& e) {
                e.instruments[0].chains.push_back(chain("d", ccSource(33), {}, {branch("tone", 0, 127)}));
                e.instruments[0].chains[0].source.kind = SourceKind::cc14;
            },
            "note one, d: it listens to CC 33, which is half of the 14-bit control that moves one, c", false);
        row(
            "data entry as a control", [](Ensemble& e) { e.instruments[0].parameters[0].message.number = 6; },
            "note one: expression is CC 6, which is data entry", false);
        row(
            "bank select as a source", [](Ensemble& e) { e.instruments[0].chains[0].source.number = 0; },
            "note one, c: it listens to CC 0, which is bank select", false);
        row(
            "gate never passed",
            [](Ensemble& e) {
                e.instruments[0].chains[0].steps = {step("scale", {0.4, 0}), step("gate", {0.5, 0.02})};
            },
            "trouble one, c: its gate never lets anything through", false);
        row(
            "window never open",
            [](Ensemble& e) {
                e.instruments[0].chains[0].steps = {step("scale", {0.4, 0})};
                e.instruments[0].chains[0].branches[0].window = BranchWindow{0.6, 1, Outside::silent, {}};
            },
            "trouble one, c, branch 1: its window never lets anything through", false);
        row(
            "level out of reach",
            [](Ensemble& e) {
                e.instruments[0].chains[0].steps = {step("scale", {0.7, 0}), step("levels", {4, 0.1})};
            },
            "note one, c: level 4 of 4 cannot be reached", false);
        row(
            "choice out of reach",
            [](Ensemble& e) {
                Instrument& one = e.instruments[0];
                one.parameters[0].display.law = Law::choices;
                one.parameters[0].display.choices = {"Calm", "Breeze", "Storm"};
                one.chains[0].steps = {step("gate", {0.5, 0.02})};
                one.chains[0].branches[0].low = std::string("Calm");
                one.chains[0].branches[0].high = std::string("Storm");
            },
            "note one, c, branch 1: the choice \"Breeze\" cannot be reached", false);
        row(
            "rest between levels",
            [](Ensemble& e) {
                e.instruments[0].chains[0].source = makeSource(SourceKind::bend);
                e.instruments[0].chains[0].steps = {step("levels", {4, 0.1})};
            },
            "note one, c: its control rests between level 2 and level 3 of 4", false);
        row(
            "circle",
            [](Ensemble& e) {
                e.tieLines = {{"a", "", 0, {}}, {"b", "", 0, {}}};
                Source a = makeSource(SourceKind::tieLine);
                a.tieLine = "a";
                Source b = a;
                b.tieLine = "b";
                e.instruments[0].chains[0] = chain("c", a, {}, {branch("tieLine:b", 0, 1)});
                e.sharedChains = {chain("s", b, {}, {branch("tieLine:a", 0, 1)})};
            },
            "trouble one, c: its tie lines go in a circle: \"c\" and \"s\"", true);
        row(
            "circle of many",
            [](Ensemble& e) {
                constexpr int many = 200;
                for (int i = 0; i < many; ++i) e.tieLines.push_back({"t" + std::to_string(i), "", 0, {}});
                for (int i = 0; i < many; ++i) {
                    Source read = makeSource(SourceKind::tieLine);
                    read.tieLine = "t" + std::to_string(i);
                    const std::string written = "tieLine:t" + std::to_string((i + 1) % many);
                    e.sharedChains.push_back(
                        chain("s" + std::to_string(i), read, {}, {branch(written, 0, 1)}));
                }
            },
            "trouble Shared chains, s7: its tie lines go in a circle with those of 199 other chains, \"s8\" "
            "next",
            false);
        row(
            "tie line in vain",
            [](Ensemble& e) {
                e.tieLines = {{"storm", "Storm swell", 0, {}}};
                e.instruments[0].chains[0].branches.push_back(branch("tieLine:storm", 0, 1));
            },
            "note Tie line Storm swell: chains write it, and none reads it", false);
        row(
            "tie line that stands",
            [](Ensemble& e) {
                e.tieLines = {{"storm", "Storm swell", 0, {}}};
                e.instruments[0].chains[0].source = makeSource(SourceKind::tieLine);
                e.instruments[0].chains[0].source.tieLine = "storm";
            },
            "trouble Tie line Storm swell: chains read it, and none writes it", false);
        row(
            "shared to nowhere",
            [](Ensemble& e) { e.sharedChains = {chain("s", ccSource(3), {}, {branch("one/gone", 0, 1)})}; },
            "trouble Shared chains, s, branch 1: it leads to \"one/gone\", and there is no such instrument",
            false);
        row(
            "bend amount", [](Ensemble& e) { e.instruments[0].chains[0].steps = {step("bend", {2})}; },
            "trouble one, c: bend: amount 2 is outside −1 to 1", true);
        row(
            "source channel", [](Ensemble& e) { e.instruments[0].chains[0].source.channel = 17; },
            "its source listens to channel 17", true);
        row(
            "source number", [](Ensemble& e) { e.instruments[0].chains[0].source.number = 128; },
            "number 128 is outside 0 to 127", true);
        row(
            "log from 0",
            [](Ensemble& e) { e.instruments[0].parameters[0].display = {0.0, 10.0, "", Law::log, {}, {}}; },
            "a log range needs both ends above 0", true);
        row(
            "no width by its high end", [](Ensemble& e) { e.instruments[0].parameters[0].display.high = 0; },
            "the display range has no width", true);
        row(
            "no width by its low end", [](Ensemble& e) { e.instruments[0].parameters[0].display.low = 127; },
            "the display range has no width", true);
        row(
            "rest that is a word",
            [](Ensemble& e) { e.instruments[0].parameters[0].rest = std::string("loud"); },
            "expression rests at \"loud\", which it does not know", true);
        row(
            "cycle without a rate",
            [](Ensemble& e) {
                Source& source = e.instruments[0].chains[0].source;
                source = makeSource(SourceKind::lfo);
                source.values[1] = 0.0;
            },
            "note one, c: its cycle has a rate of 0", false);
        row(
            "cycle with two rates",
            [](Ensemble& e) {
                Source& source = e.instruments[0].chains[0].source;
                source = makeSource(SourceKind::lfo);
                source.values[1] = 2.0;
                source.values[2] = 1.0;
            },
            "note one, c: its cycle has a rate in Hz and in beats", false);
        row(
            "walk without steps",
            [](Ensemble& e) {
                Source& source = e.instruments[0].chains[0].source;
                source = makeSource(SourceKind::walk);
                source.values[0] = 0.0;
            },
            "note one, c: its random walk takes no steps", false);
        row(
            "no tempo", [](Ensemble& e) { e.tempo.bpm = 0; }, "trouble Tempo: it is no number above 0",
            false);
        row(
            "number below 0", [](Ensemble& e) { e.instruments[0].parameters[0].message.number = -5; },
            "number -5 is outside 0 to 127", true);
        const auto parameterOf = [&row](const char* name, MessageKind kind, auto&& harm, const char* told) {
            row(
                name,
                [kind, harm](Ensemble& e) {
                    Message& message = e.instruments[0].parameters[0].message;
                    message.kind = kind;
                    harm(message);
                },
                told, true);
        };
        parameterOf(
            "note velocity", MessageKind::note, [](Message& m) { m.velocity = 0; },
            "velocity 0 is outside 1 to 127");
        parameterOf(
            "bank", MessageKind::program,
            [](Message& m) {
                m.bank = {0, 128};
            },
            "its bank is outside 0 to 127");
        parameterOf(
            "address", MessageKind::osc, [](Message& m) { m.address = "gain"; },
            "an OSC address begins with /");
        parameterOf(
            "fine number", MessageKind::cc14, [](Message& m) { m.number = 32; },
            "number 32 is outside 0 to 31");
        parameterOf(
            "register", MessageKind::nrpn, [](Message& m) { m.number = 16384; },
            "number 16384 is outside 0 to 16383");
        row(
            "unknown word",
            [](Ensemble& e) { e.instruments[0].chains[0].branches[0].high = std::string("loud"); },
            "its reach names \"loud\"", true);
        row(
            "reach", [](Ensemble& e) { e.instruments[0].chains[0].branches[0].high = 200.0; },
            "trouble one, c, branch 1: its reach goes to 200, and expression only has 0 to 127", false);
        row(
            "no branch", [](Ensemble& e) { e.instruments[0].chains[0].branches.clear(); },
            "trouble one, c: it has no effect: it leads to no target", false);
        row(
            "one value", [](Ensemble& e) { e.instruments[0].chains[0].branches[0].low = 127.0; },
            "it has no effect: every target gets one value", false);
        row(
            "filtered",
            [](Ensemble& e) {
                e.instruments[0].input.channel = 1;
                e.instruments[0].chains[0].source.channel = 2;
            },
            "it has no effect: what moves it never passes", false);
        row(
            "meet",
            [](Ensemble& e) {
                e.instruments[0].chains.push_back(
                    chain("d", ccSource(2), {}, {branch("expression", 0, 127)}));
            },
            "note one, d, branch 1: it meets c, branch 1 on expression", false);
        row(
            "one message", [](Ensemble& e) { e.instruments.push_back(instrument("two")); },
            "note two: its expression and tone are the same messages on out channel 1 as of one", false);
        row(
            "desk element of nobody",
            [](Ensemble& e) {
                e.instruments[0].chains[0].source = makeSource(SourceKind::desk);
                e.instruments[0].chains[0].source.values[0] = std::string("air");
            },
            "its source names the desk element \"air\", which does not exist", true);
        row(
            "tiles as a source",
            [](Ensemble& e) {
                putOnDesk(e, tiles({"Long"}));
                e.instruments[0].articulations = {keySwitch("long", 24)};
                e.instruments[0].input.lowKey = 36;
                e.instruments[0].chains[0].source = makeSource(SourceKind::desk);
                e.instruments[0].chains[0].source.values[0] = std::string("tiles");
            },
            "its source names the articulation tiles tiles, which have no position", true);
        row(
            "articulation of nobody",
            [](Ensemble& e) {
                e.instruments[0].parameters[0].message.kind = MessageKind::articulation;
                nameArticulations(e.instruments[0]);
            },
            "expression: there is nothing to choose", true);
        row(
            "key switch that cannot be",
            [](Ensemble& e) { e.instruments[0].articulations = {keySwitch("long", 200)}; },
            "trouble one: \"long\": key 200 is outside 0 to 127, so nothing selects it", false);
        row(
            "key switch among the keys",
            [](Ensemble& e) {
                e.instruments[0].articulations = {keySwitch("long", 24), keySwitch("short", 25)};
            },
            "note one: its key switches on keys C1 and C♯1 lie among the keys that it plays", false);
        row(
            "key switch among another's keys",
            [](Ensemble& e) {
                e.instruments.push_back(instrument("two", 2));
                e.instruments[0].input.lowKey = 36;
                e.instruments[0].articulations = {keySwitch("long", 24)};
            },
            "note one: its key switches on key C1 lie among the keys that two plays", false);
        row(
            "alike",
            [](Ensemble& e) {
                e.instruments[0].input.lowKey = 36;
                e.instruments[0].articulations = {keySwitch("long", 24), keySwitch("short", 24)};
            },
            "note one: \"short\" and \"long\" are selected by the same messages", false);
        row(
            "keys without sound",
            [](Ensemble& e) {
                e.instruments[0].input.lowKey = 36;
                e.instruments[0].articulations = {keySwitch("long", 24)};
                e.instruments[0].articulations[0].lowKey = 48;
                e.instruments[0].articulations[0].highKey = 84;
            },
            "note one: it plays keys 36 to 127, and \"long\" sounds on 48 to 84", false);
        row(
            "no keys that sound",
            [](Ensemble& e) {
                e.instruments[0].input.lowKey = 36;
                e.instruments[0].articulations = {keySwitch("long", 24)};
                e.instruments[0].articulations[0].lowKey = 84;
                e.instruments[0].articulations[0].highKey = 48;
            },
            "trouble one: \"long\" sounds on keys 84 to 48, which are none", false);
        row(
            "tile without an answer", [](Ensemble& e) { putOnDesk(e, tiles({"With wood"})); },
            "note Desk, tiles: nobody answers to \"With wood\"", false);
        row(
            "outside the hand",
            [](Ensemble& e) {
                e.instruments.push_back(instrument("two", 2));
                e.sections = {{"high", "High winds", {"one"}, {}}};
            },
            "note two: it is in no section and not in the hand order", false);
        row(
            "section of nobody",
            [](Ensemble& e) {
                e.sections = {{"high", "High winds", {"one", "gone"}, {}}};
            },
            "trouble Section High winds: the instrument \"gone\" does not exist", false);
        row(
            "hand order of nobody",
            [](Ensemble& e) {
                e.handOrder = {"one", "gone"};
            },
            "trouble Hand order: \"gone\" is neither an instrument nor a section", false);
        row(
            "hand without an order",
            [](Ensemble& e) {
                Branch chooses;
                chooses.target = "hand";
                chooses.low = std::string("one");
                chooses.high = std::string("one");
                e.sharedChains.push_back(test::chain("who", test::ccSource(9), {}, {chooses}));
            },
            "trouble Shared chains, who, branch 1: it chooses who is in hand, and nobody is in the hand "
            "order",
            false);
        row(
            "velocities",
            [](Ensemble& e) {
                e.instruments[0].input.lowVelocity = 127;
                e.instruments[0].input.highVelocity = 3;
            },
            "trouble one: its velocities go from 127 to 3, so no note reaches it", false);
        row(
            "covered",
            [](Ensemble& e) {
                putOnDesk(e, element("air", ElementKind::slider));
                putOnDesk(e, element("rasp", ElementKind::slider));
            },
            "note Desk, rasp: it covers air", false);
        row(
            "beside the grid",
            [](Ensemble& e) {
                putOnDesk(e, element("air", ElementKind::slider));
                e.desk.pages[0].elements[0].place = {11, 0, 2, 2};
            },
            "note Desk, air: it lies outside the grid of page", false);
        row(
            "keys off the keyboard",
            [](Ensemble& e) {
                putOnDesk(e, element("keys", ElementKind::keys));
                e.desk.pages[0].elements[0].lowestKey = 120;
            },
            "note Desk, keys: its lowest key is outside 0 to 115", false);
        row(
            "keys as a source",
            [](Ensemble& e) {
                putOnDesk(e, element("keys", ElementKind::keys));
                e.instruments[0].chains[0].source = makeSource(SourceKind::desk);
                e.instruments[0].chains[0].source.values[0] = std::string("keys");
            },
            "its source names the practice keys keys, which have no position", true);
        row(
            "element's id twice",
            [](Ensemble& e) {
                putOnDesk(e, element("air", ElementKind::slider));
                putOnDesk(e, element("air", ElementKind::slider));
                e.desk.pages[0].elements[1].place = {4, 0, 1, 1};
            },
            "trouble Desk, page: two elements have the id \"air\"", false);
        row(
            "same id",
            [](Ensemble& e) {
                e.instruments[0].chains.push_back(e.instruments[0].chains[0]);
                e.instruments[0].chains[1].source.number = 2;
            },
            "another chain has the id \"c\" already", false);
    }
    void rules() {
        QFETCH(std::function<void(Ensemble&)>, harm);
        QFETCH(QString, says);
        QFETCH(bool, stops);
        Ensemble e = sound();
        harm(e);
        const QStringList lines = found(e);
        QVERIFY2(lines.join('\n').contains(says), qPrintable(lines.join('\n')));
        QVERIFY(!lines.contains("(no mend)"));
        const StoppedChain stopped = stoppedBy(e).chains[0][0];
        QCOMPARE(stopped.whole || !stopped.branches.empty(), stops);
        if (QTest::currentTestFailed()) return;
        for (const Finding& finding : check(e)) curesItself(e, finding);
    }

    /// What only a person can know has no mend; all else has one.
    void whatAnEditCuresHasAMend_data() { rules_data(); }
    void whatAnEditCuresHasAMend() {
        QFETCH(std::function<void(Ensemble&)>, harm);
        const QStringList aPersonKnows{QStringLiteral("formula is not a number"), QStringLiteral("formula: "),
                                       QStringLiteral("it listens to CC 0, which is bank select"),
                                       QStringLiteral("cannot be reached"),
                                       QStringLiteral("an OSC address begins with")};
        Ensemble e = sound();
        harm(e);
        for (const Finding& finding : check(e)) {
            const QString what = QString::fromStdString(finding.problem.what);
            const bool excused = std::any_of(aPersonKnows.begin(), aPersonKnows.end(),
                                             [&](const QString& words) { return what.contains(words); });
            QVERIFY2(excused || !finding.mends.empty(), qPrintable(what));
        }
    }

    /// The mend fits what was found.
    /// Key switches among the keys that are played move below them, in their order, and nothing is left to
    /// say.
    void keySwitchesMoveOutOfTheWay() {
        Ensemble e = ensemble({instrument("one")});
        e.instruments[0].input.lowKey = 36;
        e.instruments[0].input.highKey = 96;
        e.instruments[0].articulations = {keySwitch("long", 41), keySwitch("short", 40)};
        const auto findings = check(e);
        const auto found = std::find_if(findings.begin(), findings.end(), [](const Finding& each) {
            return each.problem.what.find("key switches") != std::string::npos;
        });
        QVERIFY(found != findings.end());
        const auto move = std::find_if(found->mends.begin(), found->mends.end(), [](const Mend& each) {
            return each.name.find("Move the switches") == 0;
        });
        QVERIFY(move != found->mends.end());
        move->edit(e);
        const auto number = [&e](std::size_t place) {
            return e.instruments[0].articulations[place].select.at(0).number;
        };
        QVERIFY(number(0) < 36 && number(1) < 36);
        QCOMPARE(number(0), number(1) + 1);
        for (const Finding& each : check(e))
            QVERIFY2(each.problem.what.find("key switches") == std::string::npos, each.problem.what.c_str());
    }

    /// Of the cures that one finding offers no two are called the same.
    void curesAreToldApart() {
        for (std::uint32_t seed = 1; seed <= 60; ++seed) {
            for (const Finding& finding : check(RandomWorld(seed).ensemble())) {
                std::set<std::string> names;
                for (const Mend& mend : finding.mends)
                    QVERIFY2(names.insert(mend.name).second,
                             (finding.problem.sentence() + ": " + mend.name).c_str());
            }
        }
    }

    void mendsSayWhatTheyDo_data() {
        QTest::addColumn<std::function<void(Ensemble&)>>("harm");
        QTest::addColumn<QStringList>("offers");
        const auto row = [](const char* name, std::function<void(Ensemble&)> harm,
                            const QStringList& offers) { QTest::newRow(name) << harm << offers; };
        row("controller", [](Ensemble& e) { e.instruments[0].chains[0].source.controller = "tile"; },
            {"Listen to any port"});
        row("control",
            [](Ensemble& e) {
                e.instruments[0].chains[0].source = makeSource(SourceKind::control);
                e.instruments[0].chains[0].source.controller = "tile";
            },
            {"Listen to the mod wheel instead"});
        row("tie line",
            [](Ensemble& e) {
                e.instruments[0].chains[0].source = makeSource(SourceKind::tieLine);
                e.instruments[0].chains[0].source.tieLine = "storm";
            },
            {"Make the tie line"});
        row("channel", [](Ensemble& e) { e.instruments[0].chains[0].source.channel = 17; },
            {"Listen to any channel"});
        row("bend", [](Ensemble& e) { e.instruments[0].chains[0].steps = {step("bend", {2})}; },
            {"Use the nearest that can be", "Begin the step anew", "Switch the step off"});
        row("formula", [](Ensemble& e) { e.instruments[0].chains[0].steps = {step("formula")}; },
            {"Switch the step off"});
        row("no branch", [](Ensemble& e) { e.instruments[0].chains[0].branches.clear(); },
            {"Switch the chain off"});
        row("one value", [](Ensemble& e) { e.instruments[0].chains[0].branches[0].low = 127.0; },
            {"Use the whole range of expression", "Switch the chain off"});
        row("keys", [](Ensemble& e) { e.instruments[0].input.lowKey = 200; }, {"Turn them round"});
    }
    void mendsSayWhatTheyDo() {
        QFETCH(std::function<void(Ensemble&)>, harm);
        QFETCH(QStringList, offers);
        Ensemble e = sound();
        harm(e);
        Findings findings = check(e);
        // That a reach holds one number is told beside what comes of it.
        std::erase_if(findings, [](const Finding& finding) { return finding.severity == Severity::note; });
        if (findings.empty()) findings = check(e);
        QStringList names;
        for (const Mend& mend : findings[0].mends) names << QString::fromStdString(mend.name);
        QCOMPARE(names, offers);
    }

    /// What an edit leaves alone is not looked at again, and nobody can tell.
    void theCheckerAgreesWithAFreshLook() {
        for (std::uint32_t seed = 1; seed <= 60; ++seed) {
            RandomWorld world(seed);
            Ensemble e = world.ensemble();
            Checker checker;
            for (int round = 0; round < 25; ++round) {
                Findings told;
                for (const Finding* finding : checker.check(std::make_shared<const Ensemble>(e)))
                    told.push_back(*finding);
                compare(told, check(e));
                if (QTest::currentTestFailed()) return;
                change(world, e, told);
            }
        }
    }

    /// A mend goes by where its thing is now, not where it was when it was looked at.
    void aMendFollowsItsInstrument() {
        Ensemble e = sound();
        e.instruments[0].id = "one horn";
        e.instruments.push_back(instrument("two", 2));
        e.instruments.push_back(instrument("three", 3));
        Checker checker;
        const std::size_t before = checker.check(std::make_shared<const Ensemble>(e)).size();
        moveWithin(e.instruments, 0, 2);
        const FindingRefs& found = checker.check(std::make_shared<const Ensemble>(e));
        QCOMPARE(found.size(), before);
        QCOMPARE(found.front()->place.instrument, std::optional<std::size_t>(2));
        Ensemble mended = e;
        found.front()->mends.front().edit(mended);
        QCOMPARE(mended.instruments[2].id, std::string("one-horn"));
        QCOMPARE(mended.instruments[0].id, std::string("two"));
    }

    /// A wider reach is offered where it would change something, and not where a step stands still as well.
    void aWiderReachIsOfferedWhereItHelps() {
        Ensemble e = sound();
        Chain& chain = e.instruments[0].chains[0];
        chain.branches[0].low = chain.branches[0].high = 64.0;
        const auto cures = [&e] {
            const Findings findings = check(e);
            const auto found = std::find_if(findings.begin(), findings.end(), [](const Finding& finding) {
                return finding.problem.what.find("it has no effect") != std::string::npos;
            });
            return found == findings.end() ? std::size_t{0} : found->mends.size();
        };
        QCOMPARE(cures(), std::size_t{2});
        chain.steps = {step("scale", {0, 0.5})};
        QCOMPARE(cures(), std::size_t{1});
    }

    /// Ids that are made anew take along what refers to them.
    void whatRefersToAnUnfitIdFollows() {
        Ensemble e = sound();
        e.instruments[0].id = "one horn";
        e.instruments[0].parameters[0].id = "the expression";
        e.instruments[0].chains[0].branches[0].target = "the expression";
        e.tieLines = {{"big swell", "Big swell", 0, {}}};
        e.controllers = {{"my keys", "", "any", {{"mod wheel", "", {}, {}, {}}}, {}, {}, {}}};
        e.controllers[0].controls[0].message.number = 1;
        Source& source = e.instruments[0].chains[0].source;
        source = makeSource(SourceKind::control);
        source.controller = "my keys";
        source.control = "mod wheel";
        Source swell = makeSource(SourceKind::tieLine);
        swell.tieLine = "big swell";
        e.sharedChains = {chain("a", ccSource(3), {}, {branch("tieLine:big swell", 0, 1)}),
                          chain("b", swell, {}, {branch("one horn/the expression", 0, 127)})};
        e.inHand = {"one horn"};
        for (int round = 0; round < 20; ++round) {
            const Findings findings = check(e);
            const auto unfit = std::find_if(findings.begin(), findings.end(), [](const Finding& finding) {
                return finding.problem.what.find("which is not one word") != std::string::npos;
            });
            if (unfit == findings.end()) break;
            QVERIFY(!unfit->mends.empty());
            unfit->mends.front().edit(e);
        }
        QCOMPARE(found(e),
                 (QStringList{"note Shared chains, b, branch 1: it meets c, branch 1 on the-expression",
                              "note one-horn, c, branch 1: it meets b, branch 1 on the-expression"}));
        Feeder feeder(e);
        QCOMPARE(feeder.feed({"0 any B0 01 7F"}), (std::vector<std::string>{"0 one-horn B0 0B 7F"}));
    }

    void anInstrumentOnNoChannelIsStopped() {
        Ensemble e = sound();
        e.instruments[0].output.channel = 0;
        QVERIFY(stoppedBy(e).instruments[0]);
        Feeder feeder(e);
        QVERIFY(feeder.feed({"0 keys 90 3C 40", "0 keys B0 01 40"}).empty());
    }

    void troublesComeFirst() {
        Ensemble e = sound();
        e.instruments[0].chains.push_back(chain("d", ccSource(2), {}, {branch("expression", 0, 127)}));
        e.instruments[0].chains.push_back(chain("z", ccSource(3), {}, {}));
        const auto findings = check(e);
        // The trouble, and a note at each of the two that meet.
        QCOMPARE(findings.size(), std::size_t{3});
        QVERIFY(findings.front().severity == Severity::trouble);
    }

    void theDemoIsClear() {
        const QByteArray demo = sourceFile(QStringLiteral("data/demo/tin-observatory.lever"));
        QCOMPARE(found(*store::parseEnsemble({demo.constData(), static_cast<std::size_t>(demo.size())})),
                 QStringList{});
    }

 private:
    /// Each of a finding's mends makes it go, without stopping anything that ran.
    static void curesItself(const Ensemble& ensemble, const Finding& finding) {
        for (const Mend& mend : finding.mends) {
            Ensemble mended = ensemble;
            mend.edit(mended);
            const Findings left = check(mended);
            const bool still = std::any_of(left.begin(), left.end(), [&](const Finding& other) {
                return other.problem.where == finding.problem.where &&
                       other.problem.what == finding.problem.what;
            });
            QVERIFY2(!still,
                     qPrintable(QString::fromStdString(mend.name + " leaves: " + finding.problem.what)));
            QVERIFY(mended != ensemble);
        }
    }

    static void compare(const Findings& told, const Findings& fresh) {
        const auto linesOf = [](const Findings& findings) {
            QStringList lines;
            for (const Finding& finding : findings) {
                const Place& place = finding.place;
                const auto number = [](const std::optional<std::size_t>& index) {
                    return index ? QString::number(*index) : QStringLiteral("-");
                };
                lines << QStringLiteral("%1 %2 %3 %4 %5 %6")
                             .arg(static_cast<int>(finding.severity))
                             .arg(number(place.instrument), number(place.chain), number(place.branch))
                             .arg(finding.mends.size())
                             .arg(QString::fromStdString(finding.problem.sentence()));
            }
            return lines;
        };
        QCOMPARE(linesOf(told), linesOf(fresh));
    }

    /// One of the edits of a person: a change, a move, a removal, a doubled id, a mend that was offered.
    static void change(RandomWorld& world, Ensemble& e, const Findings& told) {
        switch (world.below(8)) {
            case 0:
                if (e.instruments.size() > 1) moveWithin(e.instruments, 0, e.instruments.size() - 1);
                break;
            case 1:
                if (!e.instruments.empty() && !e.instruments[0].chains.empty())
                    moveWithin(e.instruments[0].chains, 0, e.instruments[0].chains.size() - 1);
                break;
            case 2:
                if (!e.sharedChains.empty()) e.sharedChains.erase(e.sharedChains.begin());
                break;
            case 3:
                if (e.instruments.size() > 1) e.instruments[0].id = std::as_const(e.instruments)[1].id;
                break;
            case 4:
                if (!e.tieLines.empty()) e.tieLines.pop_back();
                break;
            case 5:
                if (!told.empty()) {
                    const auto& mends =
                        told[static_cast<std::size_t>(world.below(static_cast<int>(told.size())))].mends;
                    if (!mends.empty()) mends.back().edit(e);
                }
                break;
            default:
                world.edit(e);
        }
    }
};

QTEST_APPLESS_MAIN(ChecksTest)
#include "checks.moc"
