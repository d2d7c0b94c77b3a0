// Profiles as tables and as name documents.
#include <rapidcheck.h>
#include <QtTest>

#include "core/model/law.h"
#include "core/profiles/columns.h"
#include "core/profiles/message_text.h"
#include "core/profiles/name_document.h"
#include "core/profiles/select_text.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;
using profiles::Table;

namespace {

QString shown(const std::vector<Parameter>& parameters) {
    QStringList words;
    for (const Parameter& parameter : parameters)
        words << QString::fromStdString(parameter.name + "=" + profiles::messageText(parameter.message));
    return words.join("; ");
}

}  // namespace

class ProfilesTest : public QObject {
    Q_OBJECT

 private slots:
    void messagesAreReadAsPeopleWriteThem_data() {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<QString>("meant");
        const auto row = [](const char* typed, const char* meant) { QTest::newRow(typed) << typed << meant; };
        row("CC 74", "CC 74");
        row("cc74", "CC 74");
        row("74", "CC 74");
        row("Control Change #74", "CC 74");
        row("14-bit CC 1", "14-bit CC 1");
        row("CC14 1", "14-bit CC 1");
        row("CC 1, 14-bit", "14-bit CC 1");
        row("cc 14, 14 bits", "14-bit CC 14");
        row("CC 14", "CC 14");
        row("CC 14", "CC 14");
        row("CC 145", "CC 145");
        row("Pitch Bend", "Pitch bend");
        row("aftertouch", "Channel pressure");
        row("Poly aftertouch", "Key pressure");
        row("NRPN 300", "NRPN 300");
        row("RPN 0", "RPN 0");
        row("Note 24 at 90", "Note 24 at 90");
        row("key switch 24", "Note 24");
        row("Program, bank 1 3", "Program, bank 1 3");
        row("OSC /drone/cutoff", "OSC /drone/cutoff");
        row("velocity", "Velocity");
        row("Encoder 20 sign", "Encoder 20 sign");
        row("rubbish", "");
        row("CC", "");
        row("OSC", "");
        row("", "");
    }
    void messagesAreReadAsPeopleWriteThem() {
        QFETCH(QString, typed);
        QFETCH(QString, meant);
        const auto message = profiles::parseMessage(typed.toStdString());
        QCOMPARE(message ? QString::fromStdString(profiles::messageText(*message)) : QString(), meant);
    }

    void tablesAreTold_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QString>("parameters");
        QTest::newRow("cells, no titles")
            << QByteArray("Cutoff\t74\nResonance\t71\n") << "Cutoff=CC 74; Resonance=CC 71";
        QTest::newRow("cells, number first")
            << QByteArray("74\tCutoff\n71\tResonance\n") << "Cutoff=CC 74; Resonance=CC 71";
        QTest::newRow("titles of a chart, another order")
            << QByteArray("CC#,Parameter,Min,Max\r\n74,Cutoff,20,20000\r\n") << "Cutoff=CC 74";
        QTest::newRow("semicolons") << QByteArray("Name;Message\nCutoff;CC 74\n\"A;B\";NRPN 5\n")
                                    << "Cutoff=CC 74; A;B=NRPN 5";
        QTest::newRow("quotation marks and a byte order mark")
            << QByteArray("\xEF\xBB\xBFName,Message\n\"Say \"\"ah\"\", softly\",CC 3\n")
            << "Say \"ah\", softly=CC 3";
        QTest::newRow("a quotation mark that is not closed")
            << QByteArray("Name,Message\n\"Cut,CC 74\n") << "";
        QTest::newRow("a tab within a name") << QByteArray("Name,Message\n\"A\tB\",CC 3\n") << "A\tB=CC 3";
        QTest::newRow("nothing") << QByteArray("\n\n") << "";
    }
    void tablesAreTold() {
        QFETCH(QByteArray, text);
        QFETCH(QString, parameters);
        const auto said = profiles::thingsIn<Parameter>(profiles::parseTable(text.toStdString()));
        QCOMPARE(shown(said.things), parameters);
    }
    void aChartWithRangesIsRead() {
        const auto said = profiles::thingsIn<Parameter>(
            profiles::parseTable("Name\tCC\tMin\tMax\tUnit\tLaw\tChoices\tDefault\n"
                                 "Cutoff\t74\t20\t20k\tHz\tlog\t\t1 kHz\n"
                                 "Rotor\t80\t\t\t\t\tStop | Slow | Fast\tSlow\n"
                                 "Odd\t81\tlow\t\t\t\t\t\n"
                                 "Nameless\t\t\t\t\t\t\t\n"));
        QCOMPARE(said.things.size(), 3U);
        QCOMPARE(*said.things[0].display.high, 20000.0);
        QCOMPARE(std::get<double>(*said.things[0].rest), 1000.0);
        QCOMPARE(said.things[1].display.choices.size(), 3U);
        QCOMPARE(std::get<std::string>(*said.things[1].rest), std::string("Slow"));
        QCOMPARE(said.complaints.size(), 2U);
        QVERIFY(said.complaints[0].starts_with("row 4: \"low\" is no number"));
        QVERIFY(said.complaints[1].starts_with("row 5: no cell"));
    }

    /// Whatever a profile holds, as far as its columns go, is the same after a way through CSV.
    void csvGoesRound() {
        QVERIFY(rc::check("print then read", [] {
            test::RandomWorld world(
                *rc::gen::noShrink(rc::gen::resize(1000, rc::gen::arbitrary<std::uint32_t>())));
            const Ensemble ensemble = world.ensemble();
            for (const Instrument& instrument : ensemble.instruments) {
                const auto table = profiles::tableOf(instrument.parameters);
                const auto again =
                    profiles::thingsIn<Parameter>(profiles::parseTable(profiles::printCsv(table)));
                RC_ASSERT(again.things.size() == instrument.parameters.size());
                RC_ASSERT(profiles::tableOf(again.things) == table);
                const auto cells =
                    profiles::thingsIn<Parameter>(profiles::parseTable(profiles::printCells(table)));
                RC_ASSERT(profiles::tableOf(cells.things) == table);
            }
        }));
    }
    void rowsAreMergedAndNumbered() {
        std::vector<Parameter> list{test::ccParameter("a", 20), test::ccParameter("b", 40),
                                    test::ccParameter("c", 60)};
        Parameter again = test::ccParameter("other", 40);
        again.name = "b";
        again.display.unit = "%";
        QCOMPARE(profiles::merge(list, {again, test::ccParameter("d", 80)}), 1);
        QCOMPARE(list.size(), 4U);
        QCOMPARE(list[1].id, std::string("b"));
        QCOMPARE(list[1].display.unit, std::string("%"));
        profiles::renumber(list, {1, 2, 3});
        QCOMPARE(list[3].message.number, 42);
        list[1].message.number = 126;
        profiles::renumber(list, {1, 2, 3});
        QCOMPARE(list[2].message.number, 127);
        QCOMPARE(list[3].message.number, 42);
    }

    void aNameDocumentIsRead() {
        const auto named = profiles::parseNames(R"(<?xml version="1.0"?>
<!DOCTYPE MIDINameDocument PUBLIC "x" "y">
<MIDINameDocument><Author/>
 <MasterDeviceNames><Manufacturer>Tin &amp; Co</Manufacturer><Model>Drone</Model>
  <ChannelNameSet Name="All">
   <PatchBank Name="Storms"><MIDICommands><ControlChange Control="0" Value="2"/></MIDICommands>
    <UsesPatchNameList Name="List"/></PatchBank></ChannelNameSet>
  <PatchNameList Name="List"><Patch Number="1" Name="Breeze" ProgramChange="0"/>
   <Patch Number="2" Name="Gale" ProgramChange="2"/></PatchNameList>
  <NoteNameList><Note Number="36" Name="Kick"/></NoteNameList>
  <ControlNameList Name="Controls">
   <Control Type="7bit" Number="74" Name="Cutoff"><Values Min="0" Max="100" Units="%" Default="25"/></Control>
   <Control Type="7bit" Number="80" Name="Rotor"><Values><UsesValueNameList Name="Switch"/></Values></Control>
   <Control Type="7bit" Number="81" Name="Uneven"><Values>
     <ValueNameList><Value Number="16" Name="a"/><Value Number="32" Name="b"/></ValueNameList></Values></Control>
   <Control Type="14bit" Number="1" Name="Swell"/><Control Type="NRPN" Number="300" Name="Depth"/>
   <Control Type="9bit" Number="3" Name="Nothing"/><Control Number="74" Name="Again"/>
  </ControlNameList>
  <ValueNameList Name="Switch"><Value Number="0" Name="Off"/><Value Number="64" Name="On"/></ValueNameList>
 </MasterDeviceNames></MIDINameDocument>)");
        QVERIFY(static_cast<bool>(named));
        QCOMPARE(named->instruments.size(), 1U);
        const Instrument& drone = named->instruments[0];
        QCOMPARE(drone.name, std::string("Tin & Co Drone"));
        QCOMPARE(shown(drone.parameters),
                 QString("Storms=Program, bank 2 0; Cutoff=CC 74; Rotor=CC 80; Uneven=CC 81; "
                         "Swell=14-bit CC 1; Depth=NRPN 300"));
        QCOMPARE(drone.parameters[0].display.choices,
                 (std::vector<std::string>{"Breeze", "Program 1", "Gale"}));
        QCOMPARE(std::get<double>(*drone.parameters[1].rest), 25.0);
        QCOMPARE(*drone.parameters[1].display.high, 100.0);
        QCOMPARE(drone.parameters[2].display.choices, (std::vector<std::string>{"Off", "On"}));
        QVERIFY(!drone.parameters[3].display.law);
        QCOMPARE(named->remarks.size(), 2U);
    }
    void aNameDocumentGoesRound() {
        Instrument drone = test::instrument("drone");
        drone.name = "Weather <drone>";
        drone.parameters[0].display = {0.0, 100.0, "%", Law::linear, {}, {}};
        drone.parameters[0].rest = 40.0;
        drone.parameters[1].display.law = Law::choices;
        drone.parameters[1].display.choices = {"Calm", "Wind & rain", "Storm"};
        Parameter bend = test::ccParameter("bend", 0);
        bend.message.kind = MessageKind::bend;
        drone.parameters.push_back(bend);
        const auto printed = profiles::printNames(drone);
        QCOMPARE(printed.remarks.size(), 1U);
        const auto again = profiles::parseNames(printed.text);
        QVERIFY(static_cast<bool>(again));
        QCOMPARE(again->instruments[0].name, drone.name);
        QCOMPARE(again->instruments[0].parameters.size(), 2U);
        const Range range = rangeOf(again->instruments[0].parameters[0]);
        QVERIFY(range.low == 0 && range.high == 100 && range.unit == "%");
        QCOMPARE(*again->instruments[0].parameters[0].rest, *drone.parameters[0].rest);
        QCOMPARE(again->instruments[0].parameters[1].display.choices, drone.parameters[1].display.choices);
    }
    void whatIsNoNameDocumentIsRefused_data() {
        QTest::addColumn<QByteArray>("text");
        QTest::addColumn<QString>("says");
        QTest::newRow("text") << QByteArray("hello") << "line 1: this is no XML";
        QTest::newRow("cut") << QByteArray("<MIDINameDocument>\n<Master") << "line 2: this is no XML";
        QTest::newRow("other") << QByteArray("<svg/>") << "expected a MIDINameDocument, found \"svg\"";
        QTest::newRow("empty") << QByteArray("<MIDINameDocument/>") << "names no control and no program";
    }
    void whatIsNoNameDocumentIsRefused() {
        QFETCH(QByteArray, text);
        QFETCH(QString, says);
        const auto named = profiles::parseNames(text.toStdString());
        QVERIFY(!named);
        const QString sentence = QString::fromStdString(named.problem().sentence());
        QVERIFY2(sentence.contains(says), qPrintable(sentence));
    }

    // Articulations.

    void selectsAreReadAsChartsHaveThem_data() {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<QString>("meant");
        const auto row = [](const char* typed, const char* meant) { QTest::newRow(typed) << typed << meant; };
        row("24", "Key C1");
        row("C1", "Key C1");
        row("c-1", "Key C-1");
        row("F#2", "Key F#2");
        row("Gb2", "Key F#2");
        row("key 24 held", "Key C1 held");
        row("Key switch D1, velocity 5, held", "Key D1 velocity 5 held");
        row("KS 26", "Key D1");
        row("CC 32 = 5", "CC 32 = 5");
        row("cc32 5", "");
        row("CC 32 5", "CC 32 = 5");
        row("Program 3", "Program 3");
        row("program 3 of bank 1/2", "Program 3 of bank 1/2");
        row("channel 4", "Channel 4");
        row("ch 4 + C1", "Channel 4 + Key C1");
        row("CC 32 = 5; program 3", "CC 32 = 5 + Program 3");
        row("", "");
        row("G9", "Key G9");
        row("G#9", "");
        row("CC 32", "");
        row("nonsense", "");
        row("channel 2 held", "");
    }
    void selectsAreReadAsChartsHaveThem() {
        QFETCH(QString, typed);
        QFETCH(QString, meant);
        const auto select = profiles::parseSelect(typed.toStdString());
        QCOMPARE(select ? QString::fromStdString(profiles::selectText(*select)) : QString(), meant);
    }

    /// What is printed is read again as the same, whatever it is.
    void anySelectIsTextAndBack() {
        QVERIFY(rc::check("print then parse", [] {
            Select select;
            select.kind = static_cast<SelectKind>(*rc::gen::inRange(0, 4));
            const auto data = rc::gen::inRange(0, 128);
            const bool isNote = select.kind == SelectKind::note;
            if (isNote || select.kind == SelectKind::cc) select.number = *data;
            if (isNote) {
                select.velocity = *rc::gen::inRange(1, 128);
                select.held = *rc::gen::arbitrary<bool>();
            } else {
                select.value = select.kind == SelectKind::channel ? *rc::gen::inRange(1, 17) : *data;
            }
            if (select.kind == SelectKind::program && *rc::gen::arbitrary<bool>())
                select.bank = {*data, *data};
            const std::vector<Select> all{select, select};
            const auto again = profiles::parseSelect(profiles::selectText(all));
            RC_ASSERT(again.has_value());
            RC_ASSERT(*again == all);
        }));
    }

    /// A chart with titles in its own order, and one without any.
    void aChartOfArticulations() {
        const auto read = [](const char* text) {
            const auto said = profiles::thingsIn<Articulation>(profiles::parseTable(text));
            QStringList words;
            for (const Articulation& each : said.things) {
                words << QString::fromStdString(each.name + "=" + profiles::selectText(each.select) + "@" +
                                                std::to_string(each.lowKey) + "-" +
                                                std::to_string(each.highKey));
                for (const std::string& name : each.answersTo)
                    words.last() += " " + QString::fromStdString(name);
            }
            for (const std::string& complaint : said.complaints) words << QString::fromStdString(complaint);
            return words;
        };
        QCOMPARE(
            read(
                "Key switch\tTechnique\tRange\tAlso\nC1\tLong\tC2 to C6\tSustain, Ringing\nC#1\tShort\t\t\n"),
            (QStringList{"Long=Key C1@36-84 Sustain Ringing", "Short=Key C#1@0-127"}));
        QCOMPARE(read("Long\tC1\nShort\t25\nTrill\tCC 32 = 7\n"),
                 (QStringList{"Long=Key C1@0-127", "Short=Key C#1@0-127", "Trill=CC 32 = 7@0-127"}));
        QCOMPARE(
            read("Name\tSelected by\nLong\tbanana\n"),
            (QStringList{"row 2: \"banana\" selects nothing; write it as “C1”, “CC 32 = 5”, “Program 3” or "
                         "“Channel 2”, several with +"}));
    }

    /// A chart that counts octaves otherwise is moved as one, or not at all.
    void switchesMoveAsOne() {
        std::vector<Articulation> list(2);
        list[0].select = {Select{}};
        list[0].select[0].number = 12;
        list[1].select = {Select{}};
        list[1].select[0].number = 120;
        QVERIFY(!profiles::transposeSwitches(list, {}, 12));
        QCOMPARE(list[0].select[0].number, 12);
        QVERIFY(profiles::transposeSwitches(list, {0}, 12));
        QCOMPARE(list[0].select[0].number, 24);
        QCOMPARE(list[1].select[0].number, 120);
        profiles::renumber(list, {0, 1});
        QCOMPARE(list[1].select[0].number, 25);
    }
};

QTEST_GUILESS_MAIN(ProfilesTest)
#include "profiles.moc"
