// Assignments as rows: all of them are there once, each says what the ensemble says, and what a cell says can
// be typed into it.
#include <QtTest>
#include <set>

#include "core/assignments/columns.h"
#include "core/assignments/search.h"
#include "core/describe/source_words.h"
#include "core/model/edit.h"
#include "core/model/visit.h"
#include "core/store/ensemble_json.h"
#include "core/store/instrument_state.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;

namespace {

std::string cell(const Ensemble& ensemble, const Assignment& row, const char* column) {
    return findAssignmentColumn(column)->text(ensemble, row);
}

/// "target · chain" of all that a search finds.
QStringList found(const Ensemble& ensemble, const char* typed) {
    QStringList all;
    const AssignmentSearch search = assignmentSearch(typed);
    for (const Assignment& row : assignmentsOf(ensemble)) {
        if (isFound(search, ensemble, row))
            all << QString::fromStdString(cell(ensemble, row, "target") + " · " +
                                          cell(ensemble, row, "move"));
    }
    return all;
}

/// One instrument: the wheel of a keyboard to expression and, falling, to a tone in Hz; breath to nothing.
Ensemble small() {
    Ensemble ensemble;
    Controller keys;
    keys.id = "keys";
    keys.name = "North keys";
    keys.port = "north";
    for (const auto& [id, number] : {std::pair{"wheel", 1}, {"breath", 2}, {"pedal", 11}}) {
        ControllerControl control;
        control.id = control.name = id;
        control.message.number = number;
        keys.controls.push_back(control);
    }
    ensemble.controllers.push_back(keys);
    Instrument flute = test::instrument("flute", 3);
    flute.name = "Bass flute";
    Parameter tone = test::ccParameter("tone", 74);
    tone.name = "Tone";
    tone.display = {20.0, 20000.0, "Hz", Law::log, {}, {}};
    flute.parameters = {test::ccParameter("expression", 11), tone, test::ccParameter("rasp", 21)};
    Source wheel = makeSource(SourceKind::control);
    wheel.controller = "keys";
    wheel.control = "wheel";
    flute.chains = {test::chain("swell", wheel, {test::step("bend", {0.35})},
                                {test::branch("expression", 30, 127), test::branch("tone", 6200, 400)}),
                    test::chain("breath", test::ccSource(2), {}, {})};
    ensemble.instruments = {flute};
    return ensemble;
}

}  // namespace

class AssignmentsTest : public QObject {
    Q_OBJECT

 private slots:
    void rows() {
        const Ensemble ensemble = small();
        const auto all = assignmentsOf(ensemble);
        QCOMPARE(all.size(), std::size_t{5});
        QCOMPARE(cell(ensemble, all[0], "move"), std::string("wheel"));
        QCOMPARE(cell(ensemble, all[0], "controller"), std::string("North keys"));
        QCOMPARE(cell(ensemble, all[0], "port"), std::string("north"));
        QCOMPARE(cell(ensemble, all[0], "message"), std::string("CC 1"));
        QCOMPARE(cell(ensemble, all[0], "reach"), std::string("30–127"));
        QCOMPARE(cell(ensemble, all[0], "sends"), std::string("CC 11 on ch 3"));
        QCOMPARE(cell(ensemble, all[1], "reach"), std::string("6.2 kHz falling to 400 Hz"));
        QCOMPARE(cell(ensemble, all[1], "direction"), std::string("falls"));
        QCOMPARE(cell(ensemble, all[1], "way"), std::string("eased in"));
        // A chain without targets, a control that nothing listens to, a parameter that nothing moves.
        QCOMPARE(cell(ensemble, all[2], "state"), std::string("leads nowhere"));
        QCOMPARE(cell(ensemble, all[2], "controller"), std::string("North keys"));
        QCOMPARE(cell(ensemble, all[3], "state"), std::string("unused"));
        QCOMPARE(cell(ensemble, all[3], "move"), std::string("pedal"));
        QCOMPARE(cell(ensemble, all[4], "state"), std::string("unmoved"));
        QCOMPARE(cell(ensemble, all[4], "target"), std::string("rasp"));
    }

    /// How loud the instrument is along what moves a row, where that was measured and kept: the newest
    /// counts.
    void loudness() {
        Ensemble ensemble = small();
        const std::string flute = std::as_const(ensemble.instruments)[0].id;
        const auto kept = [&](const char* moved, const char* day, std::optional<double> full) {
            KeptCurve curve;
            curve.id = std::string("m") + day;
            curve.instrument = flute;
            curve.moved = moved;
            curve.measured = std::string(day) + "T01:02:03Z";
            curve.full = full;
            curve.range = 23.04;
            curve.bump = 1.26;
            ensemble.measurements.push_back(curve);
        };
        const std::string wheel = describe::sourceWords(assignmentsOf(ensemble)[0].chain->source);
        kept(wheel.c_str(), "2026-03-02", -20.0);
        kept(wheel.c_str(), "2026-03-01", -10.0);
        kept("parameter rasp", "2026-03-03", std::nullopt);
        kept("velocity", "2026-03-04", -1.0);
        const auto all = assignmentsOf(ensemble);
        QCOMPARE(cell(ensemble, all[0], "loudAtFull"), std::string("−20.0"));
        QCOMPARE(cell(ensemble, all[0], "loudAtRest"), std::string("too quiet"));
        QCOMPARE(cell(ensemble, all[1], "loudRange"), std::string("23.0"));
        QCOMPARE(cell(ensemble, all[1], "loudBump"), std::string("1.3"));
        QCOMPARE(cell(ensemble, all[0], "measured"), std::string("2026-03-02"));
        QCOMPARE(cell(ensemble, all[3], "loudAtFull"), std::string());
        QCOMPARE(cell(ensemble, all[4], "loudAtFull"), std::string("too quiet"));
        QCOMPARE(cell(ensemble, all[4], "measured"), std::string("2026-03-03"));
        QCOMPARE(*sortKeyOf(ensemble, *findAssignmentColumn("loudAtFull"), all[0]).number, -20.0);
        QVERIFY(typeInto(ensemble, *findAssignmentColumn("loudAtFull"), idOf(all[0]), "-30").has_value());
        // One row alone is told the same.
        for (const Assignment& row : all) {
            const auto alone = assignmentAt(ensemble, idOf(row));
            QVERIFY(alone.has_value());
            QCOMPARE(alone->loudness == nullptr, row.loudness == nullptr);
            if (row.loudness != nullptr) QCOMPARE(&alone->loudness->curve(), &row.loudness->curve());
        }
    }

    /// Whether the instrument was edited since is the same for all rows that have one measurement.
    void measuredBefore() {
        Ensemble ensemble = small();
        KeptCurve curve;
        curve.id = "m";
        curve.instrument = std::as_const(ensemble.instruments)[0].id;
        curve.moved = describe::sourceWords(assignmentsOf(ensemble)[0].chain->source);
        curve.measured = "2026-03-02T01:02:03Z";
        curve.state = store::stateOf(ensemble, curve.instrument);
        ensemble.measurements.push_back(curve);
        const auto saysEdited = [&ensemble](std::size_t row) {
            return cell(ensemble, assignmentsOf(ensemble)[row], "measured").find("edited since") !=
                   std::string::npos;
        };
        const auto all = assignmentsOf(ensemble);
        QCOMPARE(all[0].loudness, all[1].loudness);
        QVERIFY(!saysEdited(0));
        ensemble.instruments.front().chains.front().keepOriginal ^= true;
        QVERIFY(saysEdited(0));
        QVERIFY(saysEdited(1));
        ensemble.instruments.front().chains.front().keepOriginal ^= true;
        QVERIFY(!saysEdited(0));
    }

    void searching_data() {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<QStringList>("expected");
        const auto row = [](const char* typed, const QStringList& expected) {
            QTest::newRow(typed) << QString::fromUtf8(typed) << expected;
        };
        const QString expression = "expression · wheel";
        const QString tone = "Tone · wheel";
        row("falls", {tone});
        row("wheel FLUTE", {expression, tone});
        row("flute tone wheel", {tone});
        row("cc 1", {expression, tone});
        row("cc 11", {expression, " · pedal"});
        row("ch 3", {expression, tone, "rasp · "});
        row("unused", {" · pedal"});
        row("unmoved", {"rasp · "});
        row("> 5 kHz", {tone});
        row(">5khz", {tone});
        row("> 7 kHz", {});
        row("< 35 wheel", {expression});
        row("\"eased in\" rises", {expression});
        row("ased", {});
        row("", {expression, tone, " · Breath", " · pedal", "rasp · "});
    }
    void searching() {
        QFETCH(QString, typed);
        QFETCH(QStringList, expected);
        if (typed.isEmpty()) expected[2] = " · breath";
        QCOMPARE(found(small(), typed.toUtf8().constData()), expected);
    }

    void typing_data() {
        QTest::addColumn<QString>("column");
        QTest::addColumn<QString>("typed");
        QTest::addColumn<QString>("reads");
        QTest::addColumn<QString>("complaint");
        const auto row = [](const char* column, const char* typed, const char* reads, const char* complaint) {
            QTest::addRow("%s %s", column, typed) << QString::fromUtf8(column) << QString::fromUtf8(typed)
                                                  << QString::fromUtf8(reads) << QString::fromUtf8(complaint);
        };
        row("low", "8k", "8 kHz", "");
        row("low", "loud", "6.2 kHz", "a number in Hz");
        row("high", "100/2", "50 Hz", "");
        row("direction", "rises", "rises", "");
        row("direction", "sideways", "falls", "it rises or falls");
        row("state", "off", "off", "");
        row("state", "only in hand", "only in hand", "");
        row("state", "maybe", "on", "on, off, or only in hand");
        row("reach", "20-30", "20–30 Hz", "");
        row("reach", "400 to 6.2k", "400 Hz–6.2 kHz", "");
        row("reach", "6.2 kHz falling to 400 Hz", "6.2 kHz falling to 400 Hz", "");
        row("reach", "always 1 kHz", "always 1 kHz", "");
        row("reach", "loud", "6.2 kHz falling to 400 Hz", "two numbers in Hz, as 30–127");
        row("move", "pedal", "pedal", "");
        row("move", "CC 7", "Volume", "");
        row("move", "whatever", "wheel", "the name of a control, or a message such as CC 11");
        row("target", "rasp", "rasp", "");
        row("target", "bass flute RASP", "rasp", "");
        row("target", "oboe", "Tone", "Bass flute has no parameter that is called so");
        row("sends", "CC 75 on ch 4", "CC 75 on ch 4", "");
        row("sends", "cc 75", "CC 75 on ch 3", "");
        row("sends", "cc 300", "CC 74 on ch 3", "its number goes from 0 to 127");
        row("out", "5", "ch 5", "");
        row("out", "17", "ch 3", "a channel is a number from 1 to 16");
        row("outPort", "south", "south", "");
        row("port", "west", "west", "");
        row("rest", "2k", "2 kHz", "");
        row("rest", "30k", "650 Hz", "it lies outside the parameter’s range");
        row("note", "for the night", "for the night", "");
        row("way", "eased out", "eased in", "it is only read here");
        row("locked", "locked", "locked", "");
        row("chain", "Dusk", "Dusk", "");
        row("chain", " ", "swell", "a chain needs a name");
        row("channel", "4", "any", "it follows a control of a controller, whose message is said in Gear");
    }
    void typing() {
        QFETCH(QString, column);
        QFETCH(QString, typed);
        QFETCH(QString, reads);
        QFETCH(QString, complaint);
        Ensemble ensemble = small();
        const Ensemble before = ensemble;
        const AssignmentId id = idOf(assignmentsOf(ensemble)[1]);
        const AssignmentColumn& at = *findAssignmentColumn(column.toStdString());
        const auto why = typeInto(ensemble, at, id, typed.toStdString());
        QCOMPARE(QString::fromStdString(why.value_or("")), complaint);
        QCOMPARE(QString::fromStdString(at.text(ensemble, assignmentsOf(ensemble)[1])), reads);
        QVERIFY(complaint.isEmpty() || ensemble == before);
    }
    void typingAMessage() {
        Ensemble ensemble = small();
        const AssignmentId id = idOf(assignmentsOf(ensemble)[2]);
        const AssignmentColumn& message = *findAssignmentColumn("message");
        QVERIFY(!message.set(ensemble, id, "cc 11"));
        QCOMPARE(ensemble.instruments[0].chains[1].source.number, 11);
        // Then it is the pedal's, and breath is free.
        QCOMPARE(cell(ensemble, assignmentsOf(ensemble)[2], "move"), std::string("pedal"));
        QCOMPARE(cell(ensemble, assignmentsOf(ensemble)[3], "move"), std::string("breath"));
        QVERIFY(message.set(ensemble, id, "cc 900"));
        QVERIFY(message.set(ensemble, id, "articulation"));
        QVERIFY(!findAssignmentColumn("channel")->set(ensemble, id, "ch 12"));
        QCOMPARE(cell(ensemble, assignmentsOf(ensemble)[2], "channel"), std::string("ch 12"));
        QVERIFY(findAssignmentColumn("channel")->set(ensemble, id, "17"));
        // What is gone is said.
        ensemble.instruments[0].chains.clear();
        for (const AssignmentColumn& column : assignmentColumns())
            QCOMPARE(*typeInto(ensemble, column, id, "x"), std::string("it is not there any more"));
    }

    void sorting() {
        const Ensemble ensemble = small();
        auto all = assignmentsOf(ensemble);
        const auto by = [&](const char* column) {
            std::stable_sort(all.begin(), all.end(), [&](const Assignment& one, const Assignment& other) {
                const AssignmentColumn& in = *findAssignmentColumn(column);
                return standsBefore(sortKeyOf(ensemble, in, one), sortKeyOf(ensemble, in, other));
            });
            return cell(ensemble, all[0], "target");
        };
        QCOMPARE(by("low"), std::string("expression"));
        QCOMPARE(by("high"), std::string("expression"));
        QCOMPARE(by("target"), std::string());
        QCOMPARE(by("direction"), std::string());
    }

    /// In documents that nobody prepared: every branch is a row, and only one; every control and parameter is
    /// in some row; ids name their rows; and what a cell says, typed into it, changes nothing.
    void anyEnsemble_data() {
        QTest::addColumn<int>("seed");
        QTest::newRow("the demo") << 0;
        for (int seed = 1; seed <= 60; ++seed) QTest::addRow("random %d", seed) << seed;
    }
    void anyEnsemble() {
        QFETCH(int, seed);
        const Ensemble ensemble =
            seed == 0 ? test::demo() : test::RandomWorld(static_cast<std::uint32_t>(seed)).ensemble();
        const auto all = assignmentsOf(ensemble);
        std::set<AssignmentId> ids;
        std::set<const void*> seen;
        for (const Assignment& row : all) {
            const AssignmentId id = idOf(row);
            QVERIFY(ids.insert(id).second);
            if (row.leads() != nullptr) QVERIFY(seen.insert(row.leads()).second);
            seen.insert(row.target.parameter);
            seen.insert(row.control);
            Ensemble typed = ensemble;
            QVERIFY((branchOf(typed, id) != nullptr) == (row.leads() != nullptr));
            for (const AssignmentColumn& column : assignmentColumns()) {
                const std::string text = column.text(ensemble, row);
                if (text.empty()) continue;
                if (column.set != nullptr) {
                    const auto why = column.set(typed, id, text);
                    const auto after = assignmentsOf(typed);
                    const auto same = std::find_if(after.begin(), after.end(), [&id](const Assignment& each) {
                        return idOf(each) == id;
                    });
                    QVERIFY(same != after.end());
                    QVERIFY2(why || column.text(typed, *same) == text,
                             qPrintable(QString::fromStdString(std::string(column.key) + ": " + text)));
                    typed = ensemble;
                }
                if (text.find('"') == std::string::npos)
                    QVERIFY2(isFound(assignmentSearch("\"" + text + "\""), ensemble, row), text.c_str());
            }
        }
        forEachChain(ensemble, [&](const Chain& chain, const Instrument*) {
            for (const Branch& branch : chain.branches) QVERIFY(seen.contains(&branch));
        });
        for (const Instrument& instrument : ensemble.instruments) {
            for (const Parameter& parameter : instrument.parameters) QVERIFY(seen.contains(&parameter));
        }
    }
};

QTEST_APPLESS_MAIN(AssignmentsTest)
#include "assignments.moc"
