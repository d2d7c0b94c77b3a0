// Profiles in the Gear page: typed, pasted, filled, numbered, imported, exported, and written by walking
// through a controller.
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QDialog>
#include <QDropEvent>
#include <QMimeData>
#include <QTableView>
#include <QTableWidget>

#include "app/document/library_folder.h"
#include "app/pages/gear/gear_page.h"
#include "core/checks/check.h"
#include "core/files/files.h"
#include "core/model/edit.h"
#include "support/build.h"
#include "support/stage.h"
#include "support/witness.h"

using namespace mellow;
using namespace mellow::app;

namespace {

struct Stage : test::Stage {
    explicit Stage(bool empty = true) : test::Stage(empty) {
        key(Qt::Key_4, Qt::ControlModifier);
        click("showProfile");
    }
    ProfilePanel& panel() { return *window->findChild<ProfilePanel*>(); }
    ProfileModel& model() { return panel().model(); }
    QTableView& table() { return *panel().findChild<QTableView*>(QStringLiteral("profileTable")); }
    QString cell(int row, int column) { return model().index(row, column).data().toString(); }
    void select(int row, int column, int lastRow) {
        table().selectionModel()->select({model().index(row, column), model().index(lastRow, column)},
                                         QItemSelectionModel::ClearAndSelect);
        table().selectionModel()->setCurrentIndex(model().index(row, column), QItemSelectionModel::NoUpdate);
    }
    void showInstrument() {
        window->actions().addInstrument();
        window->showPage(3);
        panel().show(ProfilePlace::parameters(ensemble().instruments[0].id));
    }
    const std::vector<ControllerControl>& controls() { return ensemble().controllers.at(0).controls; }
};

}  // namespace

class ProfilesTest : public QObject {
    Q_OBJECT

 private slots:
    void initTestCase() { QStandardPaths::setTestModeEnabled(true); }

    /// Of a port that sends two controls, a pair, an encoder and a button, with a trembling pedal beside
    /// them.
    void aProfileWritesItselfByWalkingThrough() {
        Stage stage;
        QVERIFY(stage.panel().findChild<QLabel*>(QStringLiteral("profileEmpty"))->isVisible());
        stage.panel().addController();
        const int steps = stage.window->document().undoStack().index();
        stage.click("walkThrough");
        QVERIFY(stage.shown("walkText").contains(QStringLiteral("Move each control")));
        const auto written = [&](std::size_t count) {
            return QTest::qWaitFor([&] { return stage.controls().size() == count; });
        };
        stage.move(21);
        QVERIFY(written(1));
        for (int value = 0; value < 16384; value += 300) {
            stage.send(
                {0xE0, static_cast<std::uint8_t>(value % 128), static_cast<std::uint8_t>(value / 128)});
            if (value % 1200 == 0)
                stage.send({0xB0, 4, static_cast<std::uint8_t>(value % 1000 == 0 ? 60 : 61)});
        }
        QVERIFY(written(2));
        for (int i = 0; i < 12; ++i) stage.send({0xB0, 50, 1});
        for (int i = 0; i < 6; ++i) stage.send({0xB0, 50, 127});
        QVERIFY(written(3));
        // A spring that comes back to its middle.
        for (const int value : {64, 90, 127, 90, 64, 30, 0, 30, 64})
            stage.send({0xB0, 22, static_cast<std::uint8_t>(value)});
        QVERIFY(written(4));
        QVERIFY(stage.shown("walkText").contains(QStringLiteral("which rests in the middle")));
        // Buttons in quick succession, and pads on the drums' channel: each is heard.
        for (const std::uint8_t number : {60, 61, 62}) {
            stage.send({0xB0, number, 127});
            stage.send({0xB0, number, 0});
        }
        QVERIFY(written(7));
        for (const std::uint8_t pad : {36, 38, 36}) stage.send({0x99, pad, 90});
        QVERIFY(written(9));
        QCOMPARE(stage.controls()[4].message.number, 60);
        QCOMPARE(stage.controls()[6].message.number, 62);
        QCOMPARE(stage.controls()[7].message.kind, MessageKind::note);
        QCOMPARE(stage.controls()[8].message.number, 38);
        // What is there already is pointed at, and not written twice.
        stage.move(21);
        QTRY_VERIFY(stage.shown("walkText").startsWith(QStringLiteral("CC 21")));
        QCOMPARE(stage.controls().size(), 9U);
        stage.click("walkThrough");
        QCOMPARE(stage.controls()[0].message.number, 21);
        QCOMPARE(stage.controls()[1].message.kind, MessageKind::bend);
        QCOMPARE(stage.controls()[2].message.kind, MessageKind::relative);
        QVERIFY(stage.controls()[3].rest == Rest::middle);
        QCOMPARE(stage.window->document().undoStack().index(), steps + 1);
        stage.goesBackAndForth();
    }
    void cellsAreTyped() {
        Stage stage;
        stage.showInstrument();
        stage.window.editsOnce(
            [&] { stage.model().setData(stage.model().index(0, 1), "NRPN 300", Qt::EditRole); });
        QCOMPARE(stage.cell(0, 1), QStringLiteral("NRPN 300"));
        // By hand: a double click opens the cell.
        stage.table().scrollTo(stage.model().index(0, 0));
        const QPoint at = stage.table().visualRect(stage.model().index(0, 0)).center();
        QTest::mouseClick(stage.table().viewport(), Qt::LeftButton, {}, at);
        QTest::mouseDClick(stage.table().viewport(), Qt::LeftButton, {}, at);
        auto* field = stage.table().findChild<QLineEdit*>();
        QVERIFY(field != nullptr);
        test::type(field, QStringLiteral("Loudness"));
        QCOMPARE(stage.ensemble().instruments[0].parameters[0].name, std::string("Loudness"));
        // Nonsense is refused with a sentence, and changes nothing.
        const Ensemble before = stage.ensemble();
        stage.model().setData(stage.model().index(0, 1), "rubbish", Qt::EditRole);
        QVERIFY(stage.ensemble() == before);
        QVERIFY(stage.window->noticeText().contains(QStringLiteral("names no message")));
    }
    void rowsOfASpreadsheetArePasted() {
        Stage stage;
        stage.showInstrument();
        const auto before = stage.ensemble().instruments[0].parameters.size();
        QGuiApplication::clipboard()->setText(QStringLiteral(
            "Name\tCC\tMin\tMax\tUnit\nCutoff\t40\t20\t20000\tHz\nRotor\t41\t\t\t\nOdd\tnothing\t\t\t\n"));
        stage.window.editsOnce([&] {
            stage.click("pasteRows");
            stage.press("acceptTable");
        });
        const auto& parameters = stage.ensemble().instruments[0].parameters;
        QCOMPARE(parameters.size(), before + 2);
        QCOMPARE(*parameters[before].display.high, 20000.0);
        QVERIFY(stage.window->noticeText().contains(QStringLiteral("row 4")));
        // Once more: the same rows again, and not beside them.
        stage.click("pasteRows");
        QCOMPARE(stage.shown("tableSummary"), QStringLiteral("2 as it is · 1 row left out"));
        stage.press("acceptTable");
        QCOMPARE(stage.ensemble().instruments[0].parameters.size(), before + 2);
        // A column alone is typed downwards from the cell.
        stage.select(static_cast<int>(before), 4, static_cast<int>(before));
        QGuiApplication::clipboard()->setText(QStringLiteral("kHz\nturns\n"));
        stage.window.editsOnce([&] { stage.click("pasteRows"); });
        QCOMPARE(stage.cell(static_cast<int>(before) + 1, 4), QStringLiteral("turns"));
    }
    /// Before anything is taken it is shown what each column is taken for, what is left out and what changes;
    /// a range that changes carries along what leads there, where that is wished.
    void whatIsPastedIsShownBefore() {
        Stage stage;
        stage.showInstrument();
        stage.window->document().edit(QStringLiteral("chain"), [](Ensemble& e) {
            Chain chain = newChain(e.instruments[0]);
            chain.branches = {wholeBranch(e.instruments[0].parameters[0])};
            e.instruments[0].chains = {chain};
        });
        const Ensemble before = stage.ensemble();
        // Rows of the table itself, copied without titles, come back as they are.
        stage.select(0, 0, 1);
        stage.table().setFocus();
        QTest::keyClick(&stage.table(), Qt::Key_C, Qt::ControlModifier);
        stage.click("pasteRows");
        QCOMPARE(stage.shown("tableSummary"), QStringLiteral("2 as it is"));
        stage.press("acceptTable");
        QVERIFY(stage.ensemble() == before);
        // Without titles, and in no order of ours: one says what the third column is.
        const std::string name = nameOf(before.instruments[0].parameters[0]);
        QGuiApplication::clipboard()->setText(
            QStringLiteral("11\t%1\tabc\t10\nnothing\tOdd\tabc\t10\n").arg(toQt(name)));
        stage.click("pasteRows");
        auto* dialog = stage.window->findChild<QDialog*>(QStringLiteral("tableDialog"));
        QVERIFY(stage.shown("tableSummary").endsWith(QStringLiteral("2 columns left out")));
        QVERIFY(!dialog->findChild<QCheckBox*>(QStringLiteral("carryReaches"))->isVisible());
        auto* to = dialog->findChild<QComboBox*>(QStringLiteral("tableColumn3"));
        to->setCurrentIndex(4);
        emit to->activated(4);
        QCOMPARE(stage.shown("tableSummary"),
                 QStringLiteral("1 changed · 1 row left out · 1 column left out"));
        QVERIFY(dialog->findChild<QCheckBox*>(QStringLiteral("carryReaches"))->isVisible());
        QCOMPARE(dialog->findChild<QTableWidget*>()->item(1, 4)->text(),
                 QStringLiteral("changed: To 127 → 10"));
        QVERIFY(stage.ensemble() == before);
        stage.window.editsOnce([&] { stage.press("acceptTable"); });
        QCOMPARE(*stage.ensemble().instruments[0].parameters[0].display.high, 10.0);
        QVERIFY(stage.ensemble().instruments[0].chains[0].branches[0].high == Level(10.0));
        stage.window->document().undoStack().undo();
        QVERIFY(stage.ensemble() == before);
        // Left, it leaves everything.
        stage.click("pasteRows");
        QTest::keyClick(stage.window->findChild<QDialog*>(QStringLiteral("tableDialog")), Qt::Key_Escape);
        test::Stage::settle();
        QVERIFY(stage.ensemble() == before);
    }
    void cellsAreFilledAndRowsNumbered() {
        Stage stage;
        stage.panel().addController();
        for (int i = 0; i < 9; ++i) stage.panel().addRow();
        stage.model().setData(stage.model().index(0, 1), "CC 70", Qt::EditRole);
        stage.select(0, 1, 8);
        stage.window.editsOnce([&] { stage.click("renumber"); });
        QCOMPARE(stage.controls()[8].message.number, 78);
        stage.model().setData(stage.model().index(0, 2), "middle", Qt::EditRole);
        stage.select(0, 2, 8);
        stage.window.editsOnce([&] { stage.click("fillDown"); });
        QVERIFY(stage.controls()[8].rest == Rest::middle);
        stage.select(7, 0, 8);
        stage.window.editsOnce([&] { stage.panel().removeRows(); });
        QCOMPARE(stage.controls().size(), 7U);
    }
    /// What led to a parameter goes with it.
    void aRemovedRowLeavesNothingBehind() {
        Stage stage(false);
        stage.panel().show(ProfilePlace::parameters("glass"));
        stage.select(0, 0, 0);
        stage.panel().removeRows();
        for (const Finding& finding : check(stage.ensemble()))
            QVERIFY2(finding.severity != Severity::trouble, finding.problem.sentence().c_str());
        stage.goesBackAndForth();
    }
    void filesComeAndGo() {
        Stage stage;
        stage.showInstrument();
        const QTemporaryDir folder;
        const QString csv = folder.filePath(QStringLiteral("drone.csv"));
        stage.model().setData(stage.model().index(1, 7), "1 kHz", Qt::EditRole);
        stage.panel().files().writeTo(csv);
        const auto before = stage.ensemble().instruments[0].parameters;
        stage.select(0, 0, static_cast<int>(before.size()) - 1);
        stage.panel().removeRows();
        QVERIFY(stage.ensemble().instruments[0].parameters.empty());
        stage.panel().files().readFrom(csv);
        stage.press("acceptTable");
        const auto& again = stage.ensemble().instruments[0].parameters;
        QCOMPARE(again.size(), before.size());
        for (std::size_t i = 0; i < before.size(); ++i) {
            QCOMPARE(again[i].name, before[i].name);
            QCOMPARE(again[i].message, before[i].message);
            QCOMPARE(again[i].rest, before[i].rest);
        }
        const QString names = folder.filePath(QStringLiteral("drone.midnam"));
        stage.panel().files().writeTo(names);
        QVERIFY(stage.window->noticeText().contains(QStringLiteral("“Pitch bend” was left out")));
        stage.window->newEnsemble();
        stage.window->showPage(3);
        stage.window.editsOnce([&] { stage.panel().files().readFrom(names); });
        QCOMPARE(stage.ensemble().instruments.size(), 1U);
        QCOMPARE(stage.ensemble().instruments[0].name, std::string("New instrument"));
        // What cannot be read is said, and changes nothing.
        const QString broken = folder.filePath(QStringLiteral("broken.midnam"));
        QVERIFY(static_cast<bool>(files::writeFile(broken.toStdString(), std::string_view("<a"))));
        const Ensemble kept = stage.ensemble();
        stage.panel().files().readFrom(broken);
        QVERIFY(stage.window->noticeText().contains(QStringLiteral("no XML")));
        stage.panel().files().readFrom(folder.filePath(QStringLiteral("gone.csv")));
        QVERIFY(stage.ensemble() == kept);
        stage.panel().files().writeTo(folder.filePath(QStringLiteral("no/such/folder.csv")));
        QVERIFY(stage.window->noticeText().contains(QStringLiteral("folder.csv")));
    }
    /// A file that is dropped on the window, whatever page is shown.
    void aDroppedFileIsImported() {
        Stage stage;
        stage.showInstrument();
        const QTemporaryDir folder;
        const QString csv = folder.filePath(QStringLiteral("chart.csv"));
        QVERIFY(static_cast<bool>(
            files::writeFile(csv.toStdString(), std::string_view("Name,Message\nRasp,CC 21\n"))));
        stage.key(Qt::Key_1, Qt::ControlModifier);
        QMimeData dropped;
        dropped.setUrls({QUrl::fromLocalFile(csv)});
        QDragEnterEvent enter({300, 300}, Qt::CopyAction, &dropped, Qt::LeftButton, Qt::NoModifier);
        QCoreApplication::sendEvent(&*stage.window, &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent drop(QPointF(300, 300), Qt::CopyAction, &dropped, Qt::LeftButton, Qt::NoModifier);
        stage.window.editsOnce([&] {
            QCoreApplication::sendEvent(&*stage.window, &drop);
            stage.press("acceptTable");
        });
        QCOMPARE(stage.ensemble().instruments[0].parameters.back().name, std::string("Rasp"));
        QVERIFY(stage.panel().isVisible());
    }
    void keysOfTheTable() {
        Stage stage;
        stage.showInstrument();
        stage.select(0, 0, 1);
        stage.table().setFocus();
        QTest::keyClick(&stage.table(), Qt::Key_C, Qt::ControlModifier);
        QVERIFY(QGuiApplication::clipboard()->text().startsWith(QStringLiteral("Expression\tCC 11")));
        const auto before = stage.ensemble().instruments[0].parameters.size();
        QTest::keyClick(&stage.table(), Qt::Key_Delete);
        QCOMPARE(stage.ensemble().instruments[0].parameters.size(), before - 2);
        QTest::keyClick(&stage.table(), Qt::Key_V, Qt::ControlModifier);
        stage.press("acceptTable");
        QCOMPARE(stage.ensemble().instruments[0].parameters.size(), before);
    }

    /// Key switches are learned by playing them, each for the next row; a click tries one, and a chart that
    /// counts otherwise moves them.
    void keySwitchesAreLearned() {
        Stage stage;
        stage.showInstrument();
        const std::string id = stage.ensemble().instruments[0].id;
        stage.panel().show(ProfilePlace::articulations(id));
        const auto& all = [&]() -> const std::vector<Articulation>& {
            return stage.ensemble().instruments[0].articulations;
        };
        stage.click("learnSwitches");
        QCOMPARE(stage.shown("walkText"), QStringLiteral("Play the key switch of a new articulation."));
        for (const std::uint8_t key : {12, 13, 14}) {
            stage.send({0x90, key, 100});
            stage.send({0x80, key, 64});
            QTRY_COMPARE(all().size(), std::size_t{key} - 11);
        }
        QTRY_VERIFY(stage.shown("walkText").startsWith(QStringLiteral("D0 heard.")));
        stage.click("learnSwitches");
        stage.send({0x90, 15, 100});
        QCOMPARE(stage.cell(2, 1), QStringLiteral("Key D0"));
        stage.model().setData(stage.model().index(0, 0), QStringLiteral("Long"), Qt::EditRole);
        stage.model().setData(stage.model().index(0, 1), QStringLiteral("CC 32 = 9"), Qt::EditRole);
        QCOMPARE(all().size(), std::size_t{3});
        test::Witness witness(stage.window);
        QTRY_VERIFY(stage.window->live().readings().instrument(id).runs);
        const auto clickRow = [&](int row) {
            QTest::mouseClick(stage.table().viewport(), Qt::LeftButton, {},
                              stage.table().visualRect(stage.model().index(row, 0)).center());
        };
        QTRY_VERIFY((clickRow(1), clickRow(0), witness.sent(id, 0xB0, 32, 9)));
        clickRow(2);
        QTRY_VERIFY(witness.sent(id, 0x90, 14));
        QTRY_COMPARE(stage.window->live().readings().instrument(id).articulation, 2);
        stage.table().clearSelection();
        stage.panel().transposeSwitches(12);
        QCOMPARE(stage.cell(2, 1), QStringLiteral("Key D1"));
        QCOMPARE(stage.cell(0, 1), QStringLiteral("CC 32 = 9"));
        // The practice keys show who is in hand what they are to it.
        QTRY_COMPARE(stage.window->practiceKeys().keyboard().meaning().switches.count(26), std::size_t{1});
        stage.goesBackAndForth();
    }

    /// A chart is pasted, and the instrument's parameter has the names to choose from.
    void aChartIsPasted() {
        Stage stage;
        stage.showInstrument();
        stage.panel().show(ProfilePlace::articulations(stage.ensemble().instruments[0].id));
        QGuiApplication::clipboard()->setText(QStringLiteral("Name\tSelected by\nLong\tC0\nShort\tC#0\n"));
        stage.click("pasteRows");
        stage.press("acceptTable");
        QCOMPARE(stage.model().rowCount(), 2);
        QCOMPARE(stage.cell(1, 1), QStringLiteral("Key C#0"));
        stage.window->document().edit(QStringLiteral("way"), [](Ensemble& e) {
            Parameter way;
            way.id = "way";
            way.message.kind = MessageKind::articulation;
            e.instruments[0].parameters.push_back(way);
            nameArticulations(e.instruments[0]);
            Chain chain = newChain(e.instruments[0]);
            chain.branches = {wholeBranch(e.instruments[0].parameters.back())};
            e.instruments[0].chains.push_back(chain);
        });
        QCOMPARE(stage.ensemble().instruments[0].parameters.back().display.choices,
                 (std::vector<std::string>{"Long", "Short"}));
        stage.model().setData(stage.model().index(1, 0), QStringLiteral("Plucked"), Qt::EditRole);
        QCOMPARE(stage.ensemble().instruments[0].parameters.back().display.choices.back(),
                 std::string("Plucked"));
        // What chose it by its name follows.
        QCOMPARE(std::get<std::string>(stage.ensemble().instruments[0].chains.back().branches[0].high),
                 std::string("Plucked"));
        const auto& findings = stage.window->document().findings();
        QVERIFY(std::none_of(findings.begin(), findings.end(),
                             [](const Finding* each) { return each->severity == Severity::trouble; }));
    }
};

QTEST_MAIN(ProfilesTest)
#include "profiles.moc"
