// The lever view as the place to shape: handles and bands of steps, zoom, what was before the newest edit,
// what a branch keeps for itself, and what moves by itself.
#include "app/pages/chains/lever_view.h"

#include <QSignalSpy>
#include "app/pages/chains/rail.h"
#include "app/pages/chains/response_picture.h"
#include "app/pages/chains/step_handles.h"
#include "app/widgets/moving_text.h"
#include "app/widgets/step_picker.h"
#include "support/build.h"
#include "support/stage.h"

using namespace mellow;
using namespace mellow::app;
using test::Stage;

namespace {

ResponsePicture& picture(Stage& stage) {
    return *stage.window->findChild<ResponsePicture*>();
}
std::vector<Rail*> rails(Stage& stage) {
    std::vector<Rail*> shown;
    for (Rail* rail : stage.window->findChildren<Rail*>()) {
        if (rail->isVisible()) shown.push_back(rail);
    }
    return shown;
}

void put(Stage& stage, const std::function<void(Ensemble&)>& change) {
    stage.window->document().edit(QStringLiteral("Set the stage"), change);
    QCoreApplication::processEvents();
}

/// The chain "swell" of glass, with these steps and one branch.
void giveSteps(Stage& stage, std::vector<Step> steps) {
    put(stage, [&](Ensemble& e) {
        Chain& chain = e.instruments[0].chains[0];
        chain.steps = std::move(steps);
        chain.branches.resize(1);
    });
    stage.window.select("glass", "swell", app::Part::step, 0);
}

const Chain& swell(Stage& stage) {
    return stage.window.chain("glass", "swell");
}

void dragHandle(Stage& stage, double fromX, double fromY, double toX, double toY) {
    ResponsePicture& at = picture(stage);
    test::drag(&at, at.toWidget(fromX, fromY), at.toWidget(toX, toY));
}

}  // namespace

class LeverTest : public QObject {
    Q_OBJECT

 private slots:
    /// What has moved while another page was shown stands where it is when something there leads back.
    void whatMovedMeanwhileIsSeenOnReturn() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        stage.key(Qt::Key_4, Qt::ControlModifier);
        bool came = false;
        const auto hears = [&came](const io::Happening& happening) {
            const midi::Bytes bytes = happening.message.bytes();
            came = came || (!happening.out && bytes[1] == 1 && bytes[2] == 127);
        };
        connect(&stage.window->live(), &Live::happened, this, hears);
        stage.send({0xB0, 1, 127}, "practice-keys");
        QTRY_VERIFY(came);
        stage.window->selection().go(Selected{"glass", "swell", Part::source, 0, 0});
        auto* figures = stage.window->findChild<MovingText*>(QStringLiteral("figures"));
        QVERIFY(figures->text().startsWith(QStringLiteral("1.00")));
    }

    /// Each is moved by the mouse to a given number, in one undo step.
    void handlesAreDragged() {
        Stage stage(false);
        giveSteps(stage, {test::step("gate", {0.5, 0.1})});
        stage.window.editsOnce([&] { dragHandle(stage, 0.5, 0.5, 0.7, 0.5); });
        QVERIFY(std::abs(numberOf(swell(stage).steps[0], 0) - 0.7) < 0.02);
        stage.window.editsOnce([&] { dragHandle(stage, 0.6, 0.25, 0.4, 0.25); });
        QVERIFY(std::abs(numberOf(swell(stage).steps[0], 1) - 0.3) < 0.02);

        giveSteps(stage, {test::step("restAt", {0.5, 0.5})});
        stage.window.editsOnce([&] { dragHandle(stage, 0.5, 0.5, 0.5, 0.3); });
        QVERIFY(std::abs(numberOf(swell(stage).steps[0], 1) - 0.3) < 0.02);
        QVERIFY(std::abs(numberOf(swell(stage).steps[0], 0) - 0.5) < 0.02);

        giveSteps(stage, {test::step("levels", {4, 0.1})});
        QCOMPARE(bandsOf(swell(stage).steps[0]).size(), 4U);
        // The second of four edges to a third of the way: two of six.
        stage.window.editsOnce([&] { dragHandle(stage, 0.5, 0.5, 0.3333, 0.5); });
        QCOMPARE(numberOf(swell(stage).steps[0], 0), 6.0);

        giveSteps(stage, {test::step("deadZone", {0.5, 0.2})});
        stage.window.editsOnce([&] { dragHandle(stage, 0.6, 0.5, 0.8, 0.5); });
        QVERIFY(std::abs(numberOf(swell(stage).steps[0], 1) - 0.6) < 0.03);

        giveSteps(stage, {test::step("window", {0.2, 0.8})});
        stage.window.editsOnce([&] { dragHandle(stage, 0.2, 0, 0.4, 0); });
        QVERIFY(std::abs(numberOf(swell(stage).steps[0], 0) - 0.4) < 0.02);
    }
    /// Behind another step a handle stands where the source must be.
    void handlesStandOnTheSourcesTravel() {
        Stage stage(false);
        giveSteps(stage, {test::step("bend", {1}), test::step("gate", {0.5, 0})});
        stage.window.select("glass", "swell", app::Part::step, 1);
        // x⁸ is a half at 0.917.
        stage.window.editsOnce([&] { dragHandle(stage, 0.917, 0.5, 0.8, 0.5); });
        QVERIFY2(std::abs(numberOf(swell(stage).steps[1], 0) - 0.168) < 0.02,
                 qPrintable(QString::number(numberOf(swell(stage).steps[1], 0))));
    }
    void handlesAreMovedByKeys() {
        Stage stage(false);
        giveSteps(stage, {test::step("gate", {0.5, 0.1})});
        picture(stage).setFocus();
        QTest::keyClick(&picture(stage), Qt::Key_Return);
        stage.window.editsOnce([&] { QTest::keyClick(&picture(stage), Qt::Key_Right); });
        QCOMPARE(numberOf(swell(stage).steps[0], 0), 0.55);
        stage.window.editsOnce([&] { QTest::keyClick(&picture(stage), Qt::Key_Left, Qt::ShiftModifier); });
        QCOMPARE(numberOf(swell(stage).steps[0], 0), 0.54);
    }
    void everyBandLiesOnTheTravel() {
        for (const StepKind* kind : stepKinds()) {
            const Step step = makeStep(*kind);
            for (const Band& band : bandsOf(step))
                QVERIFY(band.from >= 0 && band.from <= band.to && band.to <= 1);
            const auto handles = handlesOf(step);
            for (std::size_t i = 0; i < handles.size(); ++i) {
                // Wherever it is dragged, the step can still run.
                for (const Point to : {Point{-3, -3}, Point{0.5, 0.5}, Point{9, 9}})
                    QVERIFY2(flawOf(withHandleAt(step, i, to)).empty(), std::string(kind->name).c_str());
            }
        }
    }
    /// Ctrl+E, a picture, and two double clicks.
    void aCurveWithTwoPointsTakesFourActs() {
        Stage stage(false);
        giveSteps(stage, {});
        stage.window.select("glass", "swell");
        stage.key(Qt::Key_E, Qt::ControlModifier);
        auto* list =
            stage.window->findChild<StepPicker*>()->findChild<QListView*>(QStringLiteral("stepKinds"));
        for (int row = 0; row < list->model()->rowCount(); ++row) {
            const QModelIndex at = list->model()->index(row, 0);
            if (at.data().toString() != toQt(findStepKind("points")->label)) continue;
            ++stage.acts;
            QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualRect(at).center());
            break;
        }
        Stage::settle();
        for (const double x : {0.3, 0.7}) {
            ++stage.acts;
            QTest::mouseDClick(&picture(stage), Qt::LeftButton, {},
                               picture(stage).toWidget(x, x * x).toPoint());
        }
        QCOMPARE(pointsOf(swell(stage).steps.at(0), 0).size(), 4U);
        QVERIFY(stage.acts <= 4);
    }
    void aBranchIsTurnedRoundInOneAct() {
        Stage stage(false);
        giveSteps(stage, {});
        Rail* target = rails(stage)[1];
        const QPointF high = target->gripPoint(Rail::Grip::high);
        const QPointF low = target->gripPoint(Rail::Grip::low);
        stage.window.editsOnce([&] { test::drag(target, high, low + QPointF(0, 40)); });
        const Branch& branch = swell(stage).branches[0];
        QVERIFY(std::get<double>(branch.low) > std::get<double>(branch.high));
    }
    void thePictureIsZoomed() {
        Stage stage(false);
        giveSteps(stage, {test::step("bend", {0.3})});
        ResponsePicture& at = picture(stage);
        at.setFocus();
        const double whole = at.toWidget(1, 0).x() - at.toWidget(0, 0).x();
        for (int i = 0; i < 3; ++i) QTest::keyClick(&at, Qt::Key_Plus);
        QVERIFY(at.zoom() > 3);
        QVERIFY(at.toWidget(1, 0).x() - at.toWidget(0, 0).x() > 3 * whole);
        QTest::keyClick(&at, Qt::Key_Minus);
        QTest::keyClick(&at, Qt::Key_0);
        QCOMPARE(at.zoom(), 1.0);
        // By the wheel, with Ctrl.
        const QPointF middle(at.rect().center());
        QWheelEvent wheel(middle, at.mapToGlobal(middle), {}, {0, 240}, Qt::NoButton, Qt::ControlModifier,
                          Qt::NoScrollPhase, false);
        QCoreApplication::sendEvent(&at, &wheel);
        QVERIFY(at.zoom() > 1.4);
        // The dot stays in view wherever the hand goes.
        for (const int to : {127, 0, 64}) {
            stage.send({0xB0, 1, static_cast<std::uint8_t>(to)}, "practice-keys");
            QTRY_COMPARE(stage.window->live().reading("glass", "swell").raw, to);
            QTRY_VERIFY(at.rect().contains(at.dotPoint().toPoint()));
        }
    }
    /// While F12 is held what was is played and shown; let go, what is.
    void theStateBeforeIsHeardAndSeenWhileAKeyIsHeld() {
        Stage stage(false);
        giveSteps(stage, {});
        put(stage, [](Ensemble& e) {
            e.instruments[0].chains[0].branches[0].low = 0.0;
            e.instruments[0].chains[0].branches[0].high = 127.0;
        });
        put(stage, [](Ensemble& e) { e.instruments[0].chains[0].branches[0].high = 50.0; });
        int sent = -1;
        connect(&stage.window->live(), &Live::happened, this, [&](const io::Happening& happening) {
            const auto bytes = happening.message.bytes();
            if (happening.out &&
                stage.window->live().readings().instrumentId(happening.instrument) == "glass" &&
                bytes[0] == 0xB0 && bytes[1] == 11)
                sent = bytes[2];
        });
        const auto play = [&](int value) {
            stage.send({0xB0, 1, static_cast<std::uint8_t>(value)}, "practice-keys");
        };
        int value = 100;
        const auto sends = [&](int to) {
            return QTest::qWaitFor([&] {
                play(value = value == 127 ? 126 : 127);
                return sent >= to - 1 && sent <= to;
            });
        };
        QVERIFY(sends(50));
        const QString now = stage.shown("sentence");
        QWidget* focus =
            QApplication::focusWidget() != nullptr ? QApplication::focusWidget() : &*stage.window;
        QTest::keyPress(focus, Qt::Key_F12);
        QVERIFY(stage.shown("sentence").startsWith(QStringLiteral("Before: ")));
        QVERIFY(sends(127));
        const bool modified = stage.window->document().isModified();
        QTest::keyRelease(focus, Qt::Key_F12);
        QCOMPARE(stage.shown("sentence"), now);
        QVERIFY(sends(50));
        QCOMPARE(stage.window->document().isModified(), modified);
    }
    void whatABranchKeepsForItselfIsOnItsRail() {
        Stage stage(false);
        giveSteps(stage, {});
        put(stage, [](Ensemble& e) {
            Branch& branch = e.instruments[0].chains[0].branches[0];
            branch.window = BranchWindow{0.4, 0.9, Outside::clamp, {}};
            branch.steps = {test::step("smooth", {2000, 2000})};
        });
        const RailContent& content = rails(stage)[1]->content();
        QVERIFY(content.window && content.window->first == 0.4 && content.window->second == 0.9);
        QCOMPARE(content.steps.size(), 1U);
        put(stage, [](Ensemble& e) { e.instruments[0].chains[0].branches[0].window.reset(); });
        // The tab trails where it is going.
        stage.send({0xB0, 1, 0}, "practice-keys");
        stage.send({0xB0, 1, 127}, "practice-keys");
        QTRY_VERIFY(rails(stage)[1]->content().goal > rails(stage)[1]->content().value + 0.2);
        // Where the grips were before the newest edit.
        put(stage, [](Ensemble& e) { e.instruments[0].chains[0].branches[0].low = 60.0; });
        QVERIFY(rails(stage)[1]->content().before.has_value());
    }
    void aGateAndALatchSayHowTheyStand() {
        Stage stage(false);
        giveSteps(stage, {test::step("gate", {0.5, 0.1}), test::step("latch")});
        const auto chip = [&](int place) {
            QList<QPushButton*> chips;
            for (QPushButton* each : stage.window->findChildren<QPushButton*>()) {
                if (each->isVisible() && each->property("role").toString() == QLatin1String("chip") &&
                    each->isCheckable())
                    chips << each;
            }
            return chips.value(place)->text();
        };
        const auto play = [&](int value) {
            stage.send({0xB0, 1, static_cast<std::uint8_t>(value)}, "practice-keys");
        };
        play(10);
        play(100);
        QTRY_VERIFY2(chip(0).endsWith(QStringLiteral(" · on")), qPrintable(chip(0)));
        QTRY_VERIFY(chip(1).endsWith(QStringLiteral(" · on")));
        play(10);
        QTRY_VERIFY(chip(0).endsWith(QStringLiteral(" · off")));
        QVERIFY(chip(1).endsWith(QStringLiteral(" · on")));
    }
    void aGeneratorIsSeenMoving() {
        Stage stage(false);
        giveSteps(stage, {});
        put(stage, [](Ensemble& e) {
            e.instruments[0].chains[0].source = makeSource(SourceKind::lfo);
            e.instruments[0].chains[0].source.values[1] = 3.0;
        });
        Rail* source = rails(stage)[0];
        QVERIFY(source->content().traces);
        const double first = source->content().value;
        QTRY_VERIFY(std::abs(source->content().value - first) > 0.2);
    }
    void fortyTargetsAreReachedByScrolling() {
        Stage stage(false);
        put(stage, [](Ensemble& e) {
            Instrument& glass = e.instruments[0];
            glass.chains[0].branches.clear();
            for (int i = 0; i < 40; ++i) {
                glass.parameters.push_back(test::ccParameter("p" + std::to_string(i), i + 20));
                glass.chains[0].branches.push_back(test::branch("p" + std::to_string(i), 0, 127));
            }
        });
        stage.window.select("glass", "swell");
        QCOMPARE(rails(stage).size(), 41U);
        for (const Rail* rail : rails(stage)) QVERIFY(rail->width() >= rail->minimumSizeHint().width());
        QWidget* view = stage.window->findChild<LeverView*>()->parentWidget();
        QVERIFY(stage.window->findChild<LeverView*>()->width() > view->width());
    }
};

QTEST_MAIN(LeverTest)
#include "lever.moc"
