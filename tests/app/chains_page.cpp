// The Chains page, driven by mouse and keyboard: every edit is one undo step, and what the page shows
// follows.
#include <QComboBox>
#include <QLineEdit>
#include <QListView>

#include "app/ground/theme.h"
#include "app/widgets/step_picker.h"
#include "core/describe/sentence.h"
#include "core/model/edit.h"
#include "core/model/law.h"
#include "support/window.h"

using namespace mellow;
using namespace mellow::app;
using test::drag;
using test::numberAt;
using test::Window;

namespace {

void clickRow(QListView& list, int row) {
    QTest::mouseClick(list.viewport(), Qt::LeftButton, {},
                      list.visualRect(list.model()->index(row, 0)).center());
    QCoreApplication::processEvents();
}

}  // namespace

class ChainsPageTest : public QObject {
    Q_OBJECT

 private slots:
    void theFirstInstrumentAndChainAreOpenAtTheStart() {
        Window window;
        QCOMPARE(window.page().chains().model()->rowCount(), 6);
        QCOMPARE(window.find<QLabel>("summary")->text(), QStringLiteral("6 chains · 10 targets · all clear"));
        QCOMPARE(window.find<app::FewLines>("sentence")->text(),
                 QString::fromStdString(describe::chainSentence(
                     window.ensemble(), &window.instrument("glass"), window.chain("glass", "swell"))));
    }

    void aClickChoosesAnInstrumentAndAChain() {
        Window window;
        clickRow(window->ensembleList(), 1);
        QCOMPARE(window->selection().now().instrument, std::string("flute"));
        clickRow(window.page().chains(), 2);
        QCOMPARE(window->selection().now().chain, std::string("lip"));
        QCOMPARE(window.page().lever().targetRails().size(), std::size_t{1});
        QCOMPARE(window.page().lever().targetRails()[0]->content().name, QStringLiteral("Slide"));
        QTest::keyClick(&window.page().chains(), Qt::Key_Up);
        QCOMPARE(window->selection().now().chain, std::string("tongue"));
    }

    void draggingAGripOfATargetMovesItsReach() {
        Window window;
        window.select("glass", "swell");
        Rail* rail = window.page().lever().targetRails()[0];
        const QPointF grip = rail->gripPoint(Rail::Grip::low);
        const double travel = rail->gripPoint(Rail::Grip::low).y() - rail->gripPoint(Rail::Grip::high).y();
        window.editsOnce([&] { drag(rail, grip, grip - QPointF(0, travel / 2)); });
        const Branch& branch = window.chain("glass", "swell").branches[0];
        QVERIFY(std::abs(numberAt(branch.low) - 78.5) <= 2);
        QCOMPARE(numberAt(branch.high), 127.0);
        QVERIFY(window.find<app::FewLines>("sentence")->text().contains(rail->content().lowText));
    }

    void pastEachOtherTurnsTheBranchRound() {
        Window window;
        window.select("glass", "swell");
        Rail* rail = window.page().lever().targetRails()[2];
        const QPointF low = rail->gripPoint(Rail::Grip::low);
        const QPointF high = rail->gripPoint(Rail::Grip::high);
        window.editsOnce([&] { drag(rail, low, high - QPointF(0, 30)); });
        const Branch& branch = window.chain("glass", "swell").branches[2];
        QVERIFY(numberAt(branch.low) > numberAt(branch.high));
        QVERIFY(
            window.find<app::FewLines>("sentence")->text().contains(QStringLiteral("falling to 6.2 kHz")));
    }

    void draggingBetweenTheGripsShiftsBoth() {
        Window window;
        window.select("glass", "swell");
        Rail* rail = window.page().lever().targetRails()[1];  // 64 falling to 10
        const QPointF middle = (rail->gripPoint(Rail::Grip::low) + rail->gripPoint(Rail::Grip::high)) / 2;
        window.editsOnce([&] { drag(rail, middle + QPointF(0, 9), middle - QPointF(0, 12)); });
        const Branch& branch = window.chain("glass", "swell").branches[1];
        QVERIFY(std::abs((numberAt(branch.low) - numberAt(branch.high)) - 54) <= 1);
        QVERIFY(numberAt(branch.low) > 65);
    }

    void shiftDragsFinely() {
        Window window;
        window.select("glass", "swell");
        Rail* rail = window.page().lever().targetRails()[0];
        const QPointF grip = rail->gripPoint(Rail::Grip::low);
        window.editsOnce([&] { drag(rail, grip, grip - QPointF(0, 60), Qt::ShiftModifier); });
        const double low = numberAt(window.chain("glass", "swell").branches[0].low);
        QVERIFY2(low > 30 && low < 42, qPrintable(QString::number(low)));
    }

    void arrowKeysMoveTheChosenGrip() {
        Window window;
        window.select("glass", "swell");
        Rail* rail = window.page().lever().targetRails()[0];
        rail->setFocus();
        window.editsOnce([&] { QTest::keyClick(rail, Qt::Key_Down, Qt::ShiftModifier); });
        QCOMPARE(numberAt(window.chain("glass", "swell").branches[0].high), 126.0);
        QTest::keyClick(rail, Qt::Key_Left);
        window.editsOnce([&] { QTest::keyClick(rail, Qt::Key_Up); });
        QCOMPARE(numberAt(window.chain("glass", "swell").branches[0].low), 35.0);
    }

    void draggingTheSourcesGripsMovesTheWindow() {
        Window window;
        window.select("glass", "swell");
        Rail& rail = window.page().lever().sourceRail();
        const QPointF grip = rail.gripPoint(Rail::Grip::high);
        window.editsOnce([&] { drag(&rail, grip, grip + QPointF(0, 50)); });
        const Step& first = window.chain("glass", "swell").steps[0];
        QVERIFY(numberOf(first, 1) < 0.9);
        QCOMPARE(numberOf(first, 0), 0.063);
    }

    void aSourceWithoutAWindowGetsOne() {
        Window window;
        window.select("whistles", "top");
        Rail& rail = window.page().lever().sourceRail();
        const QPointF grip = rail.gripPoint(Rail::Grip::low);
        window.editsOnce([&] { drag(&rail, grip, grip - QPointF(0, 40)); });
        QCOMPARE(window.chain("whistles", "top").steps.size(), std::size_t{1});
        QVERIFY(numberOf(window.chain("whistles", "top").steps[0], 0) > 0.05);
    }

    void numbersAreTypedWithUnits_data() {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<double>("wanted");
        QTest::newRow("kilo") << "3.5k" << 3500.0;
        QTest::newRow("kilohertz") << "2 kHz" << 2000.0;
        QTest::newRow("plain") << "440" << 440.0;
        QTest::newRow("comma") << "1,5k" << 1500.0;
    }
    void numbersAreTypedWithUnits() {
        QFETCH(QString, typed);
        QFETCH(double, wanted);
        Window window;
        window.select("glass", "swell");
        Rail* rail = window.page().lever().targetRails()[2];
        window.editsOnce([&] {
            QTest::mouseDClick(rail, Qt::LeftButton, {},
                               rail->numberRect(Rail::Grip::high).center().toPoint());
            auto* editor = rail->findChild<QLineEdit*>(QStringLiteral("gripEditor"));
            QVERIFY(editor != nullptr);
            test::type(editor, typed);
        });
        QCOMPARE(numberAt(window.chain("glass", "swell").branches[2].high), wanted);
    }

    /// Both ends of a reach, one after the other: no field stays open, and Esc leaves what was there.
    void afterTypingNoFieldStaysOpen() {
        Window window;
        window.select("glass", "swell");
        Rail* rail = window.page().lever().targetRails()[2];
        const auto editor = [rail] { return rail->findChild<QLineEdit*>(QStringLiteral("gripEditor")); };
        for (const auto& [grip, number] : {std::pair{Rail::Grip::high, "8 kHz"}, {Rail::Grip::low, "300"}}) {
            QTest::mouseDClick(rail, Qt::LeftButton, {}, rail->numberRect(grip).center().toPoint());
            QVERIFY(editor() != nullptr);
            // It lies over its number, and leaves the rest of the rail to be seen.
            QVERIFY(editor()->geometry().contains(QPoint(
                editor()->geometry().center().x(), static_cast<int>(rail->numberRect(grip).center().y()))));
            editor()->selectAll();
            QTest::keyClicks(editor(), QString::fromLatin1(number));
            QTest::keyClick(editor(), Qt::Key_Return);
            QTRY_VERIFY(editor() == nullptr);
        }
        QCOMPARE(numberAt(window.chain("glass", "swell").branches[2].high), 8000.0);
        QCOMPARE(numberAt(window.chain("glass", "swell").branches[2].low), 300.0);
        QTest::mouseDClick(rail, Qt::LeftButton, {}, rail->numberRect(Rail::Grip::low).center().toPoint());
        QTest::keyClicks(editor(), QStringLiteral("1000"));
        QTest::keyClick(editor(), Qt::Key_Escape);
        QTRY_VERIFY(editor() == nullptr);
        QCOMPARE(numberAt(window.chain("glass", "swell").branches[2].low), 300.0);
    }

    /// What appears by itself moves nothing that is under the hand: a finding, a sentence of two lines,
    /// learning, something that is told.
    void nothingMovesUnderTheHand() {
        Window window(QSize(1100, 700));
        window.select("glass", "swell");
        Rail* rail = window.page().lever().targetRails()[0];
        const auto where = [&] {
            return rail->mapTo(&*window, rail->gripPoint(Rail::Grip::high).toPoint()).y();
        };
        const auto settled = [&](int wanted) { return QTest::qWaitFor([&] { return where() == wanted; }); };
        QCoreApplication::processEvents();
        const int before = where();
        window->learn().start();
        QVERIFY2(settled(before), qPrintable(QStringLiteral("learning: %1").arg(where() - before)));
        window->learn().stop();
        window->files().open(QStringLiteral("/nowhere.lever"));
        QVERIFY(!window->noticeText().isEmpty());
        QVERIFY2(settled(before), qPrintable(QStringLiteral("told: %1").arg(where() - before)));
        window->document().edit(QStringLiteral("Fault"),
                                [](Ensemble& e) { e.instruments[0].chains[0].branches[3].target = "gone"; });
        QTRY_VERIFY(!test::findingsText(window).isEmpty());
        QVERIFY2(settled(before), qPrintable(QStringLiteral("found: %1").arg(where() - before)));
        window->document().edit(QStringLiteral("Short"), [](Ensemble& e) {
            e.instruments[0].chains[0].steps.clear();
            e.instruments[0].chains[0].branches[3].target = "reverb";
        });
        QVERIFY2(settled(before), qPrintable(QStringLiteral("sentence: %1").arg(where() - before)));
    }

    /// What is wrong is said where it is seen at once, and a click leads to what mends it.
    void troubleIsSaidAboveAndMendedBelow() {
        Window window;
        window.select("whistles", "top");
        auto* label = window->findChild<app::FewLines*>(QStringLiteral("quiet"));
        QTRY_VERIFY(label->text().startsWith(QStringLiteral("Quiet:")));
        window->document().edit(QStringLiteral("Fault"), [](Ensemble& e) {
            findById(findById(e.instruments, "whistles")->chains, "top")->branches[0].target = "gone";
        });
        QTRY_VERIFY2(label->text().startsWith(QStringLiteral("Trouble: ")), qPrintable(label->text()));
        const auto isSeen = [&window] {
            const auto* found = window.page().lever().findChild<QLabel*>(QStringLiteral("finding"));
            return found != nullptr && !found->visibleRegion().isEmpty();
        };
        QTRY_VERIFY2(!isSeen(),
                     "what is found has its place once it is laid out, and that is below the edge");
        QTest::mouseClick(label, Qt::LeftButton);
        QTRY_VERIFY(isSeen());
        window->document().undoStack().undo();
        QTRY_VERIFY(label->text().startsWith(QStringLiteral("Quiet:")));
    }

    void whyAChainIsQuietIsSaidWhereItIs() {
        Window window;
        window.select("glass", "swell");
        const auto says = [&] {
            const auto* label = window->findChild<app::FewLines*>(QStringLiteral("quiet"));
            return label->isVisible() ? label->text() : QString();
        };
        QTRY_VERIFY(says().contains(QStringLiteral("nothing has come from Mod wheel yet")));
        window->live().hands().send(midi::make(midi::controlChange, 0, 1, 64));
        QTRY_VERIFY(says().isEmpty());
        const auto edit = [&](const std::function<void(Ensemble&)>& change) {
            window->document().edit(QStringLiteral("Change"), change);
        };
        edit([](Ensemble& e) { e.instruments[0].chains[0].active = Active::inHand; });
        edit([](Ensemble& e) { e.inHand = std::vector<std::string>{"flute"}; });
        QTRY_COMPARE(says(), QStringLiteral("Quiet: Glass harmonium is not in hand."));
        edit([](Ensemble& e) { e.instruments[0].chains[0].on = false; });
        QTRY_COMPARE(says(), QStringLiteral("Quiet: this chain is switched off."));
        edit([](Ensemble& e) { e.instruments[0].on = false; });
        QTRY_COMPARE(says(), QStringLiteral("Quiet: Glass harmonium is switched off."));
        while (window->document().undoStack().canUndo()) window->document().undoStack().undo();
        QTRY_VERIFY(
            (window->live().hands().send(midi::make(midi::controlChange, 0, 1, 65)), says().isEmpty()));
        edit([](Ensemble& e) { e.instruments[0].output.port = "North rack"; });
        QTRY_COMPARE(says(), QStringLiteral("Nobody hears it: waiting for North rack."));
        edit([](Ensemble& e) { e.instruments[0].chains[0].branches.clear(); });
        QTRY_COMPARE(says(), QStringLiteral("Quiet: it leads nowhere yet."));
        window.select("whistles", "gust");
        QTRY_COMPARE(says(), QStringLiteral("Quiet: waiting for gesture-tile, to play it."));
    }

    /// Eight targets are seen at once, each number clear of the next rail.
    void eightTargetsFit_data() {
        QTest::addColumn<QSize>("size");
        QTest::newRow("1280x800") << QSize(1280, 800);
        QTest::newRow("1100x700") << QSize(1100, 700);
    }
    void eightTargetsFit() {
        QFETCH(QSize, size);
        Window window(size);
        window.select("glass", "swell");
        window->document().edit(QStringLiteral("Targets"), [](Ensemble& e) {
            Instrument& glass = e.instruments[0];
            Chain& chain = glass.chains[0];
            while (chain.branches.size() < 8) {
                glass.parameters.push_back(newParameter(glass));
                glass.parameters.back().name = "Echo of the dome";
                chain.branches.push_back(wholeBranch(glass.parameters.back()));
            }
        });
        auto& lever = window.page().lever();
        QCOMPARE(lever.targetRails().size(), std::size_t{8});
        const QRect page(QPoint(0, 0), window.page().size());
        const auto fit = [&] {
            const auto& rails = lever.targetRails();
            return std::all_of(rails.begin(), rails.end(), [&](Rail* rail) {
                const QRect at(rail->mapTo(&window.page(), QPoint(0, 0)), rail->size());
                return page.left() <= at.left() && at.right() <= page.right();
            });
        };
        QTRY_VERIFY(fit());
        for (Rail* rail : lever.targetRails()) {
            const QFontMetrics metrics(captionFont());
            for (const auto grip : {Rail::Grip::low, Rail::Grip::high}) {
                const QString& text =
                    grip == Rail::Grip::low ? rail->content().lowText : rail->content().highText;
                QVERIFY(rail->numberRect(grip).width() >= metrics.horizontalAdvance(text));
            }
            QVERIFY(!rail->numberRect(Rail::Grip::low).intersects(rail->numberRect(Rail::Grip::high)));
        }
    }

    void decibelsAndShareAreTypedToo() {
        Window window;
        window.select("hurdy", "crank");
        Rail* rail = window.page().lever().targetRails()[0];
        rail->setFocus();
        QTest::keyClick(rail, Qt::Key_Return);
        test::type(rail->findChild<QLineEdit*>(QStringLiteral("gripEditor")), QStringLiteral("-12 dB"));
        QCOMPARE(numberAt(window.chain("hurdy", "crank").branches[0].high), -12.0);
        window.select("glass", "swell");
        Rail& source = window.page().lever().sourceRail();
        source.setFocus();
        QTest::keyClick(&source, Qt::Key_Return);
        test::type(source.findChild<QLineEdit*>(QStringLiteral("gripEditor")), QStringLiteral("40%"));
        QCOMPARE(numberOf(window.chain("glass", "swell").steps[0], 1), 0.4);
    }

    void whatIsNoNumberIsRefusedWithASentence() {
        Window window;
        window.select("glass", "swell");
        const Ensemble before = window.ensemble();
        Rail* rail = window.page().lever().targetRails()[2];
        rail->setFocus();
        QTest::keyClick(rail, Qt::Key_Return);
        test::type(rail->findChild<QLineEdit*>(QStringLiteral("gripEditor")), QStringLiteral("loud"));
        QVERIFY(window.ensemble() == before);
        QVERIFY(window->noticeText().contains(
            QStringLiteral("“loud” is no value of Tone; type one from 20 Hz to 20 kHz")));
    }

    void theBendHandleIsDraggedOnTheCurve() {
        Window window;
        window.select("glass", "swell", Part::step, 1);
        ResponsePicture& picture = window.page().lever().picture();
        const double y = shapePosition(window.chain("glass", "swell").steps[1], 0.5);
        const QRectF area = QRectF(picture.rect()).adjusted(7, 7, -7, -7);
        const QPointF handle(area.center().x(), area.bottom() - y * area.height());
        window.editsOnce([&] { drag(&picture, handle, {handle.x(), area.center().y()}); });
        QVERIFY(std::abs(numberOf(window.chain("glass", "swell").steps[1], 0)) < 0.02);
    }

    void pointsAreAddedDraggedAndRemoved() {
        Window window;
        window.select("glass", "half-light", Part::step, 0);
        ResponsePicture& picture = window.page().lever().picture();
        const QRectF area = QRectF(picture.rect()).adjusted(7, 7, -7, -7);
        const auto at = [&](double x, double y) {
            return QPointF(area.left() + x * area.width(), area.bottom() - y * area.height());
        };
        const auto points = [&] { return pointsOf(window.chain("glass", "half-light").steps[0], 0); };
        const std::size_t count = points().size();
        const auto doubleClick = [&](const QPointF& place) {
            QTest::mouseDClick(&picture, Qt::LeftButton, {}, place.toPoint());
        };
        window.editsOnce([&] { doubleClick(at(0.9, 0.3)); });
        QCOMPARE(points().size(), count + 1);
        window.editsOnce([&] { drag(&picture, at(0.9, 0.3), at(0.85, 0.6)); });
        QVERIFY(std::abs(points()[count - 1].y - 0.6) < 0.02);
        picture.setFocus();
        window.editsOnce([&] { QTest::keyClick(&picture, Qt::Key_Delete); });
        QCOMPARE(points().size(), count);
    }

    void aPointCannotBeDraggedPastItsNeighbour() {
        Window window;
        window.select("glass", "half-light", Part::step, 0);
        ResponsePicture& picture = window.page().lever().picture();
        const QRectF area = QRectF(picture.rect()).adjusted(7, 7, -7, -7);
        const Point second = pointsOf(window.chain("glass", "half-light").steps[0], 0)[1];
        const QPointF from(area.left() + second.x * area.width(), area.bottom() - second.y * area.height());
        drag(&picture, from, {area.right(), from.y()});
        const auto points = pointsOf(window.chain("glass", "half-light").steps[0], 0);
        for (std::size_t i = 1; i < points.size(); ++i) QVERIFY(points[i].x > points[i - 1].x);
    }

    void instrumentsAreAddedDuplicatedMovedSwitchedAndRemoved() {
        Window window;
        window.editsOnce([&] { window.click("addInstrument"); });
        QCOMPARE(window.ensemble().instruments.size(), std::size_t{7});
        const std::string added = window->selection().now().instrument;
        QCOMPARE(window.instrument(added).output.channel, 6);
        window.editsOnce([&] { window.click("duplicate"); });
        QCOMPARE(window.ensemble().instruments.size(), std::size_t{8});
        window.editsOnce([&] { window.click("moveEarlier"); });
        window.editsOnce([&] { window.menu(QStringLiteral("Switch on or off")); });
        const std::string copy = window->selection().now().instrument;
        QVERIFY(!window.instrument(copy).on);
        window.editsOnce([&] { window.click("remove"); });
        QCOMPARE(window.ensemble().instruments.size(), std::size_t{7});
        QVERIFY(findById(window.ensemble().instruments, copy) == nullptr);
    }

    void chainsAreAddedDuplicatedMovedSwitchedAndRemoved() {
        Window window;
        window.editsOnce([&] { window.click("addChain"); });
        QCOMPARE(window.instrument("glass").chains.size(), std::size_t{7});
        const std::string added = window->selection().now().chain;
        window.editsOnce([&] { window.click("duplicate"); });
        window.editsOnce([&] { window.menu(QStringLiteral("Move earlier")); });
        QCOMPARE(window.instrument("glass").chains[6].id, window->selection().now().chain);
        ChainList& list = window.page().chains();
        list.scrollToTop();
        window.editsOnce(
            [&] { QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, list.switchRect(0).center()); });
        QVERIFY(!window.instrument("glass").chains[0].on);
        window.editsOnce([&] { window.click("remove"); });
        window.select("glass", added);
        window.editsOnce([&] { window.menu(QStringLiteral("Remove")); });
        QCOMPARE(window.instrument("glass").chains.size(), std::size_t{6});
    }

    void stepsAreAddedDuplicatedMovedSwitchedAndRemoved() {
        Window window;
        window.select("glass", "swell");
        for (const char* kind : {"Window", "Reverse", "S-curve", "Dead zone", "Rest placement", "Levels",
                                 "Gate", "Latch", "Scale", "Thin", "Bend", "Drawn points", "Smooth"}) {
            window.editsOnce([&] { window.pickStep("addStep", QLatin1String(kind)); });
            QCoreApplication::processEvents();
        }
        QCOMPARE(window.chain("glass", "swell").steps.size(), std::size_t{15});
        window.editsOnce([&] { window.click("moveEarlier"); });
        window.editsOnce([&] { window.click("duplicate"); });
        QCOMPARE(window->selection().now().index, 14);
        window.editsOnce([&] { window.menu(QStringLiteral("Switch on or off")); });
        QVERIFY(!window.chain("glass", "swell").steps[14].on);
        window.editsOnce([&] { window.click("remove"); });
        QCOMPARE(window.chain("glass", "swell").steps.size(), std::size_t{15});
    }

    /// Kinds of step show what they would do to this chain, are found by words and walked by keys.
    void aStepIsChosenFromPictures() {
        Window window;
        window.select("glass", "half-light");
        const auto picker = [&] { return window->findChild<StepPicker*>(); };
        const auto open = [&] {
            window->activateWindow();
            QTest::keyClick(&*window, Qt::Key_E, Qt::ControlModifier);
            return picker() != nullptr && picker()->isVisible();
        };
        QVERIFY(open());
        auto* list = picker()->findChild<QListView*>(QStringLiteral("stepKinds"));
        auto* words = picker()->findChild<QLineEdit*>(QStringLiteral("stepWords"));
        QCOMPARE(list->model()->rowCount(), static_cast<int>(stepKinds().size()));
        // Reverse, behind what the chain has already.
        const auto& model = *static_cast<StepKindModel*>(list->model());
        for (int row = 0; row < model.rowCount(); ++row) {
            if (model.kind(row).name != "reverse") continue;
            const StepExample& example = model.example(row);
            for (std::size_t i = 0; i < example.before.size(); ++i)
                QVERIFY(std::abs(example.before[i] + example.after[i] - 1) < 1e-9);
            QCOMPARE(example.before.front(), settledPosition(window.chain("glass", "half-light").steps, 0));
        }
        QTest::keyClicks(words, QStringLiteral("glides"));
        QCOMPARE(list->model()->rowCount(), 1);
        QCOMPARE(list->currentIndex().data().toString(), QStringLiteral("Smooth"));
        words->clear();
        QTest::keyClick(words, Qt::Key_Down);
        QCOMPARE(list->currentIndex().row(), 3);
        QTest::keyClick(words, Qt::Key_Left);
        QCOMPARE(list->currentIndex().row(), 2);
        const QString wanted = list->currentIndex().data().toString();
        window.editsOnce([&] { QTest::keyClick(words, Qt::Key_Return); });
        QCOMPARE(QString::fromUtf8(window.chain("glass", "half-light").steps.back().kind->label.data()),
                 wanted);
        QTRY_VERIFY(picker() == nullptr);
        // A click takes a card too; Esc takes nothing.
        QTRY_VERIFY(open());
        list = picker()->findChild<QListView*>(QStringLiteral("stepKinds"));
        window.editsOnce([&] {
            QTest::mouseClick(list->viewport(), Qt::LeftButton, {},
                              list->visualRect(list->model()->index(4, 0)).center());
        });
        QTRY_VERIFY(picker() == nullptr);
        const Ensemble before = window.ensemble();
        QTRY_VERIFY(open());
        QTest::keyClick(picker(), Qt::Key_Escape);
        QTRY_VERIFY(picker() == nullptr);
        QVERIFY(window.ensemble() == before);
    }

    void branchesAreAddedDuplicatedMovedSwitchedAndRemoved() {
        Window window;
        window.select("glass", "swell");
        window.editsOnce([&] { window.addTarget(); });
        QCOMPARE(window.chain("glass", "swell").branches.size(), std::size_t{5});
        QCOMPARE(window.page().lever().targetRails().size(), std::size_t{5});
        window.editsOnce([&] { window.click("moveEarlier"); });
        window.editsOnce([&] { window.click("duplicate"); });
        window.editsOnce([&] { window.menu(QStringLiteral("Switch on or off")); });
        QVERIFY(!window.chain("glass", "swell").branches[4].on);
        QCOMPARE(window.page().lever().targetRails()[4]->content().valueText, QStringLiteral("off"));
        window.editsOnce([&] { window.click("remove"); });
        QCOMPARE(window.chain("glass", "swell").branches.size(), std::size_t{5});
        window.editsOnce([&] { window.pickStep("addBranchStep", QStringLiteral("Smooth")); });
        QCoreApplication::processEvents();
        QCOMPARE(window->selection().now().part, Part::branchStep);
        window.editsOnce([&] { window.click("remove"); });
    }

    void aStepsNumberIsTypedInItsEditor() {
        Window window;
        window.select("hurdy", "crank", Part::step, 0);
        auto fields = window.details().findChildren<NumberField*>();
        window.editsOnce([&] { test::type(fields[0], QStringLiteral("0.4 s")); });
        QCOMPARE(numberOf(window.chain("hurdy", "crank").steps[0], 0), 400.0);
        window.select("glass", "swell", Part::step, 1);
        fields = window.details().findChildren<NumberField*>();
        window.editsOnce([&] { test::type(fields[0], QStringLiteral("-0.5")); });
        QCOMPARE(numberOf(window.chain("glass", "swell").steps[1], 0), -0.5);
    }

    void aSliderIsOneUndoStepADrag() {
        Window window;
        window.select("glass", "swell", Part::step, 1);
        auto* slider = window.details().findChild<QSlider*>();
        QStyleOptionSlider option;
        option.initFrom(slider);
        const double x = slider->width() * (slider->value() / 1000.0);
        window.editsOnce([&] {
            drag(slider, {x, slider->height() / 2.0}, {x - 60, slider->height() / 2.0});
        });
        QVERIFY(numberOf(window.chain("glass", "swell").steps[1], 0) < 0.2);
    }

    void parametersAreAddedEditedAndRemoved() {
        Window window;
        window.select("glass", {}, Part::instrument);
        window.editsOnce([&] { window.click("addParameter"); });
        QCOMPARE(window.instrument("glass").parameters.size(), std::size_t{9});
        auto* list = window.find<QListView>("parameters");
        list->setCurrentIndex(list->model()->index(1, 0));
        clickRow(*list, 1);
        QCoreApplication::processEvents();
        window.editsOnce([&] { window.click("removeParameter"); });
        QCOMPARE(window.instrument("glass").parameters.size(), std::size_t{8});
        QCOMPARE(window.chain("glass", "swell").branches.size(), std::size_t{3});
    }

    void aFindingLeadsToItsPlace() {
        Window window;
        window->document().edit(QStringLiteral("Break"),
                                [](Ensemble& e) { e.instruments[0].chains[0].branches[2].target = "gone"; });
        window.select("glass", "swell");
        auto* findings = window.page().findChild<FindingsView*>();
        QTRY_VERIFY(findingsText(window).contains(QStringLiteral("does not have; choose another target")));
        QCOMPARE(window.find<QLabel>("summary")->text(), QStringLiteral("6 chains · 10 targets · 1 trouble"));
        window.click("showFinding");
        QCOMPARE(window->selection().now().part, Part::branch);
        QCOMPARE(window->selection().now().index, 2);
        // The mend: another target from the list.
        auto* targets = window.details().findChild<QComboBox*>();
        targets->setFocus();
        window.editsOnce([&] {
            targets->setCurrentIndex(1);
            emit targets->activated(1);
        });
        QTRY_VERIFY(!findings->isVisible());
    }

    /// An edit is heard and painted before anybody asks what checks say of it; a drag asks far less often
    /// than it moves.
    void findingsFollowEdits() {
        Window window;
        int asked = 0;
        QObject::connect(&window->document(), &Document::findingsChanged, &window->document(),
                         [&asked] { ++asked; });
        const Gesture gesture = Document::newGesture();
        QStringList order;
        QObject::connect(&window->document(), &Document::changed, &window->document(),
                         [&order] { order << QStringLiteral("changed"); });
        QObject::connect(&window->document(), &Document::findingsChanged, &window->document(),
                         [&order] { order << QStringLiteral("findings"); });
        for (int i = 0; i < 20; ++i) {
            window->document().edit(
                QStringLiteral("Drag"),
                [i](Ensemble& e) { e.instruments[0].chains[0].branches[0].high = 60.0 + i; }, gesture);
        }
        QCOMPARE(asked, 0);
        QTRY_COMPARE(asked, 1);
        QCOMPARE(order.size(), 21);
        QCOMPARE(order.last(), QStringLiteral("findings"));
    }

    /// The header shows the pages that there are, and so does the View menu with a key for each.
    void pagesAreShownByTheHeaderAndByKeys() {
        Window window;
        for (std::size_t page = 0; page < pageRows().size(); ++page) {
            auto* tab = window.find<QPushButton>(qPrintable(QStringLiteral("page%1").arg(page + 1)));
            QCOMPARE(tab->text(), pageRows()[page].title());
            const QKeySequence key(Qt::CTRL | static_cast<Qt::Key>(Qt::Key_1 + static_cast<int>(page)));
            QCOMPARE(window.action(pageRows()[page].title())->shortcut(), key);
        }
        window.select("flute", "breath", Part::branch, 1);
        window->practiceKeys().setFocus();
        QTest::keyClick(&*window, Qt::Key_1, Qt::ControlModifier);
        // What was selected there is still selected, and the keyboard is where one begins.
        QCOMPARE(window->selection().now().chain, std::string("breath"));
        QVERIFY(window.page().chains().hasFocus());
        QVERIFY(window.find<QPushButton>("page1")->isChecked());
    }

    /// A finding's address leads to where it can be seen.
    void aFindingHasAnAddress() {
        Window window;
        const Ensemble& e = window.ensemble();
        QVERIFY(addressOf(e, {0, 0, 2}) ==
                Address(Selected{e.instruments[0].id, e.instruments[0].chains[0].id, Part::branch, 2, 0}));
        QVERIFY(addressOf(e, {1, {}, {}}) ==
                Address(Selected{e.instruments[1].id, {}, Part::instrument, 0, 0}));
        QVERIFY(addressOf(e, {{}, 0, {}}) ==
                Address(Selected{sharedOwner, e.sharedChains[0].id, Part::source, 0, 0}));
        QVERIFY(addressOf(e, {99, 0, 0}) == Address(Selected{}));
    }

    /// What an edit would cure is cured by a button, as one edit that can be undone.
    void aFindingIsCuredByAButton() {
        Window window;
        window->document().edit(QStringLiteral("Break"),
                                [](Ensemble& e) { e.instruments[0].chains[0].branches[2].target = "gone"; });
        window.select("glass", "swell");
        QTRY_VERIFY(findingsText(window).contains(QStringLiteral("does not have")));
        const std::size_t branches = window.chain("glass", "swell").branches.size();
        window.editsOnce([&] { window.click("mend"); });
        QCOMPARE(window.chain("glass", "swell").branches.size(), branches - 1);
        QTRY_VERIFY(!window.page().findChild<FindingsView*>()->isVisible());
        QCOMPARE(window.find<QLabel>("summary")->text(), QStringLiteral("6 chains · 9 targets · all clear"));
        window->document().undoStack().undo();
        QTRY_VERIFY(window.page().findChild<FindingsView*>()->isVisible());
    }

    /// What is wrong with an instrument is said, and cured, above its fields.
    void anInstrumentsFindingIsCuredInItsDetails() {
        Window window;
        window->document().edit(QStringLiteral("Break"),
                                [](Ensemble& e) { e.instruments[0].input.transpose = 500; });
        window.select("glass", "");
        auto* findings = window.details().findChild<FindingsView*>();
        QTRY_VERIFY(findings->isVisible());
        window.editsOnce([&] {
            QTest::mouseClick(findings->findChild<QPushButton*>(QStringLiteral("mend")), Qt::LeftButton);
        });
        QCOMPARE(window.instrument("glass").input.transpose, 0);
        QTRY_VERIFY(!findings->isVisible());
    }

    void anEmptyEnsembleLeadsTheWay() {
        Window window;
        window->newEnsemble();
        QCOMPARE(window.find<QPushButton>("emptyAct")->text(), QStringLiteral("Add an instrument"));
        window.click("emptyAct");
        QCOMPARE(window.ensemble().instruments.size(), std::size_t{1});
        QCOMPARE(window.find<QPushButton>("emptyAct")->text(), QStringLiteral("Add a chain"));
        window.click("emptyAct");
        QCOMPARE(window.ensemble().instruments[0].chains.size(), std::size_t{1});
        QVERIFY(window.find<app::FewLines>("sentence")
                    ->text()
                    .startsWith(QStringLiteral("Mod wheel reaches Expression")));
        while (window->document().undoStack().canUndo()) window->document().undoStack().undo();
        QCOMPARE(window.ensemble().instruments.size(), std::size_t{0});
    }

    void theSentenceIsAlsoWhatAScreenReaderGets() {
        Window window;
        const QModelIndex first = window.page().chains().model()->index(0, 0);
        QCOMPARE(first.data(Qt::AccessibleTextRole).toString(),
                 window.find<app::FewLines>("sentence")->text());
        for (Rail* rail : window.page().lever().targetRails()) QVERIFY(!rail->accessibleName().isEmpty());
    }
};

QTEST_MAIN(ChainsPageTest)
#include "chains_page.moc"
