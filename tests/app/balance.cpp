// The Balance page in the real window: measured, levelled, taken, undone, kept and heard, by mouse and
// keyboard.
#include "app/pages/balance/balance_page.h"

#include <QComboBox>
#include <QDialog>
#include <QDir>
#include <QMenu>
#include <QProcess>
#include <QProgressBar>

#include "app/acts/reuse/reuse.h"
#include "app/document/library_folder.h"
#include "app/ground/words.h"
#include "app/pages/balance/level_panel.h"
#include "app/pages/balance/sound_dialog.h"
#include "app/pages/sheet/sheet_page.h"
#include "core/assignments/columns.h"
#include "core/balance/curve_folder.h"
#include "core/library/shelf.h"
#include "core/store/ensemble_json.h"
#include "core/text/numbers.h"
#include "io/bounce/bounce.h"
#include "support/build.h"
#include "support/ends.h"
#include "support/stage.h"

using namespace mellow;
using namespace mellow::app;
using test::Stage;
using test::Window;

namespace {

constexpr int longest = 60000;  // ms

struct Balance {
    Window window;

    explicit Balance(bool demo = true) {
        demo ? (void)window->openDemo() : (void)window->newEnsemble();
        QTest::keyClick(&*window, Qt::Key_6, Qt::ControlModifier);
        QTRY_VERIFY(page().isVisible());
    }
    BalancePage& page() { return window.pageOf<BalancePage>(); }
    Balancing& balancing() { return page().balancing(); }
    LoudnessView& view() { return page().view(); }
    void settle() {
        QTRY_VERIFY_WITH_TIMEOUT(!balancing().worker().isBusy() && !page().section().isBusy(), longest);
    }
    /// Chooses an instrument as a person does.
    void choose(const QString& instrument) {
        auto* list = window.find<QComboBox>("balanceInstrument");
        const int place = list->findText(instrument);
        QVERIFY(place >= 0);
        list->setCurrentIndex(place);
        emit list->activated(place);
        settle();
    }
    void few() {
        balancing().setPositions(16);
        settle();
    }
    double range() { return balance::readoutOf(balance::meanOf(*balancing().curve())).range; }
    QString text(const char* name) { return window.find<QLabel>(name)->text(); }
    const Instrument& instrument() { return *balancing().instrument(); }
    /// Renders the sweep that is chosen, as another program would.
    void render(const QString& path) {
        balance::SweepPlan plan = balancing().plan();
        plan.click = true;
        const auto sweep = balance::sweepOf(window.ensemble(), plan);
        QVERIFY(io::bounce(sweep->ensemble, sweep->take, path.toStdString(), {}, {}));
    }
    int undoSteps() { return window->document().undoStack().index(); }
};

}  // namespace

class BalancePageTest : public QObject {
    Q_OBJECT

    QTemporaryDir home_;

 private slots:
    /// Nobody else's library is written into.
    void initTestCase() {
        QVERIFY(home_.isValid());
        qputenv("XDG_DATA_HOME", home_.path().toUtf8());
    }

    /// What is shown is measured, without being asked; another instrument is measured when it is chosen.
    void measuredWhenItIsShown() {
        Balance it;
        it.settle();
        QVERIFY(it.balancing().curve().has_value());
        QCOMPARE(it.balancing().curve()->instrument, std::string("glass"));
        QVERIFY(it.range() > 15);
        QVERIFY(it.text("balanceStatus").startsWith(QStringLiteral("measured in")));
        it.choose(QStringLiteral("Tin whistle pair"));
        QCOMPARE(it.balancing().curve()->instrument, std::string("whistles"));
        QVERIFY(it.view().goalShown().size() == 2);
        // Nothing of it is an edit.
        QCOMPARE(it.undoSteps(), 0);
        it.choose(QStringLiteral("Frame drums"));
        QVERIFY(it.text("balanceDoubts").contains(QStringLiteral("dies away")));
    }

    /// An edit is measured again, and what was before it stays to be seen.
    void editsAreMeasured() {
        Balance it;
        it.few();
        const double before = it.range();
        it.window->document().edit(QStringLiteral("Reach"), [](Ensemble& e) {
            Chain& swell = *findById(findById(e.instruments, "glass")->chains, "swell");
            swell.branches[0].low = 120.0;
        });
        QVERIFY(it.balancing().worker().isBusy());
        it.settle();
        QVERIFY(it.balancing().earlier().has_value());
        QVERIFY(it.range() < before - 3);
        // Another instrument's edit is none of this one's.
        it.window->document().edit(QStringLiteral("Name"),
                                   [](Ensemble& e) { e.instruments[1].name = "Other flute"; });
        QVERIFY(!it.balancing().worker().isBusy());
    }

    /// An edit on another page is seen on coming back, beside what was before it; what was worked out of what
    /// was before is no proposal any more, and takes nothing back.
    void editedOnAnotherPage() {
        Balance it;
        it.few();
        const double before = it.range();
        it.balancing().level();
        it.window.select("glass", "swell");
        QVERIFY(!it.page().isVisible());
        it.window->document().edit(QStringLiteral("Reach"), [](Ensemble& e) {
            findById(findById(e.instruments, "glass")->chains, "swell")->branches[0].low = 120.0;
        });
        QVERIFY(!it.balancing().worker().isBusy());
        QVERIFY(!it.balancing().isProposed());
        const Ensemble edited = it.window.ensemble();
        it.window->selection().go(BalancePlace{"glass"});
        it.settle();
        QVERIFY(!it.balancing().isProposed());
        QVERIFY(it.balancing().earlier().has_value());
        QVERIFY(it.range() < before - 3);
        QVERIFY(it.window.ensemble() == edited);
    }

    /// Drawn, worked out, taken: one step, which undo takes back, and what is measured then follows the line.
    void levelledByHand() {
        Balance it;
        it.choose(QStringLiteral("Tin whistle pair"));
        it.few();
        const auto ends = it.view().goalShown();
        test::drag(&it.view(), it.view().placeOf(ends[0].first, ends[0].second), it.view().placeOf(0, -38));
        const auto moved = it.view().goalShown();
        QVERIFY2(std::abs(moved[0].second + 38) < 0.6, qPrintable(QString::number(moved[0].second)));
        QCOMPARE(moved[1].second, ends[1].second);
        QVERIFY(!it.window.find<QPushButton>("balanceTake")->isEnabled());
        it.window.click("balanceWork");
        QVERIFY(it.balancing().worker().isBusy());
        it.settle();
        QVERIFY2(it.balancing().proposal().has_value(), qPrintable(it.balancing().trouble()));
        QVERIFY2(it.balancing().proposal()->off <= 0.5,
                 qPrintable(QString::number(it.balancing().proposal()->off)));
        QVERIFY(it.text("balanceWords").contains(QStringLiteral("reaches Volume")));
        const Ensemble before = it.window.ensemble();
        QCOMPARE(it.undoSteps(), 0);
        it.window.click("balanceTake");
        QCOMPARE(it.undoSteps(), 1);
        const Chain& top = it.window.chain("whistles", "top");
        QCOMPARE(top.branches.size(), std::size_t{3});
        QCOMPARE(top.branches[2].steps.size(), std::size_t{1});
        it.settle();
        const auto mean = balance::meanOf(*it.balancing().curve());
        QVERIFY(std::abs(*balance::loudnessAt(mean, 0) - moved[0].second) <= 0.6);
        QVERIFY(std::abs(*balance::loudnessAt(mean, 1) - moved[1].second) <= 0.6);
        QVERIFY(it.balancing().earlier().has_value());
        it.window->document().undoStack().undo();
        QVERIFY(it.window.ensemble() == before);
    }

    /// Points of the line come and go by double click, and move by keys.
    void theLineByKeys() {
        Balance it;
        it.few();
        it.view().setFocus();
        QTest::mouseDClick(&it.view(), Qt::LeftButton, {}, it.view().placeOf(0.5, -30));
        QCOMPARE(it.view().goalShown().size(), std::size_t{3});
        const auto placed = it.view().goalShown()[1];
        QVERIFY(std::abs(placed.first - 0.5) < 0.02);
        QTest::keyClick(&it.view(), Qt::Key_Up);
        QCOMPARE(it.view().goalShown()[1].second, std::round((placed.second + 1) * 10) / 10);
        QTest::keyClick(&it.view(), Qt::Key_Down, Qt::ShiftModifier);
        QVERIFY(std::abs(it.view().goalShown()[1].second - placed.second - 0.9) < 0.01);
        QVERIFY(it.view().spokenWords().contains(QStringLiteral("LUFS at")));
        QTest::keyClick(&it.view(), Qt::Key_Delete);
        QCOMPARE(it.view().goalShown().size(), std::size_t{2});
        QTest::keyClick(&it.view(), Qt::Key_Left);
        QTest::keyClick(&it.view(), Qt::Key_Delete);
        QCOMPARE(it.view().goalShown().size(), std::size_t{2});
    }

    void stoppedAndAskedAnew() {
        Balance it;
        it.few();
        it.window.click("balanceWork");
        QVERIFY(it.balancing().worker().isBusy());
        QVERIFY(it.window.find<QProgressBar>("balanceProgress")->isVisible());
        it.window.click("balanceWork");
        QVERIFY(!it.balancing().worker().isBusy());
        QVERIFY(!it.balancing().proposal());
        it.window.click("balanceMeasure");
        it.settle();
        QVERIFY(it.balancing().curve().has_value());
        // Another document while it measures: nothing of the old one comes.
        it.balancing().measure();
        it.window->newEnsemble();
        QTest::qWait(50);
        QVERIFY(!it.balancing().curve());
        QVERIFY(!it.page().findChild<QLabel*>(QStringLiteral("balanceEmpty"))->isHidden());
    }

    /// What is chosen otherwise ends what is worked out, and what that had ended is measured all the same.
    void chosenOtherwiseMeanwhile() {
        Balance it;
        it.few();
        it.balancing().level();
        it.balancing().setWithin(1);
        QVERIFY(!it.balancing().worker().isBusy());
        it.settle();
        QVERIFY(!it.balancing().proposal());
        QVERIFY(it.balancing().curve().has_value());
        it.balancing().setPositions(17);
        it.balancing().level();
        it.balancing().setCeiling(-3);
        QVERIFY(!it.balancing().curve());
        it.settle();
        QVERIFY(!it.balancing().proposal());
        QCOMPARE(it.balancing().curve()->keys[0].points.size(), std::size_t{17});
        // Let go on, it has measured what is shown itself.
        it.balancing().setPositions(18);
        it.balancing().level();
        it.settle();
        QVERIFY2(it.balancing().proposal().has_value(), qPrintable(it.balancing().trouble()));
        QCOMPARE(it.balancing().curve()->keys[0].points.size(), std::size_t{18});
        it.balancing().level();
        it.choose(QStringLiteral("Bass flute"));
        QVERIFY(!it.balancing().proposal());
        QCOMPARE(it.balancing().curve()->instrument, std::string("flute"));
    }

    /// What is left out follows what the chain smooths, until a person says how long.
    void settlingFollowsTheChain() {
        Balance it;
        it.few();
        const auto smooth = [&](double rise) {
            it.window->document().edit(QStringLiteral("Smooth"), [rise](Ensemble& e) {
                Chain& swell = *findById(findById(e.instruments, "glass")->chains, "swell");
                swell.steps.push_back(test::step("smooth", {rise, rise}));
            });
            it.settle();
        };
        const std::int64_t before = it.balancing().plan().settle;
        smooth(100);
        QCOMPARE(it.balancing().plan().settle, before + 500'000);
        QCOMPARE(it.balancing().curve()->settle, before + 500'000);
        it.balancing().setSettle(300'000);
        smooth(100);
        QCOMPARE(it.balancing().plan().settle, std::int64_t{300'000});
    }

    /// What cannot be is said, and leaves nothing half done.
    void whatCannotBeIsSaid() {
        Balance it;
        it.few();
        it.balancing().setParameter("vibrato-depth");
        it.balancing().level();
        it.settle();
        QVERIFY2(it.text("balanceRoom").contains(QStringLiteral("does not change the level")),
                 qPrintable(it.text("balanceRoom")));
        it.window->document().edit(QStringLiteral("Elsewhere"),
                                   [](Ensemble& e) { e.instruments[0].output.port = "Elsewhere"; });
        it.settle();
        QVERIFY(it.balancing().trouble().contains(QStringLiteral("practice rack")));
        auto* keys = it.window.find<QLineEdit>("balanceKeys");
        keys->setFocus();
        test::type(keys, QStringLiteral("H9"));
        QCOMPARE(keys->text(), QStringLiteral("C4"));
        test::type(keys, QStringLiteral("C3, C5"));
        QCOMPARE(it.balancing().plan().keys, (std::vector{48, 72}));
    }

    void equalStepsAndEvenKeys() {
        Balance it;
        it.choose(QStringLiteral("Tin whistle pair"));
        it.few();
        it.balancing().equal(balance::LoudnessScale::lu);
        it.settle();
        QVERIFY2(it.balancing().proposal().has_value(), qPrintable(it.balancing().trouble()));
        QVERIFY(it.balancing().proposal()->off < it.balancing().proposal()->offBefore);
        QVERIFY2(it.balancing().proposal()->off <= 0.6,
                 qPrintable(QString::number(it.balancing().proposal()->off)));
        it.window.click("balanceTake");
        QCOMPARE(it.window.chain("whistles", "top").steps.size(), std::size_t{1});
        it.settle();
        it.window.click("balanceEven");
        it.settle();
        QVERIFY2(it.balancing().proposal().has_value(), qPrintable(it.balancing().trouble()));
        it.window.click("balanceTake");
        const Chain& even = it.window.instrument("whistles").chains.back();
        QVERIFY(even.source.kind == SourceKind::keyNumber);
        QCOMPARE(it.undoSteps(), 2);
    }

    /// All that one wheel moves, matched to one of them, as one step.
    void matched() {
        Balance it;
        it.choose(QStringLiteral("Tin whistle pair"));
        it.few();
        it.window.click("balanceAll");
        it.settle();
        QVERIFY(it.page().section().readingOf("whistles").contains(QStringLiteral("LUFS")));
        QVERIFY(!it.page().section().readingOf("glass").isEmpty());
        it.balancing().setMotion(balance::motionOf(it.window.chain("whistles", "top").source));
        it.balancing().match("whistles", {"glass", "whistles"});
        it.settle();
        QVERIFY2(it.balancing().isProposed(), qPrintable(it.balancing().trouble()));
        QVERIFY(it.text("balanceWords").contains(QStringLiteral("Glass harmonium")));
        it.balancing().take();
        QCOMPARE(it.undoSteps(), 1);
        QCOMPARE(it.window.chain("glass", "swell").branches.size(), std::size_t{5});
    }

    /// All instruments in one list, kept as one step; the Sheet shows the numbers beside what moves them.
    void fiveNumbersOfAll() {
        Balance it;
        it.choose(QStringLiteral("Tin whistle pair"));
        it.few();
        QVERIFY(!it.window.find<QPushButton>("balanceKeepAll")->isEnabled());
        it.window.click("balanceAll");
        it.settle();
        QStringList shown;
        for (const QLabel* label : it.page().section().findChildren<QLabel*>()) shown << label->text();
        QVERIFY(shown.join(QLatin1Char('\n')).contains(QStringLiteral("· bump ")));
        it.window.click("balanceKeepAll");
        QCOMPARE(it.undoSteps(), 1);
        const Ensemble kept = it.window.ensemble();
        QVERIFY(kept.measurements.size() >= 2);
        const KeptCurve* whistles = nullptr;
        for (const KeptCurve& each : kept.measurements) {
            if (each.instrument == "whistles") whistles = &each;
        }
        QVERIFY(whistles != nullptr && whistles->full);
        QVERIFY(shown.join(QLatin1Char('\n'))
                    .contains(
                        QStringLiteral("· %1\nrange %2")
                            .arg(toQt(text::tenths(*whistles->full)), toQt(text::tenths(*whistles->range)))));
        for (const Assignment& row : assignmentsOf(kept)) {
            const bool isIts = row.owner != nullptr && row.owner->id == "whistles" && row.chain->id == "top";
            const auto full = findAssignmentColumn("loudAtFull")->number(kept, row);
            QCOMPARE(full.has_value(), isIts || (row.owner != nullptr && row.chain != nullptr && full));
            if (isIts) QCOMPARE(*full, *whistles->full);
        }
        // The page shows them, and so does what the command line writes.
        it.window->selection().go(SheetPlace{});
        SheetModel& sheet = it.window.pageOf<SheetPage>().model();
        sheet.showColumns(usualSheetColumns() << QStringLiteral("loudAtFull"));
        const int column = sheet.columnOf("loudAtFull");
        QStringList cells;
        for (int line = 0; line < sheet.rowCount(); ++line)
            cells << sheet.index(line, column).data().toString();
        QVERIFY2(cells.contains(toQt(text::tenths(*whistles->full))), qPrintable(cells.join(u'|')));
        // An edit makes them old, where they are shown, and its undo makes them new.
        sheet.showColumns(usualSheetColumns() << QStringLiteral("measured"));
        const auto saysEdited = [&sheet] {
            int edited = 0;
            for (int line = 0; line < sheet.rowCount(); ++line) {
                const QModelIndex cell = sheet.index(line, sheet.columnOf("measured"));
                if (cell.data().toString().contains(QStringLiteral("edited since"))) ++edited;
            }
            return edited;
        };
        QCOMPARE(saysEdited(), 0);
        it.window->document().edit(QStringLiteral("edit"), [](Ensemble& e) {
            findById(findById(e.instruments, "whistles")->chains, "top")->keepOriginal ^= true;
        });
        QTRY_VERIFY(saysEdited() > 0);
        it.window->document().undoStack().undo();
        QTRY_COMPARE(saysEdited(), 0);
        const QString file = it.window.folder.filePath(QStringLiteral("kept.lever"));
        it.window.savePath = file;
        QVERIFY(it.window->files().save());
        QProcess cli;
        cli.start(QStringLiteral(MELLOW_BIN_DIR "/mellow-lever-cli"),
                  {QStringLiteral("sheet"), file, QStringLiteral("--csv")});
        QVERIFY(test::ends(cli, 30000));
        const QString table = QString::fromUtf8(cli.readAllStandardOutput());
        QVERIFY(table.contains(QStringLiteral("LUFS at full")));
        QVERIFY(table.contains(toQt(text::tenths(*whistles->full))));
        it.window->document().undoStack().undo();
        QVERIFY(it.window.ensemble().measurements.empty());
    }

    /// An instrument that is copied, or kept in the library, carries its curve to wherever it is put.
    void partsCarryTheirCurve() {
        Balance it;
        it.few();
        it.window.click("balanceKeep");
        const balance::Curve measured = *it.balancing().curve();
        it.window->selection().set({"glass", {}, app::Part::instrument, 0, 0});
        it.window->reuse().copy();
        it.window->reuse().keep();
        auto* dialog = it.window->findChild<QDialog*>(QStringLiteral("keepDialog"));
        QVERIFY(dialog != nullptr);
        dialog->findChild<QLineEdit*>(QStringLiteral("keepName"))->setText(QStringLiteral("Measured glass"));
        dialog->findChild<QPushButton*>(QStringLiteral("acceptKeep"))->click();
        it.window->newEnsemble();
        it.window->reuse().paste();
        const auto isThere = [&](std::size_t count) {
            const auto all = it.window.ensemble().measurements;
            QCOMPARE(all.size(), count);
            QCOMPARE(all[count - 1].instrument, it.window.ensemble().instruments[count - 1].id);
            QVERIFY(all[count - 1].extras.empty());
            it.window->selection().go(BalancePlace{it.window.ensemble().instruments[count - 1].id});
            it.settle();
            it.balancing().showKept(all[count - 1].id);
            QVERIFY2(it.balancing().trouble().isEmpty(), qPrintable(it.balancing().trouble()));
            QVERIFY(it.balancing().isKept());
            QCOMPARE(toQt(balance::printCurve(*it.balancing().curve())), toQt(balance::printCurve(measured)));
        };
        isThere(1);
        bool found = false;
        for (const library::Item& item : wholeLibrary().items) {
            if (item.part.name != "Measured glass") continue;
            found = true;
            QVERIFY(toQt(library::contents(item.part)).contains(QStringLiteral("1 measurement")));
            it.window->reuse().put(item.part);
        }
        QVERIFY(found);
        isThere(2);
        // A curve whose file is gone stays behind, which is said, and the instrument is copied all the same.
        it.window.savePath = it.window.folder.filePath(QStringLiteral("glass.lever"));
        QVERIFY(it.window->files().save());
        QVERIFY(QDir(it.window.folder.filePath(QStringLiteral("glass.measurements"))).removeRecursively());
        it.window->selection().set({it.window.ensemble().instruments[0].id, {}, app::Part::instrument, 0, 0});
        it.window->reuse().copy();
        const QString said = it.window->findChild<NoticeBar*>()->text();
        QVERIFY2(said.contains(QStringLiteral("stays behind")), qPrintable(said));
        it.window->reuse().paste();
        QCOMPARE(it.window.ensemble().instruments.size(), std::size_t{3});
        QCOMPARE(it.window.ensemble().measurements.size(), std::size_t{2});
    }

    /// As loud as another at the same gesture, and never above a peak: by the page's own buttons.
    void followedAndHeldBelow() {
        Balance it;
        it.choose(QStringLiteral("Tin whistle pair"));
        it.few();
        it.window.click("balanceOther");
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        QVERIFY(menu != nullptr);
        QAction* glass = nullptr;
        for (QAction* each : menu->actions()) {
            if (each->text() == QStringLiteral("Glass harmonium")) glass = each;
        }
        QVERIFY(glass != nullptr);
        glass->trigger();
        menu->close();
        it.settle();
        it.settle();
        QVERIFY2(it.balancing().proposal().has_value(), qPrintable(it.balancing().trouble()));
        QVERIFY(it.balancing().wish().goal.kind == balance::Goal::Kind::line);
        QVERIFY2(it.balancing().proposal()->off <= 0.7,
                 qPrintable(QString::number(it.balancing().proposal()->off)));
        const auto readout = balance::readoutOf(balance::meanOf(*it.balancing().curve()));
        it.balancing().setCeiling(readout.peak - 6);
        it.window.click("balanceBelow");
        it.settle();
        QVERIFY2(it.balancing().proposal().has_value(), qPrintable(it.balancing().trouble()));
        QVERIFY2(it.balancing().proposal()->peak <= readout.peak - 5.7,
                 qPrintable(QString::number(it.balancing().proposal()->peak)));
        // What was below it is as loud as it was.
        const auto before = balance::meanOf(it.balancing().proposal()->before);
        const auto after = balance::meanOf(it.balancing().proposal()->after);
        QVERIFY(std::abs(*balance::loudnessAt(before, 0.1) - *balance::loudnessAt(after, 0.1)) <= 0.6);
    }

    /// With two keys shown, the line can be as it is at one of them.
    void asItIsAtAKey() {
        Balance it;
        it.few();
        auto* keys = it.window.find<QLineEdit>("balanceKeys");
        keys->setFocus();
        test::type(keys, QStringLiteral("C4, C5"));
        it.settle();
        auto* goal = it.window.find<QComboBox>("balanceGoal");
        const int place = goal->findText(QStringLiteral("As it is at C5"));
        QVERIFY(place > 0);
        emit goal->activated(place);
        it.window.click("balanceWork");
        it.settle();
        QVERIFY2(it.balancing().proposal().has_value(), qPrintable(it.balancing().trouble()));
        QVERIFY2(it.balancing().proposal()->off <= 0.5,
                 qPrintable(QString::number(it.balancing().proposal()->off)));
    }

    /// What is kept lies beside the document, is offered again, goes along, and goes when nobody names it.
    void keptWithTheDocument() {
        Balance it;
        it.few();
        it.window.click("balanceKeep");
        QCOMPARE(it.window.ensemble().measurements.size(), std::size_t{1});
        QCOMPARE(it.undoSteps(), 1);
        const KeptCurve kept = it.window.ensemble().measurements[0];
        QVERIFY(kept.full.has_value());
        it.window.savePath = it.window.folder.filePath(QStringLiteral("level.lever"));
        QVERIFY(it.window->files().save());
        const QString file = it.window.folder.filePath(
            QStringLiteral("level.measurements/%1").arg(QString::fromStdString(kept.file)));
        QVERIFY2(QFile::exists(file), qPrintable(file));
        // What is kept can be forgotten by the same button, and is back by undo.
        auto* keep = it.window.find<QPushButton>("balanceKeep");
        QCOMPARE(keep->text(), QStringLiteral("Forget it"));
        keep->click();
        QVERIFY(it.window.ensemble().measurements.empty());
        QCOMPARE(keep->text(), QStringLiteral("Keep it"));
        it.window->document().undoStack().undo();
        QCOMPARE(it.window.ensemble().measurements.size(), std::size_t{1});
        const balance::Curve shown = *it.balancing().curve();
        it.balancing().measure();
        it.settle();
        QCOMPARE(keep->text(), QStringLiteral("Keep it"));
        it.balancing().showKept(kept.id);
        QCOMPARE(balance::printCurve(*it.balancing().curve()), balance::printCurve(shown));
        // Measured again, the newer one takes its place, and undo has the older one.
        it.window->document().edit(QStringLiteral("Reach"), [](Ensemble& e) {
            findById(findById(e.instruments, "glass")->chains, "swell")->branches[0].low = 100.0;
        });
        it.settle();
        it.window.click("balanceKeep");
        QCOMPARE(it.window.ensemble().measurements.size(), std::size_t{1});
        QVERIFY(it.window.ensemble().measurements[0].file != kept.file);
        QVERIFY(it.window->files().save());
        QVERIFY(QFile::exists(file));
        // A file that is gone is a sentence.
        QVERIFY(QFile::remove(file));
        it.window->document().undoStack().undo();
        it.window->document().undoStack().undo();
        it.balancing().showKept(kept.id);
        QVERIFY(it.balancing().trouble().contains(QStringLiteral("is not there")));
    }

    /// Rendered elsewhere: written, read back, laid over, used.
    void renderedElsewhere() {
        Balance it;
        it.few();
        const QString sweep = it.window.folder.filePath(QStringLiteral("sweep.mid"));
        auto* dialog = new SoundDialog(it.page().workspace(), it.balancing(), &*it.window);
        writeSweep(it.page().workspace(), it.balancing(), sweep);
        QVERIFY(QFile::exists(sweep));
        dialog->open();
        QVERIFY(dialog->readSweep(sweep));
        QVERIFY(!dialog->readSound(sweep));
        QVERIFY2(dialog->said().contains(QStringLiteral("no sound file")), qPrintable(dialog->said()));
        const QString sound = it.window.folder.filePath(QStringLiteral("rendered.wav"));
        it.render(sound);
        QVERIFY(dialog->readSound(sound));
        QVERIFY2(dialog->said().contains(QStringLiteral("from softest to loudest")),
                 qPrintable(dialog->said()));
        auto* begins = dialog->findChild<NumberField*>(QStringLiteral("soundBegins"));
        auto* use = dialog->findChild<QPushButton*>(QStringLiteral("soundUse"));
        const double found = begins->value();
        QVERIFY2(std::abs(found) < 0.05, qPrintable(QString::number(found)));
        // Dragged sideways it lies elsewhere, and is measured there once it is let go.
        auto* wave = dialog->findChild<QWidget*>(QStringLiteral("wave"));
        const QString before = dialog->said();
        test::drag(wave, {300, 40}, {310, 40});
        QVERIFY(begins->value() > found + 0.05);
        QVERIFY(dialog->said() != before);
        QVERIFY(dialog->said().contains(QStringLiteral("from softest")));
        test::drag(wave, {40, 40}, {wave->width() - 10.0, 40});
        QVERIFY(!use->isEnabled());
        QVERIFY2(dialog->said().contains(QStringLiteral("ends")), qPrintable(dialog->said()));
        // Enter in the field measures, and uses nothing yet.
        test::type(begins, QStringLiteral("0"));
        QVERIFY(dialog->isVisible());
        QVERIFY2(use->isEnabled(), qPrintable(dialog->said()));
        const auto onRack = balance::meanOf(*it.balancing().curve());
        use->click();
        QCOMPARE(it.balancing().curve()->heardFrom, std::string("rendered.wav"));
        const auto rendered = balance::meanOf(*it.balancing().curve());
        for (const double place : {0.3, 0.6, 1.0})
            QVERIFY(std::abs(*balance::loudnessAt(rendered, place) - *balance::loudnessAt(onRack, place)) <
                    0.3);
        QCOMPARE(it.window.ensemble().measurements.size(), std::size_t{1});
    }

    void heard() {
        Balance it;
        it.few();
        it.balancing().setGoal([] {
            balance::Goal goal;
            goal.level = -45;
            return goal;
        }());
        it.balancing().level();
        it.settle();
        QVERIFY(it.balancing().proposal().has_value());
        auto* hear = it.window.find<QPushButton>("balanceHear");
        QStringList said;
        connect(&it.window.pageOf<LevelPanel>().hearing(), &Hearing::changed, this,
                [&] { said << hear->text(); });
        it.window.click("balanceHear");
        QVERIFY(said.value(0).startsWith(QStringLiteral("As it is")));
        QTRY_VERIFY(it.window->live().readings().takePosition() >= 0);
        it.window.click("balanceHear");
        QTRY_COMPARE(it.window->live().readings().takePosition(), std::int64_t{-1});
        QCOMPARE(hear->text(), QStringLiteral("Hear the difference"));
        QCOMPARE(it.undoSteps(), 0);
        // An edit ends it: from then on everybody would hear the travel.
        it.window.click("balanceHear");
        QTRY_VERIFY(it.window->live().readings().takePosition() >= 0);
        it.window->document().edit(QStringLiteral("Name"), [](Ensemble& e) { e.title = "Another"; });
        QTRY_COMPARE(it.window->live().readings().takePosition(), std::int64_t{-1});
        QCOMPARE(hear->text(), QStringLiteral("Hear the difference"));
        // So does leaving the page.
        it.window.click("balanceHear");
        QTRY_VERIFY(it.window->live().readings().takePosition() >= 0);
        QTest::keyClick(&*it.window, Qt::Key_1, Qt::ControlModifier);
        QTRY_COMPARE(it.window->live().readings().takePosition(), std::int64_t{-1});
        QTest::keyClick(&*it.window, Qt::Key_6, Qt::ControlModifier);
        it.settle();
        // The demo's take instead of the travel: the same instrument alone, before and after.
        auto* by = it.window.find<QComboBox>("balanceHearBy");
        QVERIFY(by->isVisible() && by->count() >= 2);
        by->setCurrentIndex(1);
        emit by->activated(1);
        said.clear();
        it.window.click("balanceHear");
        QVERIFY(said.value(0).startsWith(QStringLiteral("As it is")));
        std::set<int> keys;
        connect(&it.window->live(), &Live::happened, this, [&keys](const io::Happening& happening) {
            const midi::Bytes bytes = happening.message.bytes();
            if (happening.out && midi::isNoteOn(bytes)) keys.insert(bytes[1]);
        });
        QTRY_VERIFY_WITH_TIMEOUT(keys.size() >= 2, 20000);
        disconnect(&it.window->live(), nullptr, this, nullptr);
        it.window.click("balanceHear");
        QTRY_COMPARE(it.window->live().readings().takePosition(), std::int64_t{-1});
    }
};

QTEST_MAIN(BalancePageTest)
#include "balance.moc"
