// The Sheet page in the real window: read two ways, searched, changed in cells and many rows at once, by
// mouse and keyboard alone.
#include "app/pages/sheet/sheet_page.h"

#include <QClipboard>
#include <QDir>
#include <QHeaderView>
#include <QMenu>
#include <random>

#include "app/document/compare_dialog.h"
#include "app/pages/sheet/bulk_dialog.h"
#include "app/pages/sheet/proposal_dialog.h"
#include "core/store/ensemble_json.h"
#include "support/stage.h"

using namespace mellow;
using namespace mellow::app;
using test::Stage;
using test::Window;

namespace {

const AssignmentId swellExpression{"glass", "swell", 0, "", "", "", ""};
const AssignmentId swellNoise{"glass", "swell", 1, "", "", "", ""};
const AssignmentId swellTone{"glass", "swell", 2, "", "", "", ""};

struct Sheet {
    Window window;

    Sheet() {
        window->openDemo();
        QTest::keyClick(&*window, Qt::Key_5, Qt::ControlModifier);
        QTRY_VERIFY(page().isVisible());
    }
    SheetPage& page() { return window.pageOf<SheetPage>(); }
    SheetView& view() { return page().view(); }
    SheetModel& model() { return page().model(); }
    QRect cellRect(const AssignmentId& id, const char* column) {
        const QModelIndex at = model().index(model().lineOf(id), model().columnOf(column));
        view().scrollTo(at);
        return view().visualRect(at);
    }
    QString text(const AssignmentId& id, const char* column) {
        return model().index(model().lineOf(id), model().columnOf(column)).data().toString();
    }
    void click(const AssignmentId& id, const char* column = "way", Qt::KeyboardModifiers modifiers = {}) {
        QTest::mouseClick(view().viewport(), Qt::LeftButton, modifiers, cellRect(id, column).center());
    }
    void typeInto(const AssignmentId& id, const char* column, const QString& typed) {
        click(id, column);
        QTest::keyClick(&view(), Qt::Key_F2);
        auto* editor = window.find<QLineEdit>("cellEditor");
        editor->selectAll();
        QTest::keyClicks(editor, typed);
        QTest::keyClick(editor, Qt::Key_Return);
        QCoreApplication::processEvents();
    }
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = {}) {
        window->activateWindow();
        if (!QTest::qWaitForWindowActive(&*window)) qFatal("the window is not active");
        QTest::keyClick(&*window, key, modifiers);
    }
    void search(const QString& words) {
        QTest::keyClick(&*window, Qt::Key_F, Qt::ControlModifier);
        QVERIFY(page().search().hasFocus());
        page().search().clear();
        QTest::keyClicks(&page().search(), words);
    }
    BulkDialog& open(const char* button) {
        window.click(button);
        auto* dialog = window->findChild<BulkDialog*>();
        if (dialog == nullptr || !dialog->isVisible()) qFatal("no dialog");
        return *dialog;
    }
    static void make(BulkDialog& dialog) {
        QPointer<BulkDialog> there(&dialog);
        QTest::mouseClick(dialog.findChild<QPushButton*>(QStringLiteral("bulkMake")), Qt::LeftButton);
        QTRY_VERIFY(there.isNull() || !there->isVisible());
    }
    const Branch& branch(const AssignmentId& id) {
        return window.chain(id.owner, id.chain).branches[static_cast<std::size_t>(id.branch)];
    }
    int undoSteps() { return window->document().undoStack().index(); }
};

/// Texts of the lines of a page, heads with a colon.
QStringList linesOf(SheetModel& model, const char* column) {
    QStringList all;
    for (int line = 0; line < model.rowCount(); ++line) {
        all << (model.isHead(line) ? model.index(line, 0).data().toString() + ':'
                                   : model.index(line, model.columnOf(column)).data().toString());
    }
    return all;
}

}  // namespace

class SheetPageTest : public QObject {
    Q_OBJECT

 private slots:
    /// What one test has chosen of the look is no other's.
    void init() { QSettings().remove(QStringLiteral("sheet")); }

    void readTwoWays() {
        Sheet sheet;
        QVERIFY(sheet.page().summary().startsWith(QStringLiteral("60 rows")));
        QCOMPARE(linesOf(sheet.model(), "target").mid(0, 3),
                 (QStringList{"Two-wheel keys:", "Expression", "Bowing noise"}));
        QCOMPARE(sheet.text(swellTone, "reach"), QString("400 Hz–6.2 kHz"));
        QCOMPARE(sheet.text(swellTone, "way"), QString("8–120, eased in"));
        sheet.click(swellTone);
        QTest::keyClick(&*sheet.window, Qt::Key_T);
        QCOMPARE(linesOf(sheet.model(), "move").mid(0, 2), (QStringList{"Glass harmonium:", "Mod wheel"}));
        // What was chosen is still chosen, and what is heard stands first.
        QCOMPARE(sheet.view().chosen(), std::vector<AssignmentId>{swellTone});
        QVERIFY(sheet.model().columnOf("target") < sheet.model().columnOf("move"));
        sheet.window.click("sheetByMove");
        QVERIFY(sheet.model().columnOf("move") < sheet.model().columnOf("target"));
    }

    void searchedAsOneTypes() {
        Sheet sheet;
        sheet.search("cc 21 falls");
        QVERIFY(sheet.page().summary().startsWith("1 of 60 rows"));
        sheet.search("wheel > 5 kHz");
        QCOMPARE(linesOf(sheet.model(), "instrument").size(), sheet.model().rowCount());
        QVERIFY(sheet.model().lineOf(swellTone) >= 0);
        // Enter goes to the rows, and Enter there to the chain.
        QTest::keyClick(&sheet.page().search(), Qt::Key_Return);
        QVERIFY(sheet.view().hasFocus());
        QTest::keyClick(&sheet.view(), Qt::Key_Return);
        QCOMPARE(sheet.window->shownPage(), std::size_t{0});
        QCOMPARE(sheet.window->selection().now().chain, std::string("swell"));
        QTest::keyClick(&*sheet.window, Qt::Key_5, Qt::ControlModifier);
        sheet.search("trombone");
        QVERIFY(sheet.window.find<QLabel>("sheetNothing")->text().contains("trombone"));
        QTest::keyClick(&sheet.page().search(), Qt::Key_Escape);
        QCOMPARE(static_cast<int>(sheet.model().arranged().found), 60);
        // What was searched for is offered again.
        QTest::keyClicks(&sheet.page().search(), "flute");
        QTest::keyClick(&sheet.page().search(), Qt::Key_Return);
        sheet.search("");
        QStringList offered;
        QTimer::singleShot(0, [&] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            QVERIFY(menu != nullptr);
            for (QAction* each : menu->actions()) offered << each->text();
            menu->actions().first()->trigger();
            menu->close();
        });
        QTest::keyClick(&sheet.page().search(), Qt::Key_Down);
        QVERIFY(offered.contains("flute"));
        QCOMPARE(sheet.page().search().text(), offered.first());
    }

    void cellsAreTypedInto() {
        Sheet sheet;
        const int before = sheet.undoSteps();
        sheet.typeInto(swellTone, "reach", "500-5k");
        QCOMPARE(sheet.text(swellTone, "reach"), QString("500 Hz–5 kHz"));
        QCOMPARE(sheet.branch(swellTone).low, Level(500.0));
        QCOMPARE(sheet.undoSteps(), before + 1);
        sheet.typeInto(swellTone, "reach", "loud");
        QCOMPARE(sheet.text(swellTone, "reach"), QString("500 Hz–5 kHz"));
        QCOMPARE(sheet.window->noticeText(), QString("two numbers in Hz, as 30–127."));
        sheet.key(Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(sheet.text(swellTone, "reach"), QString("400 Hz–6.2 kHz"));
        sheet.typeInto(swellTone, "sends", "CC 75");
        QCOMPARE(sheet.text(swellTone, "sends"), QString("CC 75 on ch 1"));
        // What it does is read only: no editor opens.
        sheet.click(swellTone, "way");
        QTest::keyClick(&sheet.view(), Qt::Key_F2);
        QVERIFY(sheet.window->findChildren<QLineEdit*>(QStringLiteral("cellEditor")).isEmpty() ||
                !sheet.window->findChildren<QLineEdit*>(QStringLiteral("cellEditor")).last()->isVisible());
    }

    void copiedAndPasted() {
        Sheet sheet;
        sheet.click(swellNoise, "reach");
        sheet.click(swellTone, "reach", Qt::ShiftModifier);
        QTest::keyClick(&sheet.view(), Qt::Key_C, Qt::ControlModifier);
        QCOMPARE(QApplication::clipboard()->text().trimmed().replace("\r\n", "\n"),
                 QString("64 falling to 10\n400 Hz–6.2 kHz"));
        QApplication::clipboard()->setText(QStringLiteral("1–2\n3 Hz–4 kHz\n"));
        sheet.click(swellExpression, "reach");
        const int before = sheet.undoSteps();
        QTest::keyClick(&sheet.view(), Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(sheet.text(swellExpression, "reach"), QString("1–2"));
        QCOMPARE(sheet.text(swellNoise, "reach"), QString("64 falling to 10"));
        QVERIFY(sheet.window->noticeText().startsWith(QStringLiteral("Not pasted: “3 Hz–4 kHz”")));
        QCOMPARE(sheet.undoSteps(), before + 1);
    }

    void groupsFoldAndAreChosen() {
        Sheet sheet;
        const QRect head = sheet.view().visualRect(sheet.model().index(0, 0));
        const int all = sheet.model().rowCount();
        QTest::mouseClick(sheet.view().viewport(), Qt::LeftButton, {}, {head.left() + 12, head.center().y()});
        QVERIFY(sheet.model().rowCount() < all);
        QTest::keyClick(&sheet.view(), Qt::Key_Right);
        QCOMPARE(sheet.model().rowCount(), all);
        QTest::mouseClick(sheet.view().viewport(), Qt::LeftButton, {}, {head.left() + 60, head.center().y()});
        QCOMPARE(sheet.view().chosen().size(), sheet.model().groupAt(0).rows.size());
        // A folded group that is chosen counts whole.
        QTest::keyClick(&sheet.view(), Qt::Key_Left);
        QCOMPARE(sheet.model().rowCount(), all - static_cast<int>(sheet.model().groupAt(0).rows.size()));
        QTest::mouseClick(sheet.view().viewport(), Qt::LeftButton, {}, {head.left() + 60, head.center().y()});
        QCOMPARE(sheet.view().chosen().size(), sheet.model().groupAt(0).rows.size());
    }

    void sortedByAColumn() {
        Sheet sheet;
        auto& header = *sheet.view().horizontalHeader();
        const int target = sheet.model().columnOf("target");
        const QPoint at(header.sectionPosition(target) + 20, header.height() / 2);
        QTest::mouseClick(header.viewport(), Qt::LeftButton, {}, at);
        QCOMPARE(linesOf(sheet.model(), "target").mid(1, 2), (QStringList{"Bowing noise", "Dynamics"}));
        QTest::mouseClick(header.viewport(), Qt::LeftButton, {}, at);
        QCOMPARE(linesOf(sheet.model(), "target").value(1), QString("Vibrato rate"));
        QTest::mouseClick(header.viewport(), Qt::LeftButton, {}, at);
        QCOMPARE(linesOf(sheet.model(), "target").value(1), QString("Expression"));
    }

    void manyAtOnce() {
        Sheet sheet;
        sheet.click(swellNoise);
        sheet.click(swellTone, "way", Qt::ControlModifier);
        QCOMPARE(sheet.window.find<QLabel>("sheetChosen")->text(), QString("2 chosen"));
        BulkDialog& dialog = sheet.open("bulk-reach");
        dialog.chooseAct(3);
        QCOMPARE(dialog.proposal().summary(), QString("2 rows would change."));
        QCOMPARE(dialog.proposal().model().index(0, ProposalModel::before).data().toString(),
                 QString("64 falling to 10"));
        QCOMPARE(dialog.proposal().model().index(0, ProposalModel::after).data().toString(),
                 QString("10–64"));
        const int before = sheet.undoSteps();
        const Ensemble was = sheet.window.ensemble();
        Sheet::make(dialog);
        QCOMPARE(sheet.undoSteps(), before + 1);
        QCOMPARE(sheet.text(swellNoise, "reach"), QString("10–64"));
        QCOMPARE(sheet.text(swellTone, "reach"), QString("6.2 kHz falling to 400 Hz"));
        QCOMPARE(sheet.view().chosen(), (std::vector<AssignmentId>{swellNoise, swellTone}));
        sheet.key(Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(sheet.window.ensemble() == was);
    }

    /// What cannot be is said with why, and nothing of it is made.
    void whatCannotBe() {
        Sheet sheet;
        sheet.click(swellNoise);
        sheet.click(swellTone, "way", Qt::ControlModifier);
        BulkDialog& dialog = sheet.open("bulk-reach");
        auto* field = dialog.findChild<QLineEdit*>(QStringLiteral("bulkAsk0"));
        field->selectAll();
        QTest::keyClicks(field, "200-300 Hz");
        QTRY_COMPARE(dialog.proposal().summary(), QString("1 row would change, 1 cannot be."));
        QTest::keyClick(field, Qt::Key_Escape);
        QTRY_VERIFY(sheet.window->findChildren<BulkDialog*>().isEmpty());
        QCOMPARE(sheet.text(swellTone, "reach"), QString("400 Hz–6.2 kHz"));
        // Nothing chosen: the buttons say so by being off.
        sheet.view().clearSelection();
        QVERIFY(!sheet.window.find<QPushButton>("bulk-reach")->isEnabled());
    }

    /// The last rows are chosen, and then there are fewer, or none.
    void rowsGoWhileChosen() {
        Sheet sheet;
        const int last = sheet.model().rowCount() - 1;
        sheet.view().setCurrentIndex(sheet.model().index(last, 0));
        sheet.view().choose({sheet.model().idAt(last), sheet.model().idAt(last - 1)});
        sheet.window->document().edit(QStringLiteral("Fewer"),
                                      [](Ensemble& ensemble) { ensemble.instruments.resize(1); });
        QVERIFY(sheet.model().rowCount() < last);
        QTest::keyClick(&sheet.view(), Qt::Key_A, Qt::ControlModifier);
        sheet.window->newEnsemble();
        QCOMPARE(sheet.model().rowCount(), 0);
        QVERIFY(sheet.view().chosen().empty());
        sheet.window->openDemo();
        sheet.key(Qt::Key_5, Qt::ControlModifier);
        QTRY_VERIFY(sheet.model().rowCount() > 60);
    }

    void rowsAreRemoved() {
        Sheet sheet;
        sheet.click(swellNoise);
        QTest::keyClick(&sheet.view(), Qt::Key_Delete);
        auto* dialog = sheet.window->findChild<BulkDialog*>();
        QVERIFY(dialog != nullptr);
        QCOMPARE(dialog->proposal().model().index(0, ProposalModel::after).data().toString(),
                 QString("goes"));
        Sheet::make(*dialog);
        QCOMPARE(sheet.window.chain("glass", "swell").branches.size(), std::size_t{3});
        QVERIFY(sheet.page().summary().startsWith(QStringLiteral("59 rows")));
        QCOMPARE(sheet.window.chain("glass", "swell").branches[1].target, std::string("tone"));
    }

    void stepsOfMany() {
        Sheet sheet;
        QTest::keyClick(&sheet.view(), Qt::Key_A, Qt::ControlModifier);
        QCOMPARE(sheet.view().chosen().size(), std::size_t{60});
        BulkDialog& dialog = sheet.open("bulk-step");
        auto* which = dialog.findChild<QComboBox*>(QStringLiteral("bulkWhich"));
        const int bend = which->findText(QStringLiteral("Bend: change its"), Qt::MatchStartsWith);
        QVERIFY(bend >= 0);
        dialog.chooseAct(bend);
        auto* field = dialog.findChild<QLineEdit*>(QStringLiteral("bulkAsk0"));
        field->selectAll();
        QTest::keyClicks(field, "-0.5");
        QTRY_COMPARE(dialog.proposal().model().index(0, ProposalModel::after).data().toString(),
                     QString("Window 8–120, Bend −0.5"));
        Sheet::make(dialog);
        QCOMPARE(sheet.window.chain("glass", "swell").steps[1].values[0], FieldValue(-0.5));
    }

    void numbers() {
        Sheet sheet;
        auto& numbers = sheet.window.pageOf<NumbersPanel>();
        auto* table = sheet.window.find<QTableView>("numbers");
        const auto tile = [&](int number) {
            return table->visualRect(numbers.model().index(number / 8, number % 8)).center();
        };
        QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, tile(74));
        QVERIFY(sheet.window.find<QLabel>("numberSaid")->text().startsWith("CC 74: sent by a chain"));
        QCOMPARE(sheet.view().chosen().front(), swellTone);
        // A second chain on the same number, and a way out of it.
        sheet.window->document().edit(QStringLiteral("Meet"), [](Ensemble& ensemble) {
            Instrument& glass = *findById(ensemble.instruments, "glass");
            findById(glass.parameters, "bowing")->message.number = 74;
        });
        QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, tile(74));
        QTRY_VERIFY(sheet.window.find<QLabel>("numberSaid")->text().startsWith("CC 74"));
    }

    /// Where a number is asked for, the next free one is a click away.
    void nextFreeNumber() {
        Window window;
        window->openDemo();
        window.select("glass", "swell", app::Part::instrument);
        auto* list = window.find<QListView>("parameters");
        emit list->clicked(list->model()->index(1, 0));
        QCoreApplication::processEvents();
        const int before = findById(window.instrument("glass").parameters, "tone")->message.number;
        window.editsOnce([&] { window.click("nextFreeNumber"); });
        const int now = findById(window.instrument("glass").parameters, "tone")->message.number;
        QCOMPARE(before, 74);
        QCOMPARE(now, 75);
    }

    void comparedWithAnother() {
        Window window;
        window->openDemo();
        const Ensemble before = window.ensemble();
        Ensemble other = before;
        findById(other.instruments, "glass")->chains[0].steps[1].values[0] = 0.5;
        other.tempo.bpm = 90;
        const QString path = window.folder.filePath(QStringLiteral("other.lever"));
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(QByteArray::fromStdString(store::printEnsemble(other)));
        file.close();
        app::CompareDialog dialog(window->document(), &*window);
        dialog.compareWith(path);
        QVERIFY2(dialog.summary().startsWith("2 differences"), qPrintable(dialog.summary()));
        auto* list = dialog.findChild<app::TickList*>();
        auto* take = dialog.findChild<QPushButton*>(QStringLiteral("compareTake"));
        QVERIFY(!take->isEnabled());
        QTreeWidgetItem* glass = list->topLevelItem(0);
        QCOMPARE(glass->child(0)->text(0), QString("Swell: Bend 0.35 → 0.5"));
        glass->child(0)->setCheckState(0, Qt::Checked);
        window.editsOnce([&] { take->click(); });
        QCOMPARE(window.chain("glass", "swell").steps[1].values[0], FieldValue(0.5));
        QVERIFY(dialog.summary().startsWith("1 difference"));
        dialog.findChild<QPushButton*>(QStringLiteral("compareAll"))->click();
        take->click();
        QVERIFY(window.ensemble() == other);
        QCOMPARE(dialog.summary(), QString("It is the same as this ensemble."));
        dialog.compareWith(window.folder.filePath(QStringLiteral("gone.lever")));
        QVERIFY(dialog.summary().contains("gone.lever"));
    }

    /// A take that is taken over comes with its file, to where the document's are: beside it, or with it when
    /// it is saved.
    void whatIsTakenOverBringsItsFiles() {
        const QString demo = QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/tin-observatory.lever");
        const auto takeAll = [&demo](Window& window) {
            app::CompareDialog dialog(window->document(), &*window);
            dialog.compareWith(demo);
            dialog.findChild<QPushButton*>(QStringLiteral("compareAll"))->click();
            dialog.findChild<QPushButton*>(QStringLiteral("compareTake"))->click();
            QCOMPARE(dialog.summary(), QString("It is the same as this ensemble."));
        };
        const auto takesBeside = [](const QString& path) {
            return QDir(path.chopped(6) + QStringLiteral(".takes"))
                .entryList({QStringLiteral("*.mid")})
                .size();
        };
        Window saved;
        saved->newEnsemble();
        saved.savePath = saved.folder.filePath(QStringLiteral("one.lever"));
        QVERIFY(saved->files().saveAs());
        QCOMPARE(takesBeside(saved.savePath), 0);
        takeAll(saved);
        QCOMPARE(saved.ensemble().takes.size(), std::size_t{2});
        QCOMPARE(takesBeside(saved.savePath), 2);
        Window never;
        never->newEnsemble();
        takeAll(never);
        never.savePath = never.folder.filePath(QStringLiteral("two.lever"));
        QVERIFY(never->files().saveAs());
        QCOMPARE(takesBeside(never.savePath), 2);
    }

    /// The file as it is on the disk, and what was saved before, are offered by themselves.
    void comparedWithWhatWasSaved() {
        Window window;
        window->openDemo();
        window.savePath = window.folder.filePath(QStringLiteral("night.lever"));
        QVERIFY(window->files().saveAs());
        const auto bend = [&](double amount) {
            window->document().edit(QStringLiteral("Bend"), [amount](Ensemble& ensemble) {
                findById(ensemble.instruments, "glass")->chains[0].steps[1].values[0] = amount;
            });
        };
        bend(0.5);
        QVERIFY(window->files().save());
        bend(0.6);
        QTimer::singleShot(0, [] {
            auto* dialog = qobject_cast<app::CompareDialog*>(QApplication::activeModalWidget());
            QVERIFY(dialog != nullptr);
            auto* list = dialog->findChild<app::TickList*>();
            QCOMPARE(list->topLevelItem(0)->child(0)->text(0), QString("Swell: Bend 0.6 → 0.5"));
            auto* with = dialog->findChild<QComboBox*>(QStringLiteral("compareWith"));
            QCOMPARE(with->count(), 3);  // the disk, one version, another
            with->setCurrentIndex(1);
            emit with->activated(1);
            QCOMPARE(list->topLevelItem(0)->child(0)->text(0), QString("Swell: Bend 0.6 → 0.35"));
            list->tickAll();
            dialog->findChild<QPushButton*>(QStringLiteral("compareTake"))->click();
            dialog->reject();
        });
        window.menu(QStringLiteral("Compare…"));
        QCOMPARE(window.chain("glass", "swell").steps[1].values[0], FieldValue(0.35));
        window->document().undoStack().undo();
        QCOMPARE(window.chain("glass", "swell").steps[1].values[0], FieldValue(0.6));
    }

    void writtenAndReadAgain() {
        Sheet sheet;
        const auto path = [&](const char* name) { return sheet.window.folder.filePath(QLatin1String(name)); };
        for (const char* name : {"out.pdf", "out.html", "out.csv", "out.md"}) {
            sheet.page().files().onAskWrite([&](QWidget*, const QString&) { return path(name); });
            sheet.window.menu(QStringLiteral("Write the sheet…"));
            QVERIFY(QFileInfo(path(name)).size() > 1000);
        }
        sheet.page().files().writeTo(path("out.xyz"), {});
        QVERIFY(sheet.window->noticeText().contains("ending"));
        QVERIFY(!QFileInfo::exists(path("out.xyz")));
        sheet.page().files().writeTo(path("none/out.csv"), {});
        QVERIFY(sheet.window->noticeText().contains("out.csv"));
        QFile file(path("out.csv"));
        QVERIFY(file.open(QIODevice::ReadWrite));
        QByteArray text = file.readAll();
        text.replace("64 falling to 10", "60 falling to 12");
        file.resize(0);
        file.seek(0);
        file.write(text);
        file.close();
        // Dropped on the sheet it is the sheet's, and shown before it is made.
        QVERIFY(sheet.page().takeFile(path("out.csv")) == Page::Taken::taken);
        auto* dialog = sheet.window->findChild<app::ProposalDialog*>();
        QVERIFY(dialog != nullptr);
        QCOMPARE(dialog->proposal().summary(), QString("1 row would change."));
        sheet.window.editsOnce(
            [&] { dialog->findChild<QPushButton*>(QStringLiteral("proposalMake"))->click(); });
        QCOMPARE(sheet.text(swellNoise, "reach"), QString("60 falling to 12"));
        QVERIFY(sheet.page().takeFile(path("out.pdf")) == Page::Taken::notOurs);
        QVERIFY(sheet.page().takeFile(path("gone.csv")) == Page::Taken::refused);
    }

    void cleanedUp() {
        Sheet sheet;
        sheet.window->document().edit(QStringLiteral("Spare"), [](Ensemble& ensemble) {
            Controller spare;
            spare.id = spare.name = "Spare board";
            spare.port = "attic";
            ensemble.controllers.push_back(spare);
        });
        sheet.window.menu(QStringLiteral("Clean up…"));
        auto* dialog = sheet.window->findChild<QDialog*>(QStringLiteral("cleaningDialog"));
        QVERIFY(dialog != nullptr);
        dialog->findChild<QPushButton*>(QStringLiteral("cleaningAll"))->click();
        sheet.window.editsOnce(
            [&] { dialog->findChild<QPushButton*>(QStringLiteral("cleaningRemove"))->click(); });
        QVERIFY(findById(sheet.window.ensemble().controllers, "Spare board") == nullptr);
        QCOMPARE(dialog->findChild<QLabel*>(QStringLiteral("cleaningSaid"))->text(),
                 QString("Everything here is used by something."));
    }

    /// A thousand random edits of many rows, all taken back.
    void takenBack() {
        Document document;
        Window window;
        window->openDemo();
        document.replace(window.ensemble(), {});
        const Ensemble before = document.ensemble();
        std::mt19937 random(7);
        const auto draw = [&random](int low, int high) {
            return std::uniform_int_distribution<int>(low, high)(random);
        };
        for (int i = 0; i < 1000; ++i) {
            std::vector<AssignmentId> rows;
            for (const Assignment& row : assignmentsOf(document.ensemble())) {
                if (draw(0, 3) == 0) rows.push_back(idOf(row));
            }
            const auto& kinds = bulkKinds();
            const BulkKind& kind =
                kinds[static_cast<std::size_t>(draw(0, static_cast<int>(kinds.size()) - 1))];
            // Removing all would leave nothing to go on with.
            if (std::string_view(kind.id) == "remove") rows.resize(std::min<std::size_t>(rows.size(), 1));
            if (std::string_view(kind.id) == "give") rows.resize(std::min<std::size_t>(rows.size(), 1));
            const auto acts = kind.acts(document.ensemble(), rows);
            const BulkAct& act = acts[static_cast<std::size_t>(draw(0, static_cast<int>(acts.size()) - 1))];
            QVariantList answers;
            for (const BulkAsk& ask : act.asks) {
                answers << (ask.type == BulkAsk::Type::number ? QVariant(ask.start)
                            : ask.type == BulkAsk::Type::text ? QVariant(ask.text)
                            : ask.type == BulkAsk::Type::choice
                                ? QVariant(draw(0, static_cast<int>(ask.choices.size()) - 1))
                                : QVariant(QVariantList{draw(0, static_cast<int>(ask.choices.size()) - 1)}));
            }
            const auto bulk = act.make(answers);
            if (!bulk) continue;
            const sheet::Proposal made = sheet::proposalOf(document.ensemble(), rows, *bulk);
            document.edit(QStringLiteral("Edit"), [&made](Ensemble& ensemble) { ensemble = made.after; });
            const auto written = store::printEnsemble(document.ensemble());
            const auto read = store::parseEnsemble(written);
            QVERIFY2(read && *read == document.ensemble(), qPrintable(act.title));
            if (document.ensemble().instruments[0].chains.size() > 60) document.undoStack().undo();
        }
        QVERIFY(document.undoStack().index() > 300);
        while (document.undoStack().canUndo()) document.undoStack().undo();
        QVERIFY(document.ensemble() == before);
    }

    void foundFromAnyPage() {
        Stage stage(false);
        stage.key(Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
        stage.take(QStringLiteral("cc 21 falls"));
        QCOMPARE(stage.window->selection().now(), (app::Selected{"glass", "swell", app::Part::branch, 1, 0}));
    }

    /// What stands now is said for the rows that are seen, as it moves.
    void itLives() {
        Stage stage(false);
        QTest::keyClick(&*stage.window, Qt::Key_5, Qt::ControlModifier);
        auto& page = stage.window.pageOf<SheetPage>();
        QTRY_VERIFY(page.isVisible());
        const int line = page.model().lineOf(swellExpression);
        const QModelIndex now = page.model().index(line, page.model().columnOf("now"));
        QCOMPARE(now.data().toString(), QString("–"));
        stage.send({0xB0, 1, 127}, "practice-keys");
        QTRY_COMPARE(now.data().toString(), QString("127"));
        QCOMPARE(page.model().stateAt(line).words, QString("speaks"));
        QVERIFY(page.model().nowAt(line).source > 0.99);
    }

    /// What does this do: what is moved, touched or clicked is followed, and nothing is edited.
    void asked() {
        Stage stage(false);
        QTest::keyClick(&*stage.window, Qt::Key_5, Qt::ControlModifier);
        auto& page = stage.window.pageOf<SheetPage>();
        QTRY_VERIFY(page.isVisible());
        const Ensemble before = stage.window.ensemble();
        stage.key(Qt::Key_I);
        QVERIFY(stage.window.find<QLabel>("askedAbout")->text().startsWith("Move a control"));
        stage.send({0xB0, 24, 96}, "gesture-tile");
        QTRY_VERIFY(stage.window.find<QLabel>("askedAbout")->text().startsWith("Reach: "));
        QCOMPARE(page.model().arranged().found, page.asking().rows().size());
        QVERIFY(page.model().arranged().found > 1);  // through the tie line
        // Another control takes its place; the same one, moving on, does not.
        stage.send({0xB0, 1, 40}, "practice-keys");
        QTRY_VERIFY(stage.window.find<QLabel>("askedAbout")->text().startsWith("Mod wheel: "));
        const int line = page.model().lineOf(swellTone);
        QTest::mouseClick(page.view().viewport(), Qt::LeftButton, {},
                          page.view().visualRect(page.model().index(line, 1)).center());
        QCOMPARE(page.model().arranged().found, std::size_t{1});
        QTRY_VERIFY2(page.wayShown().startsWith("Mod wheel 40 → Swell "), qPrintable(page.wayShown()));
        QVERIFY(page.wayShown().contains("Glass harmonium Tone"));
        stage.key(Qt::Key_I);
        QCOMPARE(static_cast<int>(page.model().arranged().found), 60);
        QVERIFY(stage.window.ensemble() == before);
    }

    /// Held, it asks as long as it is held; and who clicked may type the letter.
    void askedWhileHeld() {
        Sheet sheet;
        sheet.window->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(&*sheet.window));
        // Keys of a test go down and come up at 0.
        const auto comesUp = [&sheet](quint64 when) {
            QKeyEvent up(QEvent::KeyRelease, Qt::Key_I, Qt::NoModifier);
            up.setTimestamp(when);
            QApplication::sendEvent(&*sheet.window, &up);
        };
        QTest::keyPress(&*sheet.window, Qt::Key_I);
        QVERIFY(sheet.page().asking().isOn());
        QVERIFY(!sheet.window.action(QStringLiteral("What does this do?"))->autoRepeat());
        comesUp(450);
        QVERIFY(!sheet.page().asking().isOn());
        QTest::keyPress(&*sheet.window, Qt::Key_I);
        comesUp(350);
        QVERIFY(sheet.page().asking().isOn());
        sheet.key(Qt::Key_I);
        QVERIFY(!sheet.page().asking().isOn());
        sheet.window.click("sheetAsk");
        QVERIFY(sheet.page().asking().isOn());
        comesUp(1000);
        sheet.search("swing i");
        QVERIFY(sheet.page().asking().isOn());
    }

    /// What a person has chosen of how it is read is there again.
    void remembered() {
        {
            Sheet sheet;
            sheet.window.click("sheetByHear");
            QTimer::singleShot(0, [] {
                auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
                for (QAction* each : menu->actions()) {
                    if (each->text() == QLatin1String("Note")) each->trigger();
                }
                menu->close();
            });
            sheet.window.click("sheetColumns");
            QVERIFY(sheet.model().columnOf("note") >= 0);
        }
        QSettings settings;
        QVERIFY(settings.value("sheet/columns").toStringList().contains("note"));
        QCOMPARE(settings.value("sheet/by").toInt(), 1);
    }

    void readByAScreenReader() {
        Sheet sheet;
        auto* table = QAccessible::queryAccessibleInterface(&sheet.view());
        QVERIFY(table != nullptr && table->tableInterface() != nullptr);
        QCOMPARE(table->tableInterface()->rowCount(), sheet.model().rowCount());
        const int line = sheet.model().lineOf(swellTone);
        auto* cell = table->tableInterface()->cellAt(line, sheet.model().columnOf("target"));
        QCOMPARE(cell->text(QAccessible::Name), QString("Tone, Glass harmonium"));
        QVERIFY(table->tableInterface()->cellAt(0, 0)->text(QAccessible::Name).contains("controls used"));
        QCOMPARE(table->tableInterface()->columnDescription(0), QString("What I move"));
    }
};

QTEST_MAIN(SheetPageTest)
#include "sheet.moc"
