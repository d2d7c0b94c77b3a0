// The sheet: every assignment once, in two readings; as CSV and back; and edits of many rows, which do what
// the same edit does row by row, and say before what they will do.
#include <QtTest>
#include <map>
#include <nlohmann/json.hpp>
#include <random>
#include <set>

#include "core/profiles/delimited.h"
#include "core/sheet/bulk.h"
#include "core/sheet/cleaning.h"
#include "core/sheet/csv.h"
#include "core/sheet/numbers.h"
#include "core/sheet/paper.h"
#include "core/steps/step.h"
#include "core/store/ensemble_json.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;
using namespace mellow::sheet;

namespace {

Ensemble anyEnsemble(int seed) {
    return seed == 0 ? test::demo() : test::RandomWorld(static_cast<std::uint32_t>(seed)).ensemble();
}

void seeds(int count) {
    QTest::addColumn<int>("seed");
    QTest::newRow("the demo") << 0;
    for (int seed = 1; seed <= count; ++seed) QTest::addRow("random %d", seed) << seed;
}

Sheet sheetOf(Ensemble ensemble) {
    return Sheet(std::make_shared<const Ensemble>(std::move(ensemble)));
}

std::vector<AssignmentId> idsOf(const Ensemble& ensemble) {
    std::vector<AssignmentId> ids;
    for (const Assignment& row : assignmentsOf(ensemble)) ids.push_back(idOf(row));
    return ids;
}

/// Branches as JSON has them: instrument or "", chain, place from 1, target, ends.
using Walked = std::tuple<std::string, std::string, int, std::string>;
std::multiset<Walked> walk(const nlohmann::json& document) {
    std::multiset<Walked> all;
    const auto look = [&all](const std::string& owner, const nlohmann::json& chains) {
        for (const auto& chain : chains) {
            int place = 0;
            for (const auto& branch : chain["branches"])
                all.emplace(owner, chain["id"].get<std::string>(), ++place,
                            branch["target"].get<std::string>());
            if (place == 0) all.emplace(owner, chain["id"].get<std::string>(), 0, "");
        }
    };
    for (const auto& instrument : document["instruments"])
        look(instrument["id"].get<std::string>(), instrument.value("chains", nlohmann::json::array()));
    look("", document.value("sharedChains", nlohmann::json::array()));
    return all;
}

/// "Two-wheel keys: Mod wheel, Mod wheel, Bend wheel | Four-pedal board: …", with what a column says.
QString said(const Sheet& sheet, const Wish& wish, const char* column) {
    QStringList groups;
    const Arranged arranged = sheet.arranged(wish);
    for (const Line& line : arranged.lines) {
        const Group& group = arranged.groups[line.group];
        if (line.row < 0) {
            groups << QString::fromStdString(group.title) + ":";
        } else {
            if (groups.isEmpty()) groups << QString();
            groups.last() +=
                " " + QString::fromStdString(sheet.text(*findAssignmentColumn(column), line.row));
        }
    }
    return groups.join(" | ");
}

/// Two instruments on one output, moved by a keyboard of three controls.
Ensemble pair() {
    Ensemble ensemble;
    Controller keys;
    keys.id = "keys";
    keys.name = "North keys";
    keys.port = "north";
    for (const auto& [id, number] : {std::pair{"wheel", 1}, {"breath", 2}, {"pedal", 64}}) {
        ControllerControl control;
        control.id = control.name = id;
        control.message.number = number;
        keys.controls.push_back(control);
    }
    ensemble.controllers.push_back(keys);
    for (const char* id : {"flute", "bell"}) {
        Instrument instrument = test::instrument(id, 1);
        instrument.output.port = "hall";
        instrument.parameters = {test::ccParameter("level", 11), test::ccParameter("tone", 74)};
        ensemble.instruments.push_back(instrument);
    }
    Instrument& flute = *findById(ensemble.instruments, "flute");
    flute.chains = {test::chain("swell", test::ccSource(1), {test::step("bend", {0.35})},
                                {test::branch("level", 30, 127), test::branch("tone", 100, 20)})};
    Instrument& bell = *findById(ensemble.instruments, "bell");
    bell.chains = {test::chain("ring", test::ccSource(2), {}, {test::branch("level", 0, 90)})};
    bell.pass.unmatched = false;
    return ensemble;
}

const AssignmentId swellLevel{"flute", "swell", 0, "", "", "", ""};
const AssignmentId swellTone{"flute", "swell", 1, "", "", "", ""};
const AssignmentId ringLevel{"bell", "ring", 0, "", "", "", ""};

/// The random edits, as a test may draw them: all that can be made of rows one after another as well.
Bulk randomBulk(std::mt19937& random) {
    const auto draw = [&random](int low, int high) {
        return std::uniform_int_distribution<int>(low, high)(random);
    };
    const auto side = draw(0, 1) == 0 ? bulk::Side::move : bulk::Side::hear;
    switch (draw(0, 10)) {
        case 0:
            return bulk::setChannel(side, draw(0, 3) == 0 ? std::nullopt : std::optional(draw(1, 16)));
        case 1:
            return bulk::setPort(side, draw(0, 1) == 0 ? "north" : "south");
        case 2:
            return bulk::setReach(draw(0, 1) == 0 ? "10–100" : "1 kHz falling to 200 Hz");
        case 3:
            return bulk::scaleReach(draw(0, 20) / 10.0, static_cast<bulk::About>(draw(0, 2)));
        case 4:
            return bulk::shiftReach(draw(-10, 10) / 10.0);
        case 5:
            return bulk::turnRound();
        case 6:
            return bulk::setOn(draw(0, 1) == 0);
        case 7:
            return bulk::setLocked(draw(0, 1) == 0);
        case 8:
            return bulk::setRest(draw(0, 1) == 0 ? "64" : "0");
        case 9:
            return bulk::changeStep("bend", 0, FieldValue(draw(-10, 10) / 10.0));
        default:
            return bulk::removeStep("smooth");
    }
}

}  // namespace

class SheetTest : public QObject {
    Q_OBJECT

 private slots:
    void readings() {
        const Sheet sheet = sheetOf(pair());
        Wish wish;
        QCOMPARE(said(sheet, wish, "target"),
                 QString("North keys: level tone level  | Nothing moves these: tone"));
        QCOMPARE(sheet.arranged(wish).groups[0].caption, std::string("north · 2 controls used, 1 free"));
        wish.by = Reading::hear;
        wish.group = groupingOf(wish.by);
        QCOMPARE(said(sheet, wish, "move"),
                 QString("flute: wheel wheel | bell: breath  | These lead nowhere: pedal"));
        QCOMPARE(sheet.arranged(wish).groups[1].caption,
                 std::string("hall · ch 1 · 1 parameter moved, 1 still"));
        wish.folded = {"flute"};
        QCOMPARE(said(sheet, wish, "move"), QString("flute: | bell: breath  | These lead nowhere: pedal"));
        QCOMPARE(sheet.arranged(wish).found, std::size_t{5});
        wish.folded.clear();
        wish.group = Grouping::port;
        QCOMPARE(said(sheet, wish, "target"), QString("hall: level tone level tone | To no port: "));
        wish.group = Grouping::none;
        wish.sort = findAssignmentColumn("low");
        QCOMPARE(said(sheet, wish, "low"), QString(" 0 30 100  "));
        wish.backwards = true;
        QCOMPARE(said(sheet, wish, "low"), QString(" 100 30 0  "));
        wish.find = "level";
        QCOMPARE(said(sheet, wish, "move"), QString(" wheel breath"));
        wish.group = Grouping::instrument;
        QCOMPARE(sheet.arranged(wish).groups[0].caption, std::string("hall · ch 1 · 1 row found"));
        wish.group = Grouping::none;
        wish.find = "no such thing";
        QVERIFY(sheet.arranged(wish).lines.empty());
    }

    /// Whatever is known of rows beside the document is found as well.
    void wordsOfTheMoment() {
        Sheet sheet = sheetOf(pair());
        sheet.setWords({"waits for north", "", "", "", ""});
        Wish wish;
        wish.find = "waits flute";
        QCOMPARE(sheet.arranged(wish).found, std::size_t{1});
        wish.find = "";
        wish.only = std::make_shared<const std::set<AssignmentId>>(std::set<AssignmentId>{ringLevel});
        QCOMPARE(sheet.arranged(wish).found, std::size_t{1});
    }

    void everyRowOnce_data() { seeds(60); }
    void everyRowOnce() {
        QFETCH(int, seed);
        const Ensemble ensemble = anyEnsemble(seed);
        const auto expected = walk(nlohmann::json::parse(store::printEnsemble(ensemble)));
        const Sheet sheet = sheetOf(ensemble);
        for (const Reading by : {Reading::move, Reading::hear}) {
            for (const Grouping group :
                 {Grouping::none, Grouping::controller, Grouping::instrument, Grouping::port}) {
                Wish wish;
                wish.by = by;
                wish.group = group;
                std::multiset<Walked> seen;
                std::set<int> rows;
                for (const Line& line : sheet.arranged(wish).lines) {
                    if (line.row < 0) continue;
                    QVERIFY(rows.insert(line.row).second);
                    const Assignment& row = sheet.rows()[static_cast<std::size_t>(line.row)];
                    if (row.chain == nullptr) continue;
                    seen.emplace(row.owner == nullptr ? "" : row.owner->id, row.chain->id, row.branch + 1,
                                 row.leads() == nullptr ? "" : row.leads()->target);
                }
                QVERIFY(seen == expected);
                QCOMPARE(rows.size(), sheet.rows().size());
            }
        }
    }

    void csvComesBack_data() { seeds(60); }
    void csvComesBack() {
        QFETCH(int, seed);
        const Ensemble ensemble = anyEnsemble(seed);
        const std::string text = printCsv(sheetOf(ensemble), {});
        const auto read = readCsv(ensemble, text);
        QVERIFY(static_cast<bool>(read));
        QVERIFY2(read->items.empty() && read->remarks.empty(),
                 read->items.empty() ? "" : read->items[0].name.c_str());
        QCOMPARE(store::printEnsemble(read->after), store::printEnsemble(ensemble));
        for (const AssignmentId& id : idsOf(ensemble)) QVERIFY(parseId(printId(id)) == id);
    }

    /// What a spreadsheet makes of a text is no change of it.
    void spacesAtTheEndsOfNames() {
        Ensemble ensemble = pair();
        findById(ensemble.instruments, "flute")->chains[0].name = " swell  ";
        findById(ensemble.instruments, "flute")->chains[0].branches[0].note = "=1+1";
        const auto read = readCsv(ensemble, printCsv(sheetOf(ensemble), {}));
        QVERIFY(static_cast<bool>(read));
        QVERIFY(read->items.empty());
        QVERIFY(read->after == ensemble);
    }

    void csvIsTypedIn() {
        const Ensemble ensemble = pair();
        profiles::Table table = profiles::parseTable(printCsv(sheetOf(ensemble), {}));
        const auto column = [&table](const char* title) {
            return static_cast<std::size_t>(std::find(table[0].begin(), table[0].end(), title) -
                                            table[0].begin());
        };
        table[1][column("From, to")] = "20–100";
        table[2][column("To")] = "loud";
        table[3][column("Chain")] = "Toll";
        table[4][0] = "oboe/swell/1";
        table.erase(table.begin() + 5, table.end());
        const auto read = readCsv(ensemble, profiles::printCsv(table));
        QVERIFY(static_cast<bool>(read));
        QCOMPARE(read->changed, std::size_t{2});
        QCOMPARE(read->refused, std::size_t{1});
        QCOMPARE(read->items[0].cells[0].before, std::string("30–127"));
        QCOMPARE(read->items[0].cells[0].after, std::string("20–100"));
        QCOMPARE(*read->items[1].complaint, std::string("To: a number"));
        QCOMPARE(read->remarks, std::vector<std::string>{"line 5: there is no row \"oboe/swell/1\" here"});
        QCOMPARE(read->after.instruments[0].chains[0].branches[0].low, Level(20.0));
        QCOMPARE(read->after.instruments[0].chains[0].branches[0].high, Level(100.0));
        QCOMPARE(read->after.instruments[1].chains[0].name, std::string("Toll"));
        // A table that is none of ours is refused.
        for (const char* other : {"", "Name,Message\nTone,CC 74\n", "\xff\xfe", "\"", ",,,\n,,,\n"}) {
            const auto refused = readCsv(ensemble, other);
            QVERIFY2(!refused, other);
        }
    }

    void numbers() {
        const Ensemble ensemble = pair();
        QCOMPARE(outletsOf(ensemble).size(), std::size_t{1});
        const NumberField field = numbersOf(ensemble, {"hall", 1});
        const auto use = [&field](std::size_t number) { return field.controls.at(number); };
        // Two chains send CC 11, one CC 74; the pedal passes through the flute; its wheel is taken.
        QVERIFY(use(11).use == Use::met);
        QCOMPARE(use(11).rows, (std::vector<AssignmentId>{swellLevel, ringLevel}));
        QVERIFY(use(74).use == Use::sent);
        QCOMPARE(use(74).rows.size(), std::size_t{2});  // and the bell's, which nothing moves
        QVERIFY(use(64).use == Use::passed);
        QCOMPARE(use(64).passing, std::vector<std::string>{"pedal"});
        QVERIFY(use(2).use == Use::passed);
        QVERIFY(use(1).use == Use::free);
        // A surface of the desk may move what a control moves, and so may what is mixed; what keeps its
        // original is sent and passed on.
        Ensemble other = ensemble;
        Chain& ring = findById(other.instruments, "bell")->chains[0];
        ring.source = makeSource(SourceKind::desk);
        QVERIFY(numbersOf(other, {"hall", 1}).controls[11].use == Use::sent);
        other = ensemble;
        findById(other.instruments, "bell")->parameters[0].mix = Mix::sum;
        QVERIFY(numbersOf(other, {"hall", 1}).controls[11].use == Use::sent);
        other = ensemble;
        findById(other.instruments, "flute")->chains[0].keepOriginal = true;
        QVERIFY(numbersOf(other, {"hall", 1}).controls[1].use == Use::passed);
        FreeNumbers free(ensemble);
        QCOMPARE(free.take({"hall", 1}, 10), 12);
        QCOMPARE(free.take({"hall", 1}, 10), 13);
        QCOMPARE(free.take({"hall", 1}, 63), 65);
        // Bank select, data entry and commands are no numbers for anything else.
        QCOMPARE(free.take({"hall", 1}, 119), 1);
        QCOMPARE(free.take({"elsewhere", 1}, 5), 7);
    }

    void bulkEdits() {
        const Ensemble ensemble = pair();
        const std::vector<AssignmentId> all{swellLevel, swellTone, ringLevel};
        const auto after = [&](const Bulk& edit) { return proposalOf(ensemble, all, edit); };
        const auto level = [](const Proposal& made, std::size_t instrument, std::size_t branch) {
            const Branch& at = made.after.instruments[instrument].chains[0].branches[branch];
            return std::pair(std::get<double>(at.low), std::get<double>(at.high));
        };
        QCOMPARE(level(after(bulk::turnRound()), 0, 0), (std::pair(127.0, 30.0)));
        QCOMPARE(level(after(bulk::scaleReach(0.5, bulk::About::low)), 1, 0), (std::pair(0.0, 45.0)));
        QCOMPARE(level(after(bulk::shiftReach(1)), 0, 1), (std::pair(127.0, 47.0)));
        QCOMPARE(after(bulk::exchangeReach()).refused, std::size_t{3});
        const Proposal exchanged = proposalOf(ensemble, {swellTone, ringLevel}, bulk::exchangeReach());
        QCOMPARE(level(exchanged, 0, 1), (std::pair(0.0, 90.0)));
        QCOMPARE(level(exchanged, 1, 0), (std::pair(100.0, 20.0)));
        QCOMPARE(
            after(bulk::numberFrom(bulk::Side::hear, 20)).after.instruments[1].parameters[0].message.number,
            22);
        const Proposal moved = after(bulk::moveNumbers(bulk::Side::hear, 60));
        QCOMPARE(moved.after.instruments[0].parameters[0].message.number, 71);
        QCOMPARE(moved.refused, std::size_t{1});
        QCOMPARE(*moved.items[1].complaint, std::string("its number goes from 0 to 127"));
        const Proposal free = after(bulk::useFreeNumbers());
        QCOMPARE(free.after.instruments[0].parameters[0].message.number, 12);
        QCOMPARE(free.after.instruments[0].parameters[1].message.number, 75);
        QCOMPARE(free.after.instruments[1].parameters[0].message.number, 13);
        QCOMPARE(after(bulk::rename(bulk::Named::chain, "* ##", 7)).after.instruments[1].chains[0].name,
                 std::string("ring 08"));
        QCOMPARE(after(bulk::rename(bulk::Named::hear, "p#", 1)).after.instruments[0].parameters[1].name,
                 std::string("p2"));
        QCOMPARE(after(bulk::setRest("5")).changed, std::size_t{3});
        const Proposal gone = proposalOf(ensemble, {swellLevel, ringLevel}, bulk::remove());
        QCOMPARE(gone.changed, std::size_t{2});
        QCOMPARE(gone.after.instruments[0].chains[0].branches.size(), std::size_t{1});
        QCOMPARE(gone.after.instruments[0].chains[0].branches[0].target, std::string("tone"));
        QVERIFY(gone.after.instruments[1].chains.empty());
        const Proposal given = proposalOf(ensemble, {swellTone}, bulk::giveTo({"bell"}));
        QCOMPARE(given.items[0].becomes, std::string("is given"));
        QCOMPARE(given.after.instruments[1].chains.size(), std::size_t{2});
        QCOMPARE(given.after.instruments[1].chains[1].branches.size(), std::size_t{1});
        QCOMPARE(given.after.instruments[1].chains[1].branches[0].target, std::string("tone"));
        QCOMPARE(given.after.instruments[1].parameters.size(), std::size_t{2});
        QCOMPARE(after(bulk::giveTo({"bell"})).refused, std::size_t{1});
        // A chain that is off comes on with the row that is switched on.
        Ensemble off = ensemble;
        findById(off.instruments, "bell")->chains[0].on = false;
        findById(off.instruments, "bell")->chains[0].branches[0].on = false;
        const Proposal on = proposalOf(off, {ringLevel}, bulk::setOn(true));
        QCOMPARE(on.items[0].cells[0].after, std::string("on"));
        // Reaches of different ranges are exchanged by their places in them.
        Ensemble hertz = ensemble;
        findById(hertz.instruments, "flute")->parameters[1].display = {0.0, 1270.0, "Hz", {}, {}, {}};
        const Proposal carried = proposalOf(hertz, {swellTone, ringLevel}, bulk::exchangeReach());
        QCOMPARE(level(carried, 0, 1), (std::pair(0.0, 900.0)));
        QCOMPARE(level(carried, 1, 0), (std::pair(10.0, 2.0)));
        // Steps: all that are the same, as one.
        const auto steps = bulk::stepsOf(ensemble, all);
        QCOMPARE(steps.size(), std::size_t{1});
        QCOMPARE(std::string(steps[0].kind->name), std::string("bend"));
        QCOMPARE(steps[0].values[0], std::optional(FieldValue(0.35)));
        const Proposal bent = after(bulk::changeStep("bend", 0, FieldValue(0.5)));
        QCOMPARE(bent.changed, std::size_t{2});
        QCOMPARE(bent.items[0].cells[0].after, std::string("Bend +0.5"));
        QCOMPARE(bent.refused, std::size_t{1});
        QCOMPARE(bent.after.instruments[0].chains[0].steps[0].values[0], FieldValue(0.5));
        QCOMPARE(after(bulk::removeStep("bend")).changed, std::size_t{2});
        QCOMPARE(after(bulk::addStep(makeStep(*findStepKind("reverse")))).changed, std::size_t{3});
    }

    /// Each random edit of all rows is the same as the edit made row by row, and changes what it says.
    void asIfOneByOne_data() { seeds(100); }
    void asIfOneByOne() {
        QFETCH(int, seed);
        std::mt19937 random(static_cast<unsigned>(seed) + 1);
        Ensemble ensemble = anyEnsemble(seed);
        for (int i = 0; i < 10; ++i) {
            std::vector<AssignmentId> rows = idsOf(ensemble);
            std::shuffle(rows.begin(), rows.end(), random);
            rows.resize((rows.size() + 1) / 2);
            const Bulk edit = randomBulk(random);
            const Ensemble before = ensemble;
            const Proposal made = proposalOf(ensemble, rows, edit);
            QVERIFY(ensemble == before);
            Ensemble single = ensemble;
            for (const AssignmentId& row : rows) edit.make(single, {row});
            QVERIFY2(single == made.after, edit.name.c_str());
            if (made.after == before) QCOMPARE(made.changed, std::size_t{0});
            ensemble = made.after;
        }
    }

    void cleaning() {
        Ensemble ensemble = pair();
        ensemble.tieLines = {{"swell", "Swell", 0, {}}};
        Controller spare;
        spare.id = spare.name = "spare";
        spare.port = "attic";
        ensemble.controllers.push_back(spare);
        Instrument& flute = *findById(ensemble.instruments, "flute");
        flute.chains.push_back(flute.chains[0]);
        flute.chains.back().id = flute.chains.back().name = "again";
        QStringList said;
        for (const Unused& each : unusedIn(ensemble))
            said << QString::fromStdString(each.group + ": " + each.words);
        QCOMPARE(said, (QStringList{"Parameters that nothing moves: tone of bell (CC 74)",
                                    "Chains that do the same: again of flute, as swell",
                                    "Tie lines that nobody writes or follows: Swell",
                                    "Controllers that no chain follows: spare on attic"}));
        for (const Unused& each : unusedIn(ensemble)) each.remove(ensemble);
        QVERIFY(unusedIn(ensemble).empty());
        QCOMPARE(ensemble.controllers.size(), std::size_t{1});
    }
    /// What repeats, is mixed, or is told its rest on being connected is no waste.
    void whatIsNotWaste() {
        Ensemble ensemble = pair();
        Instrument& flute = *findById(ensemble.instruments, "flute");
        flute.chains.push_back(flute.chains[0]);
        flute.chains.back().id = "again";
        findById(ensemble.instruments, "bell")->output.onConnect = OnConnect::rest;
        QCOMPARE(unusedIn(ensemble).size(), std::size_t{1});
        flute.parameters[0].repeats = true;
        QVERIFY(unusedIn(ensemble).empty());
        flute.parameters[0].repeats = false;
        flute.parameters[0].mix = Mix::sum;
        QVERIFY(unusedIn(ensemble).empty());
    }

    /// Whatever of it goes, what is sent stays the same.
    void cleaningChangesNothing_data() { seeds(400); }
    void cleaningChangesNothing() {
        QFETCH(int, seed);
        const Ensemble before = anyEnsemble(seed);
        Ensemble after = before;
        for (const Unused& each : unusedIn(before)) each.remove(after);
        test::RandomWorld world(static_cast<std::uint32_t>(seed) + 500);
        std::vector<std::string> lines;
        std::int64_t time = 0;
        for (int i = 0; i < 300; ++i) {
            time += world.gap();
            std::string line = std::to_string(time) + " " + world.port();
            for (const std::uint8_t byte : world.message()) {
                static constexpr char digits[] = "0123456789ABCDEF";
                line += {' ', digits[byte / 16], digits[byte % 16]};
            }
            lines.push_back(std::move(line));
        }
        test::Feeder one(before);
        test::Feeder other(after);
        QVERIFY(one.feed(lines) == other.feed(lines));
        QVERIFY(one.until(time + 2'000'000) == other.until(time + 2'000'000));
    }

    void paperSaysAll_data() { seeds(20); }
    void paperSaysAll() {
        QFETCH(int, seed);
        const Ensemble ensemble = anyEnsemble(seed);
        const Sheet sheet = sheetOf(ensemble);
        const Paper paper = paperOf(sheet, {}, check(ensemble), "30 November 2026");
        const std::string html = printHtml(paper);
        const std::string markdown = printMarkdown(paper);
        QVERIFY(html.find("30 November 2026") != std::string::npos);
        std::size_t rows = 0;
        for (const Chapter& chapter : paper.chapters) {
            for (const PaperSection& section : chapter.sections) {
                for (const auto& row : section.table.rows) QCOMPARE(row.size(), section.table.heads.size());
                if (chapter.title == "What you hear") rows += section.table.rows.size();
            }
        }
        std::size_t expected = 0;
        for (const Assignment& row : sheet.rows())
            expected += row.control == nullptr || row.chain != nullptr ? 1 : 0;
        QCOMPARE(rows, expected);
        // Every tag that is opened is closed.
        for (const char* tag : {"table", "tr", "td", "ol", "ul", "li", "section", "h3"}) {
            const auto count = [&html](const std::string& what) {
                std::size_t all = 0;
                for (auto at = html.find(what); at != std::string::npos; at = html.find(what, at + 1)) ++all;
                return all;
            };
            QCOMPARE(count("<" + std::string(tag) + ">") + count("<" + std::string(tag) + " "),
                     count("</" + std::string(tag) + ">"));
        }
    }
    void paperIsWritten() {
        Ensemble ensemble = pair();
        ensemble.title = "Tin & <b>";
        findById(ensemble.instruments, "flute")->chains[0].name = "a|b";
        const Paper paper = paperOf(sheetOf(ensemble), {}, {}, "");
        QVERIFY(printHtml(paper).find("<h1>Tin &amp; &lt;b&gt;</h1>") != std::string::npos);
        QVERIFY(printHtml(paper).find("<li>level 30–127, flute; eased in</li>") != std::string::npos);
        QVERIFY(printMarkdown(paper).find("- **wheel** (CC 1)\n  - level 30–127, flute; eased in") !=
                std::string::npos);
        KeptCurve kept;
        kept.id = "kept";
        kept.name = "flute, Wheel";
        kept.instrument = "flute";
        kept.heardFrom = "Practice rack";
        kept.measured = "2026-03-02T01:02:03Z";
        kept.half = -31.3;
        kept.full = -20;
        kept.state = "another";
        ensemble.measurements.push_back(kept);
        const std::string measured = printMarkdown(paperOf(sheetOf(ensemble), {}, {}, ""));
        QVERIFY2(measured.find(
                     "| flute, Wheel | too quiet | −31.3 | −20.0 |  | Practice rack | 2026-03-02, edited "
                     "since |") != std::string::npos,
                 measured.c_str());
        Wish found;
        found.find = "bell";
        const Paper part = paperOf(sheetOf(ensemble), found, {}, "");
        QCOMPARE(part.subtitle, std::string("2 of 5 rows, found by “bell”"));
        QCOMPARE(part.chapters.size(), std::size_t{2});
    }
};

QTEST_APPLESS_MAIN(SheetTest)
#include "sheet.moc"
