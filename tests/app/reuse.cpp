// Reuse in the real window: targets found by typing or learned, runs, what is copied, given, kept and
// swapped; and how many acts each takes.
#include "app/acts/reuse/reuse.h"

#include <QClipboard>
#include <QComboBox>
#include <QDropEvent>
#include <QListWidget>
#include <QMimeData>
#include <QSpinBox>
#include <QTableView>

#include "app/acts/reuse/match_dialog.h"
#include "app/acts/reuse/run_dialog.h"
#include "app/document/library_folder.h"
#include "app/frame/ensemble_list.h"
#include "core/checks/check.h"
#include "core/profiles/message_text.h"
#include "core/store/part_json.h"
#include "support/build.h"
#include "support/stage.h"

using namespace mellow;
using namespace mellow::app;
using test::Stage;

namespace {

QString clipboard() {
    return QGuiApplication::clipboard()->text();
}

Instrument& edited(Ensemble& ensemble, const std::string& id) {
    return *findById(ensemble.instruments, id);
}

void put(Stage& stage, const std::function<void(Ensemble&)>& change) {
    stage.window->document().edit(QStringLiteral("Set the stage"), change);
    QCoreApplication::processEvents();
}

/// The first item of the library of a name.
mellow::Part fromLibrary(const std::string& name) {
    const library::Shelf shelf = wholeLibrary();
    for (const library::Item& item : shelf.items) {
        if (item.part.name == name) return item.part;
    }
    qFatal("the library has no %s", name.c_str());
}

int troubles(const Ensemble& ensemble) {
    int count = 0;
    for (const Finding& finding : check(ensemble)) count += finding.severity == Severity::trouble ? 1 : 0;
    return count;
}

/// Chooses in the table that is open what a row becomes, by the beginning of its words.
void correct(Stage& stage, int row, const QString& words) {
    auto* table = stage.window->findChild<QTableView*>(QStringLiteral("matches"));
    QVERIFY(table != nullptr);
    auto* box = qobject_cast<QComboBox*>(table->indexWidget(table->model()->index(row, MatchModel::becomes)));
    QVERIFY(box != nullptr);
    for (int i = 0; i < box->count(); ++i) {
        if (!box->itemText(i).startsWith(words)) continue;
        box->setCurrentIndex(i);
        emit box->activated(i);
        return;
    }
    QFAIL(qPrintable(words));
}

}  // namespace

class ReuseTest : public QObject {
    Q_OBJECT

 private slots:
    void initTestCase() { QStandardPaths::setTestModeEnabled(true); }
    void init() { std::filesystem::remove_all(libraryFolder()); }

    // Targets.

    void wheelToExpressionOnANewEnsembleTakesFourActs() {
        Stage stage;
        stage.key(Qt::Key_L);
        stage.move(1);
        QTRY_VERIFY(stage.learn().isDone());
        QCOMPARE(stage.ensemble().instruments[0].chains[0].branches[0].target, std::string("expression"));
        QVERIFY(stage.acts <= 4);
        stage.goesBackAndForth();
    }
    void aSecondTargetTakesTwo() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        const std::size_t before = stage.window.chain("glass", "swell").branches.size();
        stage.key(Qt::Key_T, Qt::ControlModifier);
        stage.take({});
        QCOMPARE(stage.window.chain("glass", "swell").branches.size(), before + 1);
        QVERIFY(stage.acts <= 2);
    }
    void aTargetIsFoundByItsNameOrNumber() {
        Stage stage;
        stage.window->actions().addInstrument();
        stage.window->actions().addChain();
        stage.click("addTarget");
        stage.take(QStringLiteral("ton"));
        const auto& chain = [&]() -> const Chain& { return stage.ensemble().instruments[0].chains[0]; };
        QCOMPARE(chain().branches.back().target, std::string("tone"));
        stage.click("addTarget");
        stage.take(QStringLiteral("CC 7 "));
        QCOMPARE(chain().branches.back().target, std::string("volume"));
        // What is reached already is not offered first.
        stage.click("addTarget");
        stage.take({});
        QVERIFY(chain().branches.back().target != "expression");
    }
    void whatIsNotThereIsMadeOnTheSpot_data() {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<QString>("made");
        QTest::newRow("a name and a message") << "Rasp cc 21"
                                              << "Rasp: CC 21";
        QTest::newRow("a number") << "119"
                                  << "CC 119: CC 119";
        QTest::newRow("a name") << "Sparkle"
                                << "Sparkle: CC 20";
        QTest::newRow("a register") << "Depth NRPN 300"
                                    << "Depth: NRPN 300";
    }
    void whatIsNotThereIsMadeOnTheSpot() {
        QFETCH(QString, typed);
        QFETCH(QString, made);
        Stage stage;
        stage.window->actions().addInstrument();
        stage.window->actions().addChain();
        stage.window.editsOnce([&] {
            stage.click("addTarget");
            stage.take(typed);
        });
        const Parameter& parameter = stage.ensemble().instruments[0].parameters.back();
        QCOMPARE(QString::fromStdString(parameter.name + ": " + profiles::messageText(parameter.message)),
                 made);
        QCOMPARE(stage.ensemble().instruments[0].chains[0].branches.back().target, parameter.id);
    }
    /// A plug-in that sends what its own panel moves: known parameters are led to, others are made.
    void aTargetIsLearnedFromThePanel() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        const std::size_t before = stage.window.chain("glass", "swell").branches.size();
        stage.key(Qt::Key_L, Qt::ShiftModifier);
        QVERIFY(stage.shown("learnGoal").contains(QStringLiteral("own panel")));
        stage.move(93, 100, "plug-in");
        QTRY_VERIFY(stage.learn().isDone());
        QCOMPARE(stage.window.chain("glass", "swell").branches.size(), before + 1);
        const std::string made = stage.window.chain("glass", "swell").branches.back().target;
        QCOMPARE(findById(stage.window.instrument("glass").parameters, made)->message.number, 93);
        stage.window->document().undoStack().undo();
        QCOMPARE(stage.window.chain("glass", "swell").branches.size(), before);
        QVERIFY(findById(stage.window.instrument("glass").parameters, made) == nullptr);
        // A branch is led elsewhere, to something that is there already.
        stage.key(Qt::Key_Escape);
        stage.window.select("glass", "swell", app::Part::branch, 0);
        stage.key(Qt::Key_L, Qt::ShiftModifier);
        const auto& all = stage.window.instrument("glass").parameters;
        const Parameter known = *std::find_if(all.rbegin(), all.rend(), [](const Parameter& each) {
            return each.message.kind == MessageKind::cc;
        });
        QCOMPARE(known.message.kind, MessageKind::cc);
        stage.move(known.message.number, 100, "plug-in");
        QTRY_COMPARE(stage.window.chain("glass", "swell").branches[0].target, known.id);
        QCOMPARE(stage.window.chain("glass", "swell").branches.size(), before);
        stage.key(Qt::Key_Escape);
    }
    /// From its end a chain is made that still wants its source.
    void aChainIsMadeFromItsEnd() {
        Stage stage;
        stage.window->actions().addInstrument();
        stage.key(Qt::Key_L, Qt::ShiftModifier);
        stage.move(74, 100, "plug-in");
        QTRY_VERIFY(stage.learn().isDone());
        const Chain& chain = stage.ensemble().instruments[0].chains.at(0);
        QCOMPARE(chain.branches.size(), 1U);
        QCOMPARE(chain.branches[0].target, std::string("tone"));
        stage.key(Qt::Key_Escape);
        stage.goesBackAndForth();
    }
    void oneControlFollowsWhatWasTouched() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        put(stage, [](Ensemble& e) {
            edited(e, "glass").chains[0].branches.resize(1);
            for (int number : {100, 101})
                edited(e, "glass")
                    .parameters.push_back(test::ccParameter("panel-" + std::to_string(number), number));
        });
        const auto channel = static_cast<std::uint8_t>(stage.window.instrument("glass").output.channel - 1);
        const auto touch = [&](int number) {
            stage.send({static_cast<std::uint8_t>(0xB0 + channel), static_cast<std::uint8_t>(number), 5},
                       "plug-in");
        };
        const auto leads = [&] { return stage.window.chain("glass", "swell").branches.at(0).target; };
        const int steps = stage.window->document().undoStack().index();
        stage.key(Qt::Key_F, Qt::ControlModifier);
        touch(100);
        QTRY_COMPARE(leads(), std::string("panel-100"));
        touch(101);
        QTRY_COMPARE(leads(), std::string("panel-101"));
        QCOMPARE(stage.window->document().undoStack().index(), steps + 1);
        // The wheel that plays is a hand, though a parameter listens to the same message.
        put(stage, [](Ensemble& e) {
            edited(e, "glass").parameters.push_back(test::ccParameter("same-as-wheel", 1));
        });
        touch(1);
        touch(100);
        QTRY_COMPARE(leads(), std::string("panel-100"));
        touch(1);
        touch(101);
        QTRY_COMPARE(leads(), std::string("panel-101"));
        // Locked, it stays.
        stage.key(Qt::Key_F, Qt::ControlModifier);
        touch(100);
        QTRY_VERIFY(stage.window->touched().last()->parameter == "panel-100");
        QCOMPARE(leads(), std::string("panel-101"));
        // It is offered first.
        stage.click("addTarget");
        stage.take({});
        QCOMPARE(stage.window.chain("glass", "swell").branches.back().target, std::string("panel-100"));
    }

    // Runs.

    void nineDrawbarsTakeSixActs() {
        Stage stage;
        stage.window->reuse().put(fromLibrary("Nine-drawbar organ"));
        const std::size_t before = stage.ensemble().instruments[0].chains.size();
        stage.acts = 0;
        stage.key(Qt::Key_U, Qt::ControlModifier);
        stage.move(20);
        auto* dialog = stage.window->findChild<RunDialog*>();
        QVERIFY(dialog != nullptr);
        QTRY_COMPARE(dialog->findChild<SourcePick*>()->source().number, 20);
        const auto* rows = dialog->findChild<QTableView*>(QStringLiteral("runRows"));
        QCOMPARE(rows->model()->rowCount(), 9);
        stage.press("makeRun");
        QVERIFY2(stage.acts <= 6, qPrintable(QString::number(stage.acts)));
        const auto& chains = stage.ensemble().instruments[0].chains;
        QCOMPARE(chains.size(), before + 9);
        QCOMPARE(chains.back().source.number, 28);
        QCOMPARE(chains.back().branches.at(0).target, std::string("drawbar-9"));
        QCOMPARE(troubles(stage.ensemble()), 0);
        stage.goesBackAndForth();
    }
    void theListCanBeChangedBeforeItIsAccepted() {
        Stage stage;
        stage.window->reuse().put(fromLibrary("Nine-drawbar organ"));
        stage.key(Qt::Key_U, Qt::ControlModifier);
        auto* dialog = stage.window->findChild<RunDialog*>();
        dialog->findChild<QSpinBox*>(QStringLiteral("runCount"))->setValue(3);
        auto* model = dialog->findChild<QTableView*>(QStringLiteral("runRows"))->model();
        QCOMPARE(model->rowCount(), 3);
        model->setData(model->index(1, RunModel::leadsTo), model->index(1, 1).data(Qt::EditRole).toInt() + 9);
        model->setData(model->index(2, RunModel::falls), Qt::Checked, Qt::CheckStateRole);
        stage.press("makeRun");
        const auto& chains = stage.ensemble().instruments[0].chains;
        const Chain& second = chains[chains.size() - 2];
        QCOMPARE(second.branches[0].target, std::string("rotor"));
        QCOMPARE(std::get<double>(chains.back().branches[0].low), 8.0);
        QCOMPARE(std::get<double>(chains.back().branches[0].high), 0.0);
    }
    /// The head of a column ticks all that fall, and none again; asking for more than there are says why not.
    void aRunSaysWhyItEndsAndItsHeadTicksAll() {
        Stage stage;
        stage.window->reuse().put(fromLibrary("Nine-drawbar organ"));
        stage.key(Qt::Key_U, Qt::ControlModifier);
        auto* dialog = stage.window->findChild<RunDialog*>();
        auto* table = dialog->findChild<QTableView*>(QStringLiteral("runRows"));
        dialog->findChild<QSpinBox*>(QStringLiteral("runCount"))->setValue(3);
        const auto falling = [table] {
            int count = 0;
            for (int row = 0; row < table->model()->rowCount(); ++row) {
                const QModelIndex at = table->model()->index(row, RunModel::falls);
                count += at.data(Qt::CheckStateRole).toInt() == Qt::Checked ? 1 : 0;
            }
            return count;
        };
        const auto clickHead = [table] {
            QHeaderView* head = table->horizontalHeader();
            QTest::mouseClick(head->viewport(), Qt::LeftButton, {},
                              {head->sectionViewportPosition(RunModel::falls) + 10, head->height() / 2});
        };
        clickHead();
        QCOMPARE(falling(), 3);
        clickHead();
        QCOMPARE(falling(), 0);
        auto* why = dialog->findChild<QLabel*>(QStringLiteral("whyRunEnds"));
        QVERIFY(!why->isVisible() || why->text().isEmpty());
        dialog->findChild<QSpinBox*>(QStringLiteral("runCount"))->setValue(40);
        QVERIFY2(why->isVisible() && why->text().startsWith(QStringLiteral("Only ")),
                 qPrintable(why->text()));
        QVERIFY(table->model()->rowCount() < 40);
    }

    void twoKnobsAreMadeByMovingThem() {
        Stage stage;
        stage.window->reuse().put(fromLibrary("Nine-drawbar organ"));
        stage.key(Qt::Key_U, Qt::ControlModifier | Qt::ShiftModifier);
        const auto pick = [&](const char* name) {
            return stage.window->findChild<SourcePick*>(QLatin1String(name));
        };
        stage.move(30);
        QTRY_COMPARE(pick("knobChooses")->source().number, 30);
        // The first is still moving when the second is waited for.
        QSignalSpy heard(pick("knobSets"), &SourcePick::heard);
        QSignalSpy came(&stage.window->live(), &Live::happened);
        stage.move(30);
        stage.move(30);
        QTRY_VERIFY(came.count() > 30);
        stage.move(31);
        QTRY_COMPARE(pick("knobSets")->source().number, 31);
        QCOMPARE(heard.count(), 1);
        QCOMPARE(pick("knobChooses")->source().number, 30);
        stage.press("makeTwoKnobs");
        const Chain& chain = stage.ensemble().instruments[0].chains.back();
        QCOMPARE(chain.source.number, 31);
        QCOMPARE(chain.fan.by->number, 30);
        QCOMPARE(chain.branches.size(), stage.ensemble().instruments[0].parameters.size());
    }

    // Copy, paste, give.

    void aChainIsPastedIntoAnotherEnsembleAsText() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        const Chain chain = stage.window.chain("glass", "swell");
        stage.key(Qt::Key_C, Qt::ControlModifier);
        QVERIFY(clipboard().contains(QStringLiteral("mellow-lever/part")));
        stage.window->newEnsemble();
        stage.window->actions().addInstrument();
        put(stage, [](Ensemble& e) { e.instruments[0].parameters.clear(); });
        stage.key(Qt::Key_V, Qt::ControlModifier);
        // Nothing of it is there, so the table asks; making it all is what it proposes.
        stage.press("acceptMatches");
        const Instrument& one = stage.ensemble().instruments[0];
        QCOMPARE(one.chains.size(), 1U);
        QCOMPARE(one.chains[0].branches.size(), chain.branches.size());
        QCOMPARE(one.parameters.size(), chain.branches.size());
        QCOMPARE(one.chains[0].steps, chain.steps);
        QCOMPARE(troubles(stage.ensemble()), 0);
    }
    void aStepAndABranchArePastedWhereTheSelectionIs() {
        Stage stage(false);
        stage.window.select("glass", "swell", app::Part::branch, 0);
        stage.key(Qt::Key_C, Qt::ControlModifier);
        stage.window.editsOnce([&] { stage.key(Qt::Key_V, Qt::ControlModifier); });
        const Chain chain = stage.window.chain("glass", "swell");
        QCOMPARE(chain.branches[1], chain.branches[0]);
        stage.window.select("glass", "swell", app::Part::step, 0);
        stage.key(Qt::Key_C, Qt::ControlModifier);
        stage.window.select("flute", "breath", app::Part::branch, 0);
        stage.window.editsOnce([&] { stage.key(Qt::Key_V, Qt::ControlModifier); });
        QCOMPARE(stage.window.chain("flute", "breath").branches[0].steps.back(), chain.steps[0]);
        // Cut is copy and remove.
        stage.window.select("glass", "swell");
        stage.key(Qt::Key_X, Qt::ControlModifier);
        QVERIFY(findById(stage.window.instrument("glass").chains, "swell") == nullptr);
        QVERIFY(clipboard().contains(QStringLiteral("\"swell\"")));
    }
    void aTableOfASpreadsheetIsPastedAsParameters() {
        Stage stage;
        stage.window->actions().addInstrument();
        const std::size_t before = stage.ensemble().instruments[0].parameters.size();
        QGuiApplication::clipboard()->setText(QStringLiteral("Cutoff\t40\nDrive\tNRPN 7\n"));
        // What is understood is shown before.
        stage.key(Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(stage.window->findChild<QLabel*>(QStringLiteral("tableSummary"))->text(),
                 QStringLiteral("2 new"));
        QCOMPARE(stage.ensemble().instruments[0].parameters.size(), before);
        stage.window.editsOnce([&] { stage.press("acceptTable"); });
        QCOMPARE(stage.ensemble().instruments[0].parameters.size(), before + 2);
        QCOMPARE(stage.ensemble().instruments[0].parameters.back().message.number, 7);
        QGuiApplication::clipboard()->setText(QStringLiteral("what is this"));
        stage.key(Qt::Key_V, Qt::ControlModifier);
        QVERIFY(stage.window->noticeText().contains(QStringLiteral("no part of an ensemble")));
    }
    /// A step is called as its chip until it is given a name.
    void aStepIsKeptUnderItsLabel() {
        Stage stage(false);
        stage.window.select("glass", "swell", app::Part::step, 1);
        stage.key(Qt::Key_K, Qt::ControlModifier);
        QCOMPARE(stage.window->findChild<QLineEdit*>(QStringLiteral("keepName"))->text(),
                 QStringLiteral("Bend +0.35"));
    }
    /// Where there is no instrument yet, what is pasted brings its own.
    void pastedIntoAnEmptyEnsemble() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        const Chain swell = stage.window.chain("glass", "swell");
        stage.key(Qt::Key_C, Qt::ControlModifier);
        stage.window->newEnsemble();
        stage.window.editsOnce([&] { stage.key(Qt::Key_V, Qt::ControlModifier); });
        QCOMPARE(stage.ensemble().instruments.size(), 1U);
        const Instrument& made = stage.ensemble().instruments[0];
        QCOMPARE(made.chains.size(), 1U);
        QCOMPARE(made.chains[0].branches.size(), swell.branches.size());
        for (const Branch& branch : made.chains[0].branches)
            QVERIFY2(findById(made.parameters, branch.target) != nullptr, branch.target.c_str());
        QCOMPARE(stage.window->selection().now().chain, made.chains[0].id);
        // And a table of parameters.
        stage.window->newEnsemble();
        QGuiApplication::clipboard()->setText(QStringLiteral("Cutoff\t40\nDrive\tNRPN 7\n"));
        stage.window.editsOnce([&] { stage.key(Qt::Key_V, Qt::ControlModifier); });
        QCOMPARE(stage.ensemble().instruments[0].parameters.size(), 2U);
    }
    void aChainIsGivenToOthers() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        stage.key(Qt::Key_G, Qt::ControlModifier);
        auto* list = stage.window->findChild<QListWidget*>(QStringLiteral("giveTo"));
        QVERIFY(list != nullptr);
        for (const int row : {0, 1}) list->item(row)->setCheckState(Qt::Checked);
        const std::string first = list->item(0)->data(Qt::UserRole).toString().toStdString();
        const std::string second = list->item(1)->data(Qt::UserRole).toString().toStdString();
        const std::size_t before = stage.window.instrument(first).chains.size();
        stage.press("acceptGive");
        stage.window.editsOnce([&] { stage.press("acceptMatches"); });
        QCOMPARE(stage.window.instrument(first).chains.size(), before + 1);
        QVERIFY(!stage.window.instrument(second).chains.back().branches.empty());
        QCOMPARE(stage.window.instrument(first).chains.back().source,
                 stage.window.chain("glass", "swell").source);
    }
    void aChainIsGivenByDroppingItOnACard() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        auto* chains = stage.window->findChild<ChainList*>();
        QMimeData* dragged = chains->model()->mimeData({chains->model()->index(0, 0)});
        EnsembleList& list = stage.window->ensembleList();
        const QPointF at = list.visualRect(list.model()->index(1, 0)).center();
        const std::string id = list.model()->index(1, 0).data(InstrumentModel::id).toString().toStdString();
        const std::size_t before = stage.window.instrument(id).chains.size();
        QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, dragged, Qt::LeftButton, Qt::NoModifier);
        QCoreApplication::sendEvent(list.viewport(), &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent drop(at, Qt::CopyAction, dragged, Qt::LeftButton, Qt::NoModifier);
        QCoreApplication::sendEvent(list.viewport(), &drop);
        QTRY_VERIFY(stage.window->findChild<MatchDialog*>() != nullptr);
        stage.press("acceptMatches");
        QCOMPARE(stage.window.instrument(id).chains.size(), before + 1);
        delete dragged;
    }

    // Library.

    void aChainIsKeptAndFoundAgain() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        stage.key(Qt::Key_K, Qt::ControlModifier);
        auto* name = stage.window->findChild<QLineEdit*>(QStringLiteral("keepName"));
        QVERIFY(name != nullptr);
        QVERIFY(!stage.window->findChild<QLineEdit*>(QStringLiteral("keepAbout"))->text().isEmpty());
        name->setText(QStringLiteral("Grandmother’s swell"));
        stage.press("acceptKeep");
        QCOMPARE(library::read(libraryFolder()).items.size(), 1U);
        // Once more, under the same name: it says so, and asks.
        stage.key(Qt::Key_K, Qt::ControlModifier);
        stage.window->findChild<QLineEdit*>(QStringLiteral("keepName"))->setText("Grandmother’s swell");
        stage.press("acceptKeep");
        QVERIFY(stage.isShown("keepTrouble"));
        stage.window->findChild<QCheckBox*>(QStringLiteral("keepReplace"))->setChecked(true);
        stage.press("acceptKeep");
        QCOMPARE(library::read(libraryFolder()).items.size(), 1U);
        stage.window->newEnsemble();
        stage.window->actions().addInstrument();
        stage.key(Qt::Key_L, Qt::ControlModifier);
        stage.take(QStringLiteral("grandmo"));
        if (stage.window->findChild<MatchDialog*>() != nullptr) stage.press("acceptMatches");
        QCOMPARE(stage.ensemble().instruments[0].chains.size(), 1U);
        QCOMPARE(troubles(stage.ensemble()), 0);
    }
    void everyShippedPartWorksAtOnce() {
        const library::Shelf shelf = wholeLibrary();
        QVERIFY(shelf.items.size() >= 10);
        for (const library::Item& item : shelf.items) {
            Stage stage;
            stage.window->actions().addInstrument();
            stage.window->actions().addChain();
            stage.window->reuse().put(item.part);
            if (stage.window->findChild<MatchDialog*>() != nullptr) stage.press("acceptMatches");
            QVERIFY2(stage.window->document().isModified(), item.part.name.c_str());
            QVERIFY2(troubles(stage.ensemble()) == 0, item.part.name.c_str());
            QVERIFY2(!item.part.about.empty(), item.part.name.c_str());
        }
    }

    // Swaps.

    /// The first becomes the first, the second the second, whatever they are called.
    void whatIsSwappedGoesInOrder() {
        Stage stage;
        stage.window->reuse().put(fromLibrary("Nine-drawbar organ"));
        stage.key(Qt::Key_W, Qt::ControlModifier | Qt::ShiftModifier);
        stage.take(QStringLiteral("orchestral"));
        stage.press("matchInOrder");
        auto* table = stage.window->findChild<QTableView*>(QStringLiteral("matches"));
        QVERIFY(table != nullptr);
        std::vector<QString> led;
        for (int row = 0; row < 3; ++row)
            led.push_back(table->model()->index(row, MatchModel::becomes).data().toString());
        stage.press("acceptMatches");
        const auto& parameters = stage.ensemble().instruments[0].parameters;
        for (std::size_t i = 0; i < 3; ++i)
            QVERIFY2(led[i].startsWith(toQt(nameOf(parameters[i]))), qPrintable(led[i]));
        stage.goesBackAndForth();
    }

    void anInstrumentIsSwappedInFourActs() {
        Stage stage;
        stage.window->reuse().put(fromLibrary("Nine-drawbar organ"));
        const auto& organ = [&]() -> const Instrument& { return stage.ensemble().instruments[0]; };
        const Output output = organ().output;
        stage.acts = 0;
        stage.key(Qt::Key_W, Qt::ControlModifier | Qt::ShiftModifier);
        stage.take(QStringLiteral("orchestral"));
        // Beside what one corrects.
        correct(stage, 12, QStringLiteral("Expression"));
        const int steps = stage.window->document().undoStack().index();
        stage.press("acceptMatches");
        QVERIFY2(stage.acts <= 4, qPrintable(QString::number(stage.acts)));
        QCOMPARE(stage.window->document().undoStack().index(), steps + 1);
        QCOMPARE(organ().name, std::string("Orchestral strings"));
        QCOMPARE(organ().output, output);
        QCOMPARE(findById(organ().chains, "swell")->branches.at(0).target, std::string("expression"));
        QVERIFY(findById(organ().chains, "rotor")->branches.empty());
        QVERIFY(stage.window->noticeText().contains(QStringLiteral("Rotor (in Rotor)")));
        stage.goesBackAndForth();
    }
    void aControllerIsSwapped() {
        Stage stage;
        stage.window->reuse().put(fromLibrary("Keys with two wheels"));
        stage.window->actions().addInstrument();
        put(stage, [](Ensemble& e) {
            Source wheel = makeSource(SourceKind::control);
            wheel.controller = e.controllers[0].id;
            wheel.control = "wheel";
            e.instruments[0].chains = {test::chain("a", wheel, {}, {test::branch("expression", 0, 127)})};
        });
        const std::string id = stage.ensemble().controllers[0].id;
        stage.window->reuse().swapController(&*stage.window, id);
        stage.take(QStringLiteral("four"));
        // The wheel has no namesake among pedals.
        correct(stage, 1, QStringLiteral("Expression"));
        stage.press("acceptMatches");
        QCOMPARE(stage.ensemble().controllers[0].name, std::string("Four pedals"));
        QCOMPARE(stage.ensemble().instruments[0].chains[0].source.control, std::string("expression"));
        QCOMPARE(troubles(stage.ensemble()), 0);
        stage.goesBackAndForth();
    }
};

QTEST_MAIN(ReuseTest)
#include "reuse.moc"
