// The Takes page in the real window, by mouse and keyboard: what is recorded is shown, what is chosen is
// tidied and undone, what is exported is what the command line makes.
#include <QComboBox>
#include <QProcess>
#include <QPushButton>
#include <QTableWidget>

#include "app/pages/takes/export_dialog.h"
#include "app/pages/takes/import_dialog.h"
#include "app/pages/takes/takes_page.h"
#include "app/takes/take_store.h"
#include "app/takes/transport.h"
#include "app/takes/unsaved_dialog.h"
#include "core/files/files.h"
#include "core/store/ensemble_json.h"
#include "support/ends.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;

namespace {

/// A window on the Takes page, with the demo.
struct Stage {
    explicit Stage(QSize size = {1280, 800}) : window(size) {
        window->selection().go(TakePlace{"barometer-falls"});
        if (!QTest::qWaitFor([this] { return page().isVisible() && view().width() == window->width(); }))
            qFatal("the page does not come");
    }
    TakesPage& page() { return window.pageOf<TakesPage>(); }
    TakeView& view() { return page().view(); }
    TakeWork& work() { return window->takes(); }
    /// The row of a lane by its name.
    const TakeRow& row(const QString& name) {
        for (const TakeRow& each : view().rows().rows()) {
            if (each.name == name) return each;
        }
        qFatal("no lane %s", qPrintable(name));
    }
    QRect lane(const QString& name) { return view().layout().laneRect(row(name).key); }
    void saveAs(const QString& file) {
        window.savePath = window.folder.filePath(file);
        QVERIFY(window->files().saveAs());
    }
    QString file() { return window->document().path(); }

    test::Window window;
};

std::vector<std::uint8_t> bytesOf(const QString& path) {
    auto bytes = files::readFile(path.toStdString());
    return bytes ? *bytes : std::vector<std::uint8_t>{};
}

QString differenceShown(Stage& stage) {
    return stage.window->findChild<QLabel*>(QStringLiteral("bandDifference"))->text();
}

}  // namespace

class TakesPageTest : public QObject {
    Q_OBJECT

 private slots:
    /// Where what nothing names any more is put.
    void initTestCase() {
        QVERIFY(home_.isValid());
        qputenv("XDG_DATA_HOME", home_.path().toUtf8());
    }

    /// Each test begins where nobody has recorded yet.
    void init() { std::filesystem::remove_all(TakeStore::waitingFolder().parent_path()); }

    /// What was recorded in an ensemble that was never saved waits until it is taken in, or cleared away.
    void recordingsNeverSaved() {
        Stage stage;
        Take played;
        played.tempos.push_back({0, 120});
        played.add(1000, played.portNumber("hands"), midi::make(midi::noteOn, 0, 60, 90).bytes());
        played.length = 62'000'000;
        KeptTake kept;
        kept.id = "left";
        kept.name = "Left behind";
        const auto stored = storeTake(TakeStore::waitingFolder(), kept, played);
        played.length = 5'000'000;
        kept.id = "other";
        const auto other = storeTake(TakeStore::waitingFolder(), kept, played);
        QVERIFY(stored && other);
        const std::size_t before = stage.window.ensemble().takes.size();
        UnsavedDialog dialog(stage.window->document(), stage.work());
        auto* list = dialog.findChild<QTreeWidget*>(QStringLiteral("neverSaved"));
        const auto choose = [list](const std::string& file) {
            const auto rows = list->findItems(QString::fromStdString(file), Qt::MatchExactly, 3);
            if (rows.size() != 1) qFatal("not in the list");
            list->clearSelection();
            rows.front()->setSelected(true);
            return rows.front()->text(1);
        };
        QCOMPARE(choose(stored->file), QStringLiteral("1:02"));
        dialog.findChild<QPushButton*>(QStringLiteral("takeIn"))->click();
        QCOMPARE(stage.window.ensemble().takes.size(), before + 1);
        QCOMPARE(stage.work().choice.take()->length, std::int64_t{62'000'000});
        QVERIFY(list->findItems(QString::fromStdString(stored->file), Qt::MatchExactly, 3).isEmpty());
        QCOMPARE(choose(other->file), QStringLiteral("0:05"));
        dialog.findChild<QPushButton*>(QStringLiteral("clearAway"))->click();
        QVERIFY(!QFile::exists(QString::fromStdString((TakeStore::waitingFolder() / other->file).string())));
        // What the ensemble itself names is not for clearing.
        for (const KeptTake& take : stage.window.ensemble().takes)
            QVERIFY(list->findItems(QString::fromStdString(take.file), Qt::MatchExactly, 3).isEmpty());
    }

    void theDemoTakeIsShown() {
        Stage stage;
        QCOMPARE(stage.work().choice.kept()->name, std::string("Barometer falls"));
        QVERIFY(
            stage.window.find<QLabel>("takeCaption")->text().contains(QStringLiteral("take 2 of 2 · 1:04")));
        QVERIFY(!stage.lane(QStringLiteral("Mod wheel")).isEmpty());
        // What comes of it is worked out aside.
        QTRY_VERIFY(!stage.view().rows().results().lanes.empty());
        stage.page().band().showInstrument("drone");
        QTRY_VERIFY(!stage.view().rows().results().lanes.empty() &&
                    stage.view().rows().results().lanes[0].instrument == "drone");
        // A click on a lane's name touches what it is of.
        const TakeRow* lane = nullptr;
        for (const TakeRow& each : stage.view().rows().rows()) {
            if (lane == nullptr && each.kind == TakeRow::Kind::result) lane = &each;
        }
        const QRect place = stage.view().layout().laneRect(lane->key);
        QTest::mouseClick(&stage.view(), Qt::LeftButton, {}, {30, place.center().y()});
        QCOMPARE(stage.window->touched().last()->instrument, std::string("drone"));
        QCOMPARE(stage.window->touched().last()->parameter,
                 stage.view().rows().results().lanes[lane->place].parameter);
        // Left and right stay away, and come back with another page.
        QVERIFY(!stage.window->ensembleList().isVisible());
        stage.window->showPage(0);
        QVERIFY(stage.window->ensembleList().isVisible());
    }

    /// What nobody sees is not worked out; what was edited meanwhile is there when the page is.
    void nothingIsWorkedOutAside() {
        Stage stage;
        stage.page().band().showInstrument("glass");
        QTRY_VERIFY(!stage.view().rows().results().lanes.empty() && !stage.page().band().isBusy());
        stage.window->showPage(0);
        QSignalSpy worked(&stage.page().band(), &TakeBand::resultsChanged);
        stage.window->document().edit(QStringLiteral("Reach"), [](Ensemble& e) {
            e.instruments[0].chains[0].branches[0].low = 99.0;
            e.instruments[0].chains[0].branches[0].high = 99.0;
        });
        QVERIFY(!stage.page().band().isBusy());
        stage.window->selection().go(TakePlace{"barometer-falls"});
        QTRY_COMPARE(worked.size(), 1);
        const TakeRow& expression = stage.row(QStringLiteral("Expression"));
        QCOMPARE(stage.view().layout().valueText(expression, 30'000'000), QStringLiteral("99"));
    }

    void whatIsPlayedBecomesATake() {
        Stage stage;
        stage.window.click("take-record");
        QVERIFY(stage.work().recording.isOn());
        stage.window->live().hands().send(midi::make(midi::controlChange, 0, 1, 33));
        stage.window->live().hands().send(midi::make(midi::noteOn, 0, 60, 90));
        stage.window->live().hands().send(midi::make(midi::noteOff, 0, 60, 64));
        stage.window->live().hands().moveDesk("/weather-hand/x", 0.75);
        QTRY_COMPARE(stage.work().recording.progress().second, std::size_t{4});
        stage.window.click("take-record");
        QCOMPARE(stage.window.ensemble().takes.size(), std::size_t{3});
        QCOMPARE(stage.work().choice.kept()->name, std::string("Take 1"));
        QCOMPARE(stage.work().choice.take()->events.size(), std::size_t{4});
        QCOMPARE(stage.work().choice.take()->ports.size(), std::size_t{2});
        QVERIFY(!stage.lane(QStringLiteral("Mod wheel")).isEmpty());
        QVERIFY(!stage.lane(QStringLiteral("Weather hand, across")).isEmpty());
        // One step takes it back.
        stage.window->document().undoStack().undo();
        QCOMPARE(stage.window.ensemble().takes.size(), std::size_t{2});
    }

    /// In a loop what was played over is heard in the next round, and is in the take at the end.
    void overInALoop() {
        Stage stage;
        const Subject wheel =
            stage.view().rows().lanes().lanes[stage.row(QStringLiteral("Mod wheel")).place].subject;
        stage.work().choice.setSpan({20'000'000, 20'600'000});
        stage.work().playing.setLoops(true);
        stage.work().recording.setOverdubs(true);
        stage.work().playing.locate(20'000'000);
        stage.window.click("take-record");
        QTRY_VERIFY(stage.work().playing.isPlaying());
        QTRY_VERIFY(stage.work().playing.position() > 20'100'000);
        stage.window->live().hands().send(midi::make(midi::controlChange, 0, 1, 1));
        // In the round after, the take itself plays what was laid over it.
        bool again = false;
        int rounds = 0;
        connect(&stage.window->live(), &Live::happened, this, [&](const io::Happening& happening) {
            const auto& data = happening.message.data;
            if (!happening.out && happening.played && data[0] == 0xB0 && data[1] == 1 && data[2] == 1)
                again = true;
        });
        std::int64_t last = 0;
        connect(&stage.work().playing, &TakePlaying::moved, this, [&] {
            if (stage.work().playing.position() < last) ++rounds;
            last = stage.work().playing.position();
        });
        QTRY_VERIFY(rounds >= 2);
        QTRY_VERIFY(again);
        stage.window.click("take-record");
        QVERIFY(!stage.work().recording.isOn());
        QCOMPARE(stage.window.ensemble().takes.size(), std::size_t{2});
        QCOMPARE(*stage.work().choice.laneOf(wheel)->valueAt(*stage.work().choice.take(), 20'599'000), 1.0);
        // Outside the loop nothing is other than it was.
        QVERIFY(*stage.work().choice.laneOf(wheel)->valueAt(*stage.work().choice.take(), 20'700'000) != 1.0);
    }

    void whatWasJustPlayedIsKept() {
        Stage stage;
        stage.window->live().hands().send(midi::make(midi::controlChange, 0, 1, 50));
        QTRY_VERIFY(stage.window->live().recorder().hasJustPlayed());
        QTest::keyClick(&stage.view(), Qt::Key_K, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(stage.work().choice.kept()->name, std::string("Just played 1"));
        QCOMPARE(stage.work().choice.take()->events.size(), std::size_t{1});
    }

    void playedByTheSpaceBar() {
        Stage stage;
        stage.view().setFocus();
        stage.work().playing.locate(10'000'000);
        QTest::keyClick(&stage.view(), Qt::Key_Space);
        QVERIFY(stage.work().playing.isPlaying());
        QTRY_VERIFY(stage.work().playing.position() > 10'100'000);
        QTRY_COMPARE(stage.window.find<app::Transport>("transport")->actText(), QStringLiteral("Stop"));
        QTest::keyClick(&stage.view(), Qt::Key_Space);
        QVERIFY(!stage.work().playing.isPlaying());
        QTRY_VERIFY(stage.window->live().readings().takePosition() < 0);
        QVERIFY(stage.work().playing.position() > 10'000'000);
    }

    void aDragChoosesTimeAndLanes() {
        Stage stage;
        const QRect wheel = stage.lane(QStringLiteral("Mod wheel"));
        const QRect breath = stage.lane(QStringLiteral("Breath"));
        const TimeAxis axis = stage.view().axis();
        const QPointF from(axis.x(20'000'000), wheel.center().y());
        const QPointF to(axis.x(30'000'000), breath.center().y());
        test::drag(&stage.view(), from, to);
        QCOMPARE(stage.work().choice.chosenLanes().size(), std::size_t{2});
        const double pixel = axis.microsPerPixel;
        QVERIFY(std::abs(static_cast<double>(stage.work().choice.span().from) - 20e6) <= 2 * pixel);
        QVERIFY(std::abs(static_cast<double>(stage.work().choice.span().to) - 30e6) <= 2 * pixel);
        QVERIFY(stage.window.find<QPushButton>("takeChosen")->text().contains(QStringLiteral("2 lanes")));
        // An edge is dragged alone.
        test::drag(&stage.view(), to, {axis.x(40'000'000), to.y()});
        QVERIFY(std::abs(static_cast<double>(stage.work().choice.span().to) - 40e6) <= 2 * pixel);
        QVERIFY(std::abs(static_cast<double>(stage.work().choice.span().from) - 20e6) <= 2 * pixel);
    }

    /// What is tidied while one records is what is shown, not what is stored; and nothing of it is changed
    /// yet.
    void tidyingWhileRecording() {
        Stage stage;
        stage.work().recording.toggle();
        for (int value = 0; value < 100; ++value)
            stage.window->live().hands().send(midi::make(midi::controlChange, 0, 1, value));
        QTRY_VERIFY(stage.work().choice.take() != stage.work().choice.stored() &&
                    !stage.work().choice.lanes()->lanes.empty());
        stage.work().choice.chooseLanes({stage.work().choice.lanes()->lanes[0].subject});
        stage.window.click("take-smooth");
        QVERIFY(stage.window.find<QPushButton>("tidyMake")->isVisible());
        const Ensemble before = stage.window.ensemble();
        stage.window.click("tidyMake");
        QVERIFY(stage.window.ensemble() == before);
        stage.work().recording.endNow();
    }

    /// Esc closes what is open above a take, wherever the keyboard is, and ends no note by that.
    void escapeClosesTheNumbers() {
        Stage stage;
        stage.work().choice.chooseLanes(
            {stage.view().rows().lanes().lanes[stage.row(QStringLiteral("Mod wheel")).place].subject});
        stage.window.click("take-smooth");
        QVERIFY(stage.page().strip().isVisible());
        int ended = 0;
        connect(&stage.window->live(), &Live::happened, this, [&ended](const io::Happening& happening) {
            const auto& data = happening.message.data;
            ended += happening.out && (data[0] & 0xF0) == 0xB0 && data[1] == 120 ? 1 : 0;
        });
        stage.window.menu(QStringLiteral("Silence all"));
        QVERIFY(!stage.page().strip().isVisible());
        stage.window->live().hands().send(midi::make(midi::controlChange, 0, 1, 33));
        QSignalSpy heard(&stage.window->live(), &Live::happened);
        QTRY_VERIFY(heard.count() > 0);
        QCOMPARE(ended, 0);
    }

    void smoothedAndUndone() {
        Stage stage;
        const auto before = stage.work().choice.take();
        const std::string file = stage.work().choice.kept()->file;
        stage.work().choice.chooseLanes(
            {stage.view().rows().lanes().lanes[stage.row(QStringLiteral("Mod wheel")).place].subject});
        stage.work().choice.setSpan({20'000'000, 30'000'000});
        stage.window.click("take-smooth");
        QVERIFY(!stage.view().hands().previewed().empty());
        QVERIFY(stage.page().strip().text().contains(QStringLiteral("events")));
        // Nothing has changed yet.
        QCOMPARE(stage.work().choice.take(), before);
        test::type(stage.page().strip().field(0), QStringLiteral("600"));
        stage.window.click("tidyMake");
        QVERIFY(stage.work().choice.kept()->file != file);
        QVERIFY(stage.work().choice.take()->events.size() < before->events.size());
        QVERIFY(stage.view().hands().previewed().empty());
        stage.window->document().undoStack().undo();
        QCOMPARE(stage.work().choice.kept()->file, file);
        QVERIFY(*stage.work().choice.take() == *before);
    }

    /// With nothing chosen all lanes are tidied, and seen to be chosen meanwhile.
    void tidyingWithoutAChoice() {
        Stage stage;
        stage.work().choice.chooseLanes({});
        const auto before = stage.work().choice.take();
        stage.window.click("take-thin");
        QCOMPARE(stage.work().choice.chosenLanes().size(), stage.work().choice.lanes()->lanes.size());
        stage.window.click("tidyLeave");
        QVERIFY(stage.work().choice.chosenLanes().empty());
        QCOMPARE(stage.work().choice.take(), before);
        stage.window.click("take-thin");
        test::type(stage.page().strip().field(0), QStringLiteral("4"));
        stage.window.click("tidyMake");
        QVERIFY(stage.work().choice.take()->events.size() < before->events.size());
        QVERIFY(stage.work().choice.chosenLanes().empty());
    }

    void thinningSaysHowManyGo() {
        Stage stage;
        stage.work().choice.chooseLanes(
            {stage.view().rows().lanes().lanes[stage.row(QStringLiteral("Mod wheel")).place].subject});
        stage.window.click("take-thin");
        const std::size_t before = stage.work().choice.take()->events.size();
        const QString said = stage.page().strip().text();
        const int go = said.section(QLatin1Char(' '), 0, 0).toInt();
        QVERIFY(go > 100);
        stage.window.click("tidyMake");
        QCOMPARE(stage.work().choice.take()->events.size(), before - static_cast<std::size_t>(go));
    }

    void redrawnByPenAndByLine() {
        Stage stage;
        const QRect wheel = stage.lane(QStringLiteral("Mod wheel"));
        const TimeAxis axis = stage.view().axis();
        stage.window.click("take-line");
        test::drag(&stage.view(), {axis.x(20'000'000), wheel.bottom() - 1.0},
                   {axis.x(40'000'000), wheel.top() + 1.0}, Qt::ShiftModifier);
        const auto& lane = stage.view().rows().lanes().lanes[stage.row(QStringLiteral("Mod wheel")).place];
        const double middle = *lane.valueAt(*stage.work().choice.take(), 30'000'000);
        QVERIFY2(std::abs(middle - 63) < 8, qPrintable(QString::number(middle)));
        QCOMPARE(stage.window->document().undoStack().undoText(), QStringLiteral("Draw a line"));
        stage.window.click("take-pen");
        test::drag(&stage.view(), {axis.x(45'000'000), wheel.top() + 1.0},
                   {axis.x(50'000'000), wheel.top() + 1.0});
        const auto& redrawn = stage.view().rows().lanes().lanes[stage.row(QStringLiteral("Mod wheel")).place];
        QVERIFY(*redrawn.valueAt(*stage.work().choice.take(), 47'000'000) > 118);
    }

    void notesAreMovedAndRemoved() {
        Stage stage;
        const TakeNote note = stage.work().choice.lanes()->notes[3];
        const QRect rect = stage.view().layout().noteRectOf(3);
        const double pixel = stage.view().axis().microsPerPixel;
        const QPointF from(rect.left() + 2, rect.center().y());
        test::drag(&stage.view(), from, from + QPointF(40, 0));
        QCOMPARE(stage.window->document().undoStack().undoText(), QStringLiteral("Move notes"));
        bool found = false;
        for (const TakeNote& each : stage.work().choice.lanes()->notes)
            found =
                found || (each.key == note.key &&
                          std::abs(static_cast<double>(each.begins - note.begins) - 40 * pixel) <= 2 * pixel);
        QVERIFY(found);
        stage.window->document().undoStack().undo();
        const std::size_t count = stage.work().choice.lanes()->notes.size();
        QTest::mouseClick(&stage.view(), Qt::LeftButton, {}, from.toPoint());
        QCOMPARE(stage.work().choice.chosenNotes().size(), std::size_t{1});
        QTest::keyClick(&stage.view(), Qt::Key_Delete);
        QCOMPARE(stage.work().choice.lanes()->notes.size(), count - 1);
    }

    void copiedAndPasted() {
        Stage stage;
        const auto& lanes = stage.view().rows().lanes().lanes;
        const Subject wheel = lanes[stage.row(QStringLiteral("Mod wheel")).place].subject;
        const Subject breath = lanes[stage.row(QStringLiteral("Breath")).place].subject;
        const double was =
            *stage.work().choice.laneOf(wheel)->valueAt(*stage.work().choice.take(), 21'000'000);
        stage.work().choice.chooseLanes({wheel});
        stage.work().choice.setSpan({20'000'000, 25'000'000});
        QTest::keyClick(&stage.view(), Qt::Key_C, Qt::ControlModifier);
        stage.work().choice.chooseLanes({breath});
        stage.work().playing.locate(40'000'000);
        QTest::keyClick(&stage.view(), Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(*stage.work().choice.laneOf(breath)->valueAt(*stage.work().choice.take(), 41'000'000), was);
    }

    void wheelAndKeysMoveThePicture() {
        Stage stage;
        const TimeAxis before = stage.view().axis();
        const QPoint at = stage.lane(QStringLiteral("Mod wheel")).center();
        const auto wheel = [&](int along, Qt::KeyboardModifiers modifiers) {
            QWheelEvent event(at, stage.view().mapToGlobal(at), {}, {0, along}, Qt::NoButton, modifiers,
                              Qt::NoScrollPhase, false);
            QApplication::sendEvent(&stage.view(), &event);
        };
        const std::int64_t under = before.time(at.x());
        wheel(240, Qt::ControlModifier);
        QVERIFY(stage.view().axis().microsPerPixel < before.microsPerPixel);
        QVERIFY(std::abs(stage.view().axis().x(under) - at.x()) < 1.5);
        const double begin = stage.view().axis().begin;
        wheel(-120, Qt::ShiftModifier);
        QVERIFY(stage.view().axis().begin > begin);
        QTest::keyClick(&stage.view(), Qt::Key_F);
        QVERIFY(std::abs(stage.view().axis().microsPerPixel - before.microsPerPixel) < 1);
        stage.work().playing.locate(10'000'000);
        QTest::keyClick(&stage.view(), Qt::Key_Right, Qt::ControlModifier);
        QVERIFY(std::abs(stage.work().playing.position() - 27'500'000) < 30);
        QTest::keyClick(&stage.view(), Qt::Key_Left, Qt::ControlModifier);
        QCOMPARE(stage.work().playing.position(), std::int64_t{0});
    }

    void cuesAndNames() {
        Stage stage;
        stage.page().onAskText([](const QString&, const QString&, const QString&) {
            return std::optional(QStringLiteral("shutters bang"));
        });
        stage.work().playing.locate(12'000'000);
        QTest::keyClick(&stage.view(), Qt::Key_M, Qt::ControlModifier);
        const auto& marks = stage.work().choice.take()->marks;
        const auto cue = std::find_if(marks.begin(), marks.end(),
                                      [](const TakeMark& mark) { return mark.body == "shutters bang"; });
        QVERIFY(cue != marks.end());
        QVERIFY(std::abs(cue->time - 12'000'000) < 30);
        stage.page().renameTake();
        QCOMPARE(stage.work().choice.kept()->name, std::string("shutters bang"));
    }

    /// A loop can be typed, in the unit that is shown.
    void theSelectionIsTyped() {
        Stage stage;
        QString typed = QStringLiteral("0:33.5 – 46");
        stage.page().onAskText(
            [&](const QString&, const QString&, const QString&) { return std::optional(typed); });
        stage.window.click("takeChosen");
        QVERIFY((stage.work().choice.span() == TimeSpan{33'500'000, 46'000'000}));
        stage.work().playing.setLoops(true);
        typed = QStringLiteral("10 to 9,5");
        stage.window.click("takeChosen");
        QVERIFY((stage.work().choice.span() == TimeSpan{9'500'000, 10'000'000}));
        typed = QStringLiteral("soon");
        stage.window.click("takeChosen");
        QVERIFY((stage.work().choice.span() == TimeSpan{9'500'000, 10'000'000}));
        QVERIFY(stage.window->noticeText().contains(QStringLiteral("is no stretch of the take")));
        TimeText text;
        Take take;
        take.tempos.push_back({0, 90});
        take.length = 100'000'000;
        for (const TimeUnit unit : {TimeUnit::seconds, TimeUnit::bars, TimeUnit::frames}) {
            text.set(take, unit, 25);
            for (const std::int64_t time :
                 {std::int64_t{0}, std::int64_t{2'000'000}, std::int64_t{41'200'000}}) {
                const auto back = text.parse(text.fine(time));
                QVERIFY(back && std::abs(*back - time) <= 40'000);
            }
        }
        text.set(take, TimeUnit::seconds, 25);
        for (const char* bad : {"", ":", "1:-2", "nan", "1e99", "a:b"})
            QVERIFY2(!text.parse(QString::fromLatin1(bad)), bad);
    }

    /// What is recorded is seen while it comes: hands above, and what comes of them below; it is not changed
    /// before it is over.
    void aRecordingIsDrawnAsItComes() {
        Stage stage;
        stage.page().band().showInstrument("glass");
        stage.work().recording.begin();
        for (std::uint8_t value = 0; value < 100; value += 5)
            stage.window->live().hands().sendTo("practice-keys",
                                                midi::make(midi::controlChange, 0, 1, value));
        const auto has = [&](const QString& name) {
            const auto rows = stage.view().rows().rows();
            return std::any_of(rows.begin(), rows.end(),
                               [&](const TakeRow& row) { return row.name == name; });
        };
        QTRY_VERIFY(stage.work().choice.isLive());
        QTRY_COMPARE(stage.work().choice.take()->events.size(), std::size_t{20});
        QTRY_VERIFY(has(QStringLiteral("Mod wheel")) && !has(QStringLiteral("Breath")));
        QTRY_VERIFY(has(QStringLiteral("Expression")));
        const Ensemble before = stage.window.ensemble();
        QVERIFY(!stage.work().changing.change(QStringLiteral("Change"), *stage.work().choice.take()));
        QVERIFY(stage.window.ensemble() == before);
        // Another take may be looked at meanwhile.
        stage.work().choice.choose("wet-stones");
        QVERIFY(!stage.work().choice.isLive() && stage.work().recording.isOn());
        stage.work().recording.endNow();
        QCOMPARE(stage.work().choice.take()->events.size(), std::size_t{20});
        QCOMPARE(stage.window.ensemble().takes.size(), before.takes.size() + 1);
    }

    /// One instrument's lanes are there, whoever drives them; of all instruments each says whose it is.
    void lanesOfSharedChainsAndWhoseTheyAre() {
        Stage stage;
        stage.window->document().edit(QStringLiteral("Shared"), [](Ensemble& e) {
            for (std::size_t i = 0; i < e.instruments.size(); ++i) e.instruments[i].chains.clear();
            Chain both;
            both.id = "both";
            both.source.number = 1;
            for (const char* target : {"glass/expression", "flute/dynamics"}) {
                both.branches.emplace_back().target = target;
                both.branches.back().low = 0.0;
                both.branches.back().high = 100.0;
            }
            e.sharedChains = {both};
        });
        stage.page().band().showInstrument("glass");
        const auto abouts = [&] {
            QStringList found;
            for (const TakeRow& row : stage.view().rows().rows()) {
                if (row.kind == TakeRow::Kind::result) found << row.name + QLatin1Char('/') + row.about;
            }
            return found.join(QLatin1Char(' '));
        };
        QTRY_COMPARE(abouts(), QStringLiteral("Expression/0 – 127"));
        stage.page().band().showInstrument({});
        QTRY_VERIFY2(abouts().contains(QStringLiteral("Expression/Glass harmonium")) &&
                         abouts().contains(QStringLiteral("Dynamics/Bass flute")),
                     qPrintable(abouts()));
    }

    /// Hands that were tidied since are told, also where nothing else comes of them.
    void handsAreComparedToo() {
        Stage stage;
        stage.page().band().showInstrument("glass");
        stage.window.click("bandMark");
        QTRY_COMPARE(differenceShown(stage), QStringLiteral("No difference."));
        Take tidied = *stage.work().choice.take();
        std::erase_if(tidied.events, [](const TakeEvent& event) {
            return event.message.data[0] == 0xB0 && event.message.data[1] == 1 && event.time > 30'000'000;
        });
        QVERIFY(stage.work().changing.change(QStringLiteral("Tidy"), std::move(tidied)));
        QTRY_VERIFY2(differenceShown(stage).contains(QStringLiteral("hands are others")) &&
                         differenceShown(stage).contains(QStringLiteral("Expression")),
                     qPrintable(differenceShown(stage)));
    }

    void thenAndNow() {
        Stage stage;
        stage.page().band().showInstrument("glass");
        stage.window.click("bandMark");
        QTRY_COMPARE(differenceShown(stage), QStringLiteral("No difference."));
        stage.window->document().edit(QStringLiteral("Edit"),
                                      [](Ensemble& e) { e.instruments[0].chains[0].branches[0].low = 60.0; });
        QTRY_VERIFY(differenceShown(stage).contains(QStringLiteral("Expression")));
        stage.view().setFocus();
        QTest::keyPress(&stage.view(), Qt::Key_A);
        QVERIFY(stage.window.find<QPushButton>("bandHear")->isChecked());
        QTest::keyRelease(&stage.view(), Qt::Key_A);
        QVERIFY(!stage.window.find<QPushButton>("bandHear")->isChecked());
    }

    /// While A is held the instrument is sent what it was sent then, and what it is sent now when it is let
    /// go.
    void asItWasIsHeard() {
        Stage stage;
        stage.window.click("bandMark");
        stage.window->document().edit(QStringLiteral("Edit"), [](Ensemble& e) {
            e.instruments[0].chains[0].branches[0].low = 0.0;
            e.instruments[0].chains[0].branches[0].high = 10.0;
        });
        std::vector<int> expression;
        connect(&stage.window->live(), &Live::happened, this, [&](const io::Happening& happening) {
            const auto& data = happening.message.data;
            if (happening.out && data[0] == 0xB0 && data[1] == 11) expression.push_back(data[2]);
        });
        stage.window->live().hands().send(midi::make(midi::controlChange, 0, 1, 127));
        QTRY_VERIFY(!expression.empty() && expression.back() == 10);
        stage.view().setFocus();
        QTest::keyPress(&stage.view(), Qt::Key_A);
        QTRY_COMPARE(expression.back(), 127);
        QTest::keyRelease(&stage.view(), Qt::Key_A);
        QTRY_COMPARE(expression.back(), 10);
    }

    /// What is played outside the selection is not recorded over it.
    void punchedInAndOut() {
        Stage stage;
        const Subject wheel =
            stage.view().rows().lanes().lanes[stage.row(QStringLiteral("Mod wheel")).place].subject;
        const auto valueAt = [&](std::int64_t time) {
            return *stage.work().choice.laneOf(wheel)->valueAt(*stage.work().choice.take(), time);
        };
        const double before = valueAt(19'950'000);
        const double after = valueAt(22'000'000);
        stage.work().choice.setSpan({20'000'000, 21'600'000});
        stage.window.click("take-over");
        stage.window.click("take-punch");
        stage.work().playing.locate(19'700'000);
        stage.window.click("take-record");
        const auto playAt = [&](std::int64_t time, int value) {
            QTRY_VERIFY(stage.work().playing.position() > time);
            stage.window->live().hands().send(midi::make(midi::controlChange, 0, 1, value));
        };
        playAt(19'800'000, 1);
        playAt(20'100'000, 2);
        playAt(21'700'000, 3);
        QTRY_VERIFY(stage.work().playing.position() > 21'800'000);
        stage.window.click("take-record");
        QCOMPARE(valueAt(19'950'000), before);
        QCOMPARE(valueAt(21'599'000), 2.0);
        QCOMPARE(valueAt(22'000'000), after);
    }

    void countedInBarsAndFrames() {
        Stage stage;
        // At 112 beats a minute a bar of four is 2.142857 s.
        stage.view().setUnit(TimeUnit::bars, 25);
        QCOMPARE(stage.view().timeText().fine(2'142'857), QStringLiteral("2.1.00"));
        const auto bars = stage.view().timeText().ticks(0, 10e6, 2e6);
        QCOMPARE(bars.front().label, QStringLiteral("1"));
        stage.view().setUnit(TimeUnit::frames, 25);
        QCOMPARE(stage.view().timeText().fine(61'040'000), QStringLiteral("00:01:01:01"));
        stage.view().setUnit(TimeUnit::seconds, 25);
        QCOMPARE(stage.view().timeText().fine(61'040'000), QStringLiteral("1:01.040"));
    }

    void savedTakesLieBesideTheDocument() {
        Stage stage;
        stage.saveAs(QStringLiteral("tin.lever"));
        const QDir folder(stage.window.folder.filePath(QStringLiteral("tin.takes")));
        QCOMPARE(folder.entryList({QStringLiteral("*.mid")}).size(), 2);
        // An edit is another file; the old one stays as long as undo or an earlier version names it.
        stage.work().choice.chooseLanes({stage.work().choice.lanes()->lanes[0].subject});
        stage.work().choice.setSpan({20'000'000, 30'000'000});
        QTest::keyClick(&stage.view(), Qt::Key_Delete);
        QCOMPARE(folder.entryList({QStringLiteral("*.mid")}).size(), 3);
        QVERIFY(stage.window->files().save());
        QCOMPARE(folder.entryList({QStringLiteral("*.mid")}).size(), 3);
        // What nothing names is put away, if the program wrote it; a person's own file stays.
        stage.window->document().undoStack().undo();
        stage.work().choice.setSpan({31'000'000, 40'000'000});
        QTest::keyClick(&stage.view(), Qt::Key_Delete);
        QCOMPARE(folder.entryList({QStringLiteral("*.mid")}).size(), 4);
        QVERIFY(files::writeFile(folder.filePath(QStringLiteral("stray.mid")).toStdString(),
                                 std::string_view("MThd")));
        QVERIFY(stage.window->files().save());
        QVERIFY(folder.exists(QStringLiteral("stray.mid")));
        QVERIFY(QFile::remove(folder.filePath(QStringLiteral("stray.mid"))));
        // Opened again, they are there; moved away, that is said.
        const QString path = stage.file();
        test::Window again;
        stage.window->newEnsemble();
        QVERIFY(again->openFile(path));
        again->selection().go(TakePlace{});
        QVERIFY(!again->takes().choice.take()->events.empty());
        again->newEnsemble();
        QVERIFY(QDir().rename(folder.path(), folder.path() + QStringLiteral(".away")));
        QVERIFY(again->openFile(path));
        again->selection().go(TakePlace{});
        QVERIFY(again->takes().choice.problem().contains(QStringLiteral("is not there")));
    }

    void exportedAsTheCommandLineMakesIt() {
        Stage stage;
        stage.saveAs(QStringLiteral("tin.lever"));
        stage.work().choice.setSpan({20'000'000, 30'000'000});
        ExportDialog dialog(stage.page().workspace(), &*stage.window);
        const QString mine = stage.window.folder.filePath(QStringLiteral("mine.mid"));
        const QString theirs = stage.window.folder.filePath(QStringLiteral("theirs.mid"));
        const auto apply = [&](const QStringList& more) {
            QProcess cli;
            cli.start(QStringLiteral(MELLOW_BIN_DIR "/mellow-lever-cli"),
                      QStringList{QStringLiteral("apply"), stage.file(), QStringLiteral("--take"),
                                  QStringLiteral("Barometer falls"), QStringLiteral("-o"), theirs} +
                          more);
            return test::ends(cli, 30000) && cli.exitCode() == 0;
        };
        QVERIFY(dialog.writeTo(mine));
        QVERIFY(apply({}));
        QVERIFY(bytesOf(mine).size() > 1000);
        QCOMPARE(bytesOf(mine), bytesOf(theirs));
        dialog.findChild<QCheckBox*>(QStringLiteral("exportSelection"))->setChecked(true);
        QVERIFY(dialog.writeTo(mine));
        QVERIFY(apply(
            {QStringLiteral("--from"), QStringLiteral("20"), QStringLiteral("--to"), QStringLiteral("30")}));
        QCOMPARE(bytesOf(mine), bytesOf(theirs));
        // The hands, as their file is.
        dialog.findChild<QCheckBox*>(QStringLiteral("exportSelection"))->setChecked(false);
        dialog.choose(ExportDialog::What::hands);
        QVERIFY(dialog.writeTo(mine));
        QCOMPARE(
            bytesOf(mine),
            bytesOf(stage.window.folder.filePath(QStringLiteral("tin.takes/") +
                                                 QString::fromStdString(stage.work().choice.kept()->file))));
    }

    void bouncedAndCancelled() {
        Stage stage;
        stage.work().choice.setSpan({20'000'000, 24'000'000});
        ExportDialog dialog(stage.page().workspace(), &*stage.window);
        dialog.choose(ExportDialog::What::sound);
        dialog.findChild<QCheckBox*>(QStringLiteral("exportSelection"))->setChecked(true);
        const QString path = stage.window.folder.filePath(QStringLiteral("sound.flac"));
        QVERIFY(dialog.writeTo(path));
        QTRY_VERIFY_WITH_TIMEOUT(dialog.said().startsWith(QStringLiteral("Written")), 60000);
        QCOMPARE(bytesOf(path).size() > 10000, true);
        QCOMPARE(QByteArray(reinterpret_cast<const char*>(bytesOf(path).data()), 4), QByteArray("fLaC"));
        const QString ended = stage.window.folder.filePath(QStringLiteral("ended.wav"));
        dialog.findChild<QCheckBox*>(QStringLiteral("exportSelection"))->setChecked(false);
        QVERIFY(dialog.writeTo(ended));
        dialog.findChild<QPushButton*>(QStringLiteral("exportClose"))->click();
        QTRY_VERIFY_WITH_TIMEOUT(dialog.said().startsWith(QStringLiteral("Ended")), 60000);
        QVERIFY(!QFile::exists(ended));
    }

    /// What would be rendered for days is asked for twice, in the same place.
    void aBounceOfDaysIsAskedFor() {
        Stage stage;
        Take endless = *stage.work().choice.take();
        constexpr std::int64_t hour = std::int64_t{3600} * 1'000'000;
        endless.length = 37 * hour;
        QVERIFY(stage.work().changing.change(QStringLiteral("Stretch"), std::move(endless)));
        ExportDialog dialog(stage.page().workspace(), &*stage.window);
        dialog.choose(ExportDialog::What::sound);
        const QString path = stage.window.folder.filePath(QStringLiteral("days.wav"));
        QVERIFY(!dialog.writeTo(path));
        QVERIFY2(dialog.said().contains(QStringLiteral("37.0 hours")), qPrintable(dialog.said()));
        QVERIFY2(dialog.said().contains(QStringLiteral("38.4 GB, and is written as RF64")),
                 qPrintable(dialog.said()));
        QVERIFY(dialog.writeTo(path));
        dialog.findChild<QPushButton*>(QStringLiteral("exportClose"))->click();
        QTRY_VERIFY_WITH_TIMEOUT(dialog.said().startsWith(QStringLiteral("Ended")), 60000);
        QVERIFY(!QFile::exists(path));
        // Beyond what a plain WAV holds, too; FLAC holds it.
        endless = *stage.work().choice.take();
        endless.length = 5 * hour;
        QVERIFY(stage.work().changing.change(QStringLiteral("Stretch"), std::move(endless)));
        ExportDialog shorter(stage.page().workspace(), &*stage.window);
        shorter.choose(ExportDialog::What::sound);
        QVERIFY(!shorter.writeTo(stage.window.folder.filePath(QStringLiteral("long.WAV"))));
        QVERIFY2(shorter.said().contains(QStringLiteral("5.2 GB")), qPrintable(shorter.said()));
        QVERIFY(shorter.writeTo(stage.window.folder.filePath(QStringLiteral("long.flac"))));
        shorter.findChild<QPushButton*>(QStringLiteral("exportClose"))->click();
        QTRY_VERIFY_WITH_TIMEOUT(shorter.said().startsWith(QStringLiteral("Ended")), 60000);
    }

    void aFileIsImportedTrackByTrack() {
        Stage stage;
        stage.page().onAskImport([](ImportDialog& dialog) {
            dialog.setPort(0, "gesture-tile");
            return dialog.table().rowCount() == 1;
        });
        QVERIFY(stage.page().importFile(QStringLiteral(MELLOW_SOURCE_DIR "/data/demo/barometer-falls.mid")));
        QCOMPARE(stage.window.ensemble().takes.size(), std::size_t{3});
        QCOMPARE(stage.work().choice.take()->ports, std::vector<std::string>{"gesture-tile"});
        QVERIFY(!stage.work().choice.take()->tempos.empty());
        QVERIFY(!stage.page().importFile(QStringLiteral(MELLOW_SOURCE_DIR "/README.md")));
        QVERIFY(stage.window->noticeText().contains(QStringLiteral("README.md")));
    }

    void foldedPinnedAndSorted() {
        Stage stage;
        const QPoint name(40, stage.lane(QStringLiteral("Breath")).center().y());
        QTest::mouseDClick(&stage.view(), Qt::LeftButton, {}, name);
        QVERIFY(stage.row(QStringLiteral("Breath")).folded);
        stage.view().pin(stage.row(QStringLiteral("Tilt")).key, true);
        QCOMPARE(stage.view().rows().rows().front().name, QStringLiteral("Tilt"));
        stage.view().setOrder(LaneOrder::byName);
        QStringList names;
        for (const TakeRow& row : stage.view().rows().rows()) {
            if (row.kind == TakeRow::Kind::hand && !row.pinned) names << row.name;
        }
        QStringList sorted = names;
        std::sort(sorted.begin(), sorted.end(),
                  [](const QString& a, const QString& b) { return a.localeAwareCompare(b) < 0; });
        QCOMPARE(names, sorted);
    }

    void emptyItSaysWhatToDo() {
        test::Window window;
        window->newEnsemble();
        window->selection().go(TakePlace{});
        QVERIFY(window.pageOf<app::TakesPage>()
                    .findChild<QPushButton*>(QStringLiteral("whichTake"))
                    ->text()
                    .startsWith(QStringLiteral("No takes")));
        window.click("take-keep");
        QVERIFY(window->noticeText().contains(QStringLiteral("Nothing was played")));
    }

    void aKeyOfOnesOwnRecords() {
        Stage stage;
        stage.work().trigger.learn(true);
        stage.window->live().hands().sendTo("pedal-board", midi::make(midi::controlChange, 0, 80, 127));
        QTRY_VERIFY(stage.work().trigger.text().contains(QStringLiteral("80")));
        stage.window->live().hands().sendTo("pedal-board", midi::make(midi::controlChange, 0, 80, 0));
        stage.window->live().hands().sendTo("pedal-board", midi::make(midi::controlChange, 0, 80, 127));
        QTRY_VERIFY(stage.work().recording.isOn());
        stage.window->live().hands().sendTo("pedal-board", midi::make(midi::controlChange, 0, 80, 0));
        stage.window->live().hands().sendTo("pedal-board", midi::make(midi::controlChange, 0, 80, 100));
        QTRY_VERIFY(!stage.work().recording.isOn());
        stage.work().trigger.learn(false);
    }

    void theClockStartsAndStopsIt() {
        Stage stage;
        stage.work().playing.setLeader(TakePlaying::Leader::clock);
        const auto send = [&](std::vector<std::uint8_t> bytes) {
            midi::Short message;
            message.size = static_cast<std::uint8_t>(bytes.size());
            std::copy(bytes.begin(), bytes.end(), message.data.begin());
            stage.window->live().hands().sendTo("sequencer", message);
        };
        // Sixteen sixteenths are a bar of 4/4: at 112 beats a minute 2.142857 s.
        send({0xF2, 16, 0});
        QTRY_VERIFY(std::abs(stage.work().playing.position() - 2'142'857) < 30);
        send({0xFB});
        QTRY_VERIFY(stage.work().playing.isPlaying());
        QVERIFY(stage.work().playing.position() >= 2'142'000);
        send({0xFC});
        QTRY_VERIFY(!stage.work().playing.isPlaying());
    }

 private:
    QTemporaryDir home_;
};

QTEST_MAIN(TakesPageTest)
#include "takes.moc"
