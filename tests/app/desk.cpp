// The Desk page: fingers, pens, mouse and keys on its surfaces, who is in hand, and arranging.
#include "app/document/library_folder.h"
#include "app/pages/desk/desk_page.h"

#include <lo/lo.h>

#include <QClipboard>
#include <QSignalSpy>
#include <QTabletEvent>
#include <QTouchEvent>
#include <map>
#include <mutex>

#include "app/acts/findings_view.h"
#include "app/acts/tablet_dialog.h"
#include "app/ground/theme.h"
#include "app/pages/desk/hand_list.h"
#include "app/pages/desk/keys_surface.h"
#include "app/pages/desk/surfaces.h"
#include "app/widgets/practice_keys.h"
#include "core/files/files.h"
#include "core/model/edit_desk.h"
#include "core/model/visit.h"
#include "core/store/ensemble_json.h"
#include "support/build.h"
#include "support/stage.h"
#include "support/touch.h"
#include "support/witness.h"

using namespace mellow;
using namespace mellow::app;
using test::Stage;
using test::Window;
using test::Witness;

namespace {

/// As LO_TT_IMMEDIATE, which is no C++ (OSC 1.0: the time tag 1).
constexpr lo_timetag atOnce{0, 1};

/// The demo's desk, on one of its pages.
struct Played {
    Stage stage{false};
    Witness witness{stage.window};

    explicit Played(const std::string& page = "glass") {
        stage.window->selection().go(DeskPlace{page});
        QCoreApplication::processEvents();
    }
    DeskPageView& view() { return stage.window.pageOf<DeskPageView>(); }
    template<class OfKind = Surface>
    OfKind& surface(const std::string& element) {
        auto* found = dynamic_cast<OfKind*>(view().board().surface(element));
        if (found == nullptr) qFatal("no surface %s", element.c_str());
        return *found;
    }
    QString who() { return stage.shown("whoIsInHand"); }
    bool isInHand(const std::string& id) { return stage.window->live().readings().instrument(id).inHand; }
    /// Presses a number key, and waits until who is meant is in hand.
    void take(Qt::Key number) {
        stage.key(number);
        QCoreApplication::processEvents();
    }
    const DeskElement& element(const std::string& id) { return *findElement(stage.ensemble().desk, id); }
    Arranging& arrange() {
        stage.key(Qt::Key_F2);
        return view().arranging();
    }
    QPoint square(int column, int row) {
        return view().board().rectOf({column, row, 1, 1}).center().toPoint();
    }
};

QPoint at(const QRectF& area, double x, double y) {
    return QPointF(area.left() + area.width() * x, area.bottom() - area.height() * y).toPoint();
}

void pen(QWidget& widget, QEvent::Type type, const QPointF& where, double pressure) {
    QTabletEvent event(type, QPointingDevice::primaryPointingDevice(), where, widget.mapToGlobal(where),
                       pressure, 0, 0, 0, 0, 0, Qt::NoModifier, Qt::LeftButton, Qt::LeftButton);
    QCoreApplication::sendEvent(&widget, &event);
}

}  // namespace

class DeskTest : public QObject {
    Q_OBJECT

 private slots:
    /// One hand plays keys, the other the pad: what the instrument in hand gets is in its own units on the
    /// page.
    void aLineOfKeysAndPad() {
        Played desk;
        desk.take(Qt::Key_2);
        QTRY_VERIFY(desk.isInHand("glass") && !desk.isInHand("flute"));
        QTRY_COMPARE(desk.who(), QStringLiteral("in hand: Glass harmonium"));
        auto& pad = desk.surface<PadSurface>("weather-hand");
        desk.stage.send({0x90, 60, 100}, "practice-keys");
        QTest::mousePress(&pad, Qt::LeftButton, {}, at(pad.area(), 0, 0));
        QTest::mouseMove(&pad, at(pad.area(), 0.5, 1));
        desk.stage.send({0x90, 62, 100}, "practice-keys");
        desk.stage.send({0x80, 60, 64}, "practice-keys");
        // Dynamics is CC 20 from 0 to 127, vibrato depth CC 77.
        QTRY_VERIFY(desk.witness.sent("glass", 0xB0, 20, 127));
        QTRY_VERIFY(std::any_of(desk.witness.out.begin(), desk.witness.out.end(), [](const auto& each) {
            return each.message.data[0] == 0xB0 && each.message.data[1] == 77 &&
                   std::abs(each.message.data[2] - 64) <= 2;
        }));
        QVERIFY(desk.witness.sent("glass", 0x90, 60));
        QTRY_VERIFY(desk.witness.sent("glass", 0x90, 62));
        QTRY_VERIFY(desk.witness.sent("glass", 0x80, 60));
        QTRY_COMPARE(pad.readout(Axis::y).value, QStringLiteral("100 %"));
        QVERIFY(!desk.witness.sent("flute", 0xB1, 20));
        QTest::mouseRelease(&pad, Qt::LeftButton, {}, at(pad.area(), 0.5, 1));
        QCOMPARE(pad.position(Axis::touch), 0.0);
        QCOMPARE(pad.position(Axis::y), 1.0);
    }

    /// Two fingers move two sliders, each its own.
    void severalFingersAtOnce() {
        Played desk;
        auto& rasp = desk.surface<SliderSurface>("rasp");
        auto& air = desk.surface<SliderSurface>("air");
        QTest::touchEvent(&rasp, test::touchScreen())
            .press(0, at(rasp.track(), 0.5, 0.2), &rasp)
            .press(1, at(air.track(), 0.5, 0.9), &air);
        QTRY_VERIFY(std::abs(rasp.position(Axis::x) - 0.2) < 0.02);
        QVERIFY(std::abs(air.position(Axis::x) - 0.9) < 0.02);
        QTest::touchEvent(&rasp, test::touchScreen())
            .move(0, at(rasp.track(), 0.5, 1), &rasp)
            .move(1, at(air.track(), 0.5, 0), &air);
        QTRY_VERIFY(desk.witness.sent("glass", 0xB0, 21, 127));
        QTRY_VERIFY(desk.witness.sent("flute", 0xB1, 11, 0));
        QTest::touchEvent(&rasp, test::touchScreen())
            .release(0, at(rasp.track(), 0.5, 1), &rasp)
            .release(1, at(air.track(), 0.5, 0), &air);
        QTRY_COMPARE(rasp.readout(Axis::x).value, QStringLiteral("127"));
    }

    /// A legato line: one hand on keys of the desk, with two fingers, the other on the pad at the same time.
    /// The keyboard at the bottom is folded away meanwhile.
    void oneHandOfKeysAndOneOfPad() {
        Played desk;
        desk.stage.window.menu(QStringLiteral("Practice keys"));
        desk.stage.window->document().edit(QStringLiteral("Keys"), [](Ensemble& e) {
            DeskElement keys = newElement(e, ElementKind::keys, "Left hand");
            e.desk.pages[0].rows = 14;
            keys.place = {0, 11, 10, 3};
            keys.lowestKey = 36;
            e.desk.pages[0].elements.push_back(keys);
        });
        QCoreApplication::processEvents();
        auto& keys = desk.surface<KeysSurface>("left-hand").keyboard();
        auto& pad = desk.surface<PadSurface>("weather-hand");
        const auto middle = [&](int key) {
            const QRectF rect = keys.keyRect(key);
            return QPointF(rect.center().x(), rect.bottom() - 8).toPoint();
        };
        QVERIFY(desk.stage.window->findChild<PracticeKeys*>()->isHidden());
        QTest::touchEvent(&keys, test::touchScreen())
            .press(0, middle(48), &keys)
            .press(1, at(pad.area(), 0.5, 0.9), &pad);
        // The next note comes before the last goes.
        QTest::touchEvent(&keys, test::touchScreen()).stationary(0).stationary(1).press(2, middle(50), &keys);
        QTest::touchEvent(&keys, test::touchScreen())
            .release(0, middle(48), &keys)
            .stationary(1)
            .stationary(2);
        QTest::touchEvent(&keys, test::touchScreen())
            .release(1, at(pad.area(), 0.5, 0.9), &pad)
            .stationary(2);
        QTRY_VERIFY(desk.witness.sent("glass", 0x80, 48));
        QVERIFY(desk.witness.sent("glass", 0x90, 48) && desk.witness.sent("glass", 0x90, 50));
        QVERIFY(!desk.witness.sent("glass", 0x80, 50));
        QVERIFY(desk.stage.window->live().readings().deskPosition("/weather-hand/y").value_or(0) > 0.8);
        QVERIFY(keys.isDown(50) && !keys.isDown(48));
        // What is gone is not held: the page goes, and the note ends.
        desk.stage.window->selection().go(DeskPlace{"weather"});
        QTRY_VERIFY(desk.witness.sent("glass", 0x80, 50));
    }

    /// A pen's pressure is the touch, which ends with the pen.
    void aPenPresses() {
        Played desk;
        auto& pad = desk.surface<PadSurface>("weather-hand");
        pen(pad, QEvent::TabletPress, at(pad.area(), 0.25, 0.5), 0.3);
        QCOMPARE(pad.position(Axis::touch), 0.3);
        pen(pad, QEvent::TabletMove, at(pad.area(), 0.75, 0.5), 0.8);
        QCOMPARE(pad.position(Axis::touch), 0.8);
        QVERIFY(std::abs(pad.position(Axis::x) - 0.75) < 0.01);
        QTRY_COMPARE(desk.stage.window->live().readings().deskPosition("/weather-hand/touch").value_or(-1),
                     static_cast<double>(0.8F));
        pen(pad, QEvent::TabletRelease, at(pad.area(), 0.75, 0.5), 0);
        QCOMPARE(pad.position(Axis::touch), 0.0);
    }

    /// What springs goes back to its rest, and both arrive.
    void aPadSpringsBack() {
        Played desk("weather");
        auto& pad = desk.surface<PadSurface>("barometer");
        QCOMPARE(pad.position(Axis::x), 0.5);
        QTest::mousePress(&pad, Qt::LeftButton, {}, at(pad.area(), 1, 0.5));
        QTRY_VERIFY(desk.witness.sent("drone", 0xE4, 127, 127));
        QTest::mouseRelease(&pad, Qt::LeftButton, {}, at(pad.area(), 1, 0.5));
        QTRY_VERIFY(desk.witness.sent("drone", 0xE4, 0, 64));
        QCOMPARE(pad.position(Axis::x), 0.5);
    }

    /// A latching button holds a note until it is pressed again; leaving the hand ends it.
    void aButtonThatStays() {
        Played desk;
        auto& gale = desk.surface<ButtonSurface>("gale");
        QTest::mouseClick(&gale, Qt::LeftButton);
        QTRY_VERIFY(desk.witness.sent("hurdy", 0x93, 43, 80));
        QCOMPARE(gale.spokenWords(), QStringLiteral("on"));
        QTest::mouseClick(&gale, Qt::LeftButton);
        QTRY_VERIFY(desk.witness.sent("hurdy", 0x83, 43));
        desk.witness.out.clear();
        QTest::mouseClick(&gale, Qt::LeftButton);
        QTRY_VERIFY(desk.witness.sent("hurdy", 0x93, 43, 80));
        desk.take(Qt::Key_2);
        QTRY_VERIFY(desk.witness.sent("hurdy", 0x83, 43));
    }

    /// An element stands where something else brought what it leads to, and where a hand brings it next.
    void anotherControlMovesAnElement() {
        Played desk;
        auto& rasp = desk.surface<SliderSurface>("rasp");
        rasp.setSpokenValue(0.25);
        QTRY_VERIFY(desk.witness.sent("glass", 0xB0, 21, 32));
        desk.stage.send({0xB0, 21, 96}, "practice-keys");
        QTRY_VERIFY(desk.witness.sent("glass", 0xB0, 21, 96));
        QTRY_VERIFY(std::abs(rasp.position(Axis::x) - 96.0 / 127) < 0.01);
        QCOMPARE(rasp.readout(Axis::x).value, QStringLiteral("96"));
        desk.stage.window->live().place({{"glass", "rasp", 0, 1}});
        QTRY_VERIFY(desk.witness.sent("glass", 0xB0, 21, 127));
        QTRY_VERIFY(rasp.position(Axis::x) > 0.99);
        QCOMPARE(rasp.readout(Axis::x).value, QStringLiteral("127"));
        rasp.setSpokenValue(0.5);
        QTRY_VERIFY(desk.witness.sent("glass", 0xB0, 21, 64));
        QTRY_COMPARE(rasp.readout(Axis::x).value, QStringLiteral("64"));
        QCOMPARE(rasp.position(Axis::x), 0.5);
    }

    /// Who comes into hand brings an element to where its own target stands.
    void anElementGoesWithTheHand() {
        Played desk;
        auto& pad = desk.surface<PadSurface>("weather-hand");
        const auto stands = [&pad](double at, const QString& value) {
            return std::abs(pad.position(Axis::y) - at) < 0.01 && pad.readout(Axis::y).value == value;
        };
        desk.take(Qt::Key_2);
        QTRY_VERIFY(desk.isInHand("glass") && !desk.isInHand("flute"));
        desk.stage.window->live().hands().moveDesk("/weather-hand/y", 1);
        QTRY_VERIFY(stands(1, QStringLiteral("100 %")));
        desk.take(Qt::Key_3);
        QTRY_VERIFY(desk.isInHand("flute") && !desk.isInHand("glass"));
        desk.stage.window->live().hands().moveDesk("/weather-hand/y", 0.25);
        QTRY_VERIFY(stands(0.25, QStringLiteral("25 %")));
        desk.take(Qt::Key_2);
        QTRY_VERIFY(stands(1, QStringLiteral("100 %")));
        desk.take(Qt::Key_3);
        QTRY_VERIFY(stands(0.25, QStringLiteral("25 %")));
    }

    /// A key of its own presses a button, and lets it go.
    void aKeyOfItsOwn() {
        Played desk("weather");
        desk.view().board().setFocus();
        auto& lamp = desk.surface<ButtonSurface>("lamp-hand");
        QTest::keyPress(&desk.view().board(), Qt::Key_Z);
        QTRY_VERIFY(desk.witness.sent("drone", 0xB4, 71, 127));
        QCOMPARE(lamp.position(Axis::x), 1.0);
        QTest::keyRelease(&desk.view().board(), Qt::Key_Z);
        QTRY_VERIFY(desk.witness.sent("drone", 0xB4, 71, 0));
    }

    /// Without a mouse: focus and arrows, fine with Shift.
    void arrowsMoveASurface() {
        Played desk;
        auto& rasp = desk.surface<SliderSurface>("rasp");
        rasp.setFocus();
        QTest::keyClick(&rasp, Qt::Key_Up);
        QCOMPARE(rasp.position(Axis::x), 0.05);
        QTest::keyClick(&rasp, Qt::Key_Up, Qt::ShiftModifier);
        QCOMPARE(rasp.position(Axis::x), 0.05 + 1.0 / 127);
        QTest::keyClick(&rasp, Qt::Key_End);
        QTRY_VERIFY(desk.witness.sent("glass", 0xB0, 21, 127));
        rasp.setSpokenValue(0.5);
        QTRY_VERIFY(desk.witness.sent("glass", 0xB0, 21, 64));
        QTRY_VERIFY(rasp.spokenWords().contains(QStringLiteral("Bowing noise")));
    }

    /// In mid-phrase everyone in hand goes over, each by its own message, and who does not know the name
    /// stays.
    void anArticulationInMidPhrase() {
        Played desk;
        desk.take(Qt::Key_1);
        QTRY_VERIFY(desk.isInHand("glass") && desk.isInHand("whistles") && !desk.isInHand("hurdy"));
        auto& tiles = desk.surface<TileSurface>("ways");
        QTRY_COMPARE(tiles.answerOn(0), QStringLiteral("3 of 3"));
        QCOMPARE(tiles.answerOn(5), QStringLiteral("2 of 3"));
        desk.stage.send({0x90, 72, 100}, "practice-keys");
        QTRY_VERIFY(desk.witness.sent("glass", 0x90, 72));
        QTest::mouseClick(&tiles, Qt::LeftButton, {}, tiles.tile(3).center().toPoint());
        // Trembling: the glass is held on key 15, the flute answers to the name, the whistles stay.
        QTRY_VERIFY(desk.witness.sent("glass", 0x90, 15, 1));
        QTRY_VERIFY(desk.witness.sent("flute", 0xB1, 103, 30));
        QVERIFY(!desk.witness.sent("whistles", 0xB2, 102));
        QTRY_VERIFY(tiles.isChosen(3));
        QTRY_COMPARE(desk.stage.shown("whoStays"),
                     QStringLiteral("“Trembling” is unknown to Tin whistle pair, which stay as they are."));
        QTRY_VERIFY(desk.stage.shown("whoPlaysHow").contains(QStringLiteral("Bass flute: Flutter")));
        QVERIFY(!desk.witness.sent("glass", 0x80, 15));
        QTest::mouseClick(&tiles, Qt::LeftButton, {}, tiles.tile(0).center().toPoint());
        QTRY_VERIFY(desk.witness.sent("glass", 0x80, 15));
        QTRY_VERIFY(desk.witness.sent("whistles", 0xB2, 102, 1));
        // The note goes on, and ends once.
        desk.stage.send({0x80, 72, 64}, "practice-keys");
        QTRY_VERIFY(desk.witness.sent("glass", 0x80, 72));
    }

    /// Number keys go through the orchestra; held notes end where they began, and it is one thing to undo.
    void throughTheOrchestra() {
        Played desk;
        desk.take(Qt::Key_2);
        QTRY_VERIFY(!desk.isInHand("flute"));
        desk.stage.send({0xB0, 64, 127}, "practice-keys");
        desk.stage.send({0x90, 60, 100}, "practice-keys");
        QTRY_VERIFY(desk.witness.sent("glass", 0x90, 60));
        desk.witness.out.clear();
        desk.take(Qt::Key_3);
        QTRY_VERIFY(desk.isInHand("flute") && !desk.isInHand("glass"));
        QTRY_VERIFY(desk.witness.sent("glass", 0xB0, 64, 0));
        QTRY_VERIFY(desk.witness.sent("flute", 0xB1, 64, 127));
        desk.stage.send({0x80, 60, 64}, "practice-keys");
        QTRY_VERIFY(desk.witness.sent("glass", 0x80, 60));
        QVERIFY(!desk.witness.sent("flute", 0x81, 60));
        desk.take(Qt::Key_8);
        QTRY_COMPARE(desk.who(), QStringLiteral("in hand: Everyone"));
        desk.stage.window->document().undoStack().undo();
        QVERIFY(!desk.stage.ensemble().inHand);
        QVERIFY(!desk.stage.window->document().undoStack().canUndo());
    }

    /// A controller takes who is in hand too, and the list, the cards and the header say so.
    void aControllerChoosesTheHand() {
        Played desk;
        desk.stage.window->document().edit(QStringLiteral("choose"), [](Ensemble& e) {
            Chain chain;
            chain.id = "hand";
            chain.source = makeSource(SourceKind::cc);
            chain.source.number = 119;
            Branch branch;
            branch.target = std::string(handTarget);
            branch.low = std::string("high-winds");
            branch.high = std::string("everyone");
            chain.branches.push_back(branch);
            e.sharedChains.push_back(chain);
        });
        desk.stage.send({0xB0, 119, 0}, "practice-keys");
        QTRY_COMPARE(desk.who(), QStringLiteral("in hand: High winds"));
        desk.stage.send({0xB0, 119, 18}, "practice-keys");
        QTRY_COMPARE(desk.who(), QStringLiteral("in hand: Glass harmonium"));
        auto* list = desk.stage.window->findChild<HandList*>();
        const auto& model = list->model();
        QTRY_VERIFY(model.index(1).data(HandModel::inHand).toBool());
        QVERIFY(model.index(1).data(HandModel::isWhole).toBool());
        QVERIFY(!model.index(2).data(HandModel::inHand).toBool());
        // An edit leaves the hand as it was chosen.
        desk.stage.window->document().edit(QStringLiteral("title"), [](Ensemble& e) { e.title = "Other"; });
        QTRY_VERIFY(desk.stage.window->live().readings().instrument("glass").runs);
        QVERIFY(!desk.isInHand("flute"));
    }

    /// Rows are dragged: onto a section to join it, between others to change the order.
    void sectionsByDragAndDrop() {
        Played desk;
        auto& model = desk.stage.window->findChild<HandList*>()->model();
        const auto drop = [&](int row, const QModelIndex& onto, int between) {
            const std::unique_ptr<QMimeData> data(model.mimeData({model.index(row)}));
            return model.dropMimeData(data.get(), Qt::MoveAction, between, 0, onto);
        };
        QVERIFY(drop(4, model.index(0), -1));
        QCOMPARE(desk.stage.ensemble().sections[0].instruments,
                 (std::vector<std::string>{"glass", "flute", "whistles", "hurdy"}));
        drop(7, {}, 0);
        QCOMPARE(desk.stage.ensemble().handOrder.front(), std::string("everyone"));
        desk.take(Qt::Key_1);
        QTRY_COMPARE(desk.who(), QStringLiteral("in hand: Everyone"));
        desk.stage.goesBackAndForth();
    }

    /// An element is drawn, moved and sized with the mouse; nothing covers anything.
    void arrangingByMouse() {
        Played desk("weather");
        Arranging& layer = desk.arrange();
        QTRY_VERIFY(layer.isVisible());
        desk.stage.click("addDeskPage");
        QCOMPARE(desk.stage.ensemble().desk.pages.size(), std::size_t{4});
        desk.stage.click("draw0");
        test::drag(&layer, desk.square(1, 1), desk.square(4, 3));
        const std::string made = desk.stage.ensemble().desk.pages[3].elements.at(0).id;
        QCOMPARE(desk.element(made).kind, ElementKind::pad);
        QCOMPARE(desk.element(made).place, (GridPlace{1, 1, 4, 3}));
        test::drag(&layer, desk.square(2, 2), desk.square(4, 2));
        QCOMPARE(desk.element(made).place, (GridPlace{3, 1, 4, 3}));
        const QRectF place = desk.view().board().rectOf(desk.element(made).place);
        test::drag(&layer, place.bottomRight() - QPointF(5, 5), desk.square(8, 5));
        QCOMPARE(desk.element(made).place, (GridPlace{3, 1, 6, 5}));
        // What is drawn onto it is refused, in words.
        desk.stage.click("draw1");
        test::drag(&layer, desk.square(0, 0), desk.square(3, 3));
        QCOMPARE(desk.stage.ensemble().desk.pages[3].elements.size(), std::size_t{1});
        QCOMPARE(desk.stage.shown("whoStays"), QStringLiteral("There is no room there."));
        desk.stage.goesBackAndForth();
    }

    /// The same by keys, with what is selected dimmed around.
    void arrangingByKeys() {
        Played desk("weather");
        Arranging& layer = desk.arrange();
        desk.stage.click("addDeskPage");
        layer.draw(ElementKind::slider);
        QTest::keyClick(&layer, Qt::Key_Return);
        QTest::keyClick(&layer, Qt::Key_Return);
        const auto& elements = desk.stage.ensemble().desk.pages[3].elements;
        QCOMPARE(elements.size(), std::size_t{2});
        QCOMPARE(elements[1].place, (GridPlace{1, 0, 1, 5}));
        QTest::keyClick(&layer, Qt::Key_Right);
        QTest::keyClick(&layer, Qt::Key_Down);
        QTest::keyClick(&layer, Qt::Key_Right, Qt::ShiftModifier);
        QCOMPARE(desk.stage.ensemble().desk.pages[3].elements[1].place, (GridPlace{2, 1, 2, 5}));
        layer.select({elements[0].id, elements[1].id});
        desk.stage.window.menu(QStringLiteral("Align top"));
        QCOMPARE(desk.stage.ensemble().desk.pages[3].elements[1].place, (GridPlace{2, 0, 2, 5}));
        QTest::keyClick(&layer, Qt::Key_Tab);
        QCOMPARE(layer.selected().size(), std::size_t{1});
        layer.select({desk.stage.ensemble().desk.pages[3].elements[0].id});
        desk.stage.key(Qt::Key_Delete);
        QCOMPARE(desk.stage.ensemble().desk.pages[3].elements.size(), std::size_t{1});
        desk.stage.goesBackAndForth();
    }

    /// A copy has chains of its own.
    void aCopyPlays() {
        Played desk("weather");
        Arranging& layer = desk.arrange();
        desk.stage.window->document().edit(QStringLiteral("room"),
                                           [](Ensemble& e) { e.desk.pages[2].rows = 12; });
        layer.select({"thaw"});
        desk.stage.key(Qt::Key_D, Qt::ControlModifier);
        QCOMPARE(layer.selected().size(), std::size_t{1});
        const std::string copy = *layer.selected().begin();
        QVERIFY(copy != "thaw");
        desk.stage.key(Qt::Key_F2);
        desk.surface(copy).setSpokenValue(1);
        QTRY_VERIFY(desk.witness.sent("drone", 0xB4, 72, 127));
    }

    /// An organ's page: nine drawbars under nine sliders, in six acts.
    void anOrganPageInSixActs() {
        Stage stage;
        stage.window->document().edit(QStringLiteral("organ"), [](Ensemble& e) {
            Instrument organ;
            organ.id = organ.name = "Organ";
            organ.output.port = "practice-rack";
            for (int i = 1; i <= 9; ++i) {
                Parameter bar;
                bar.id = "bar-" + std::to_string(i);
                bar.name = "Drawbar " + std::to_string(i);
                bar.message.number = 20 + i;
                organ.parameters.push_back(bar);
            }
            e.instruments.push_back(organ);
        });
        Witness witness(stage.window);
        stage.acts = 0;
        stage.key(Qt::Key_2, Qt::ControlModifier);
        stage.click("addDeskPage");
        auto& view = stage.window.pageOf<DeskPageView>();
        QTRY_VERIFY(stage.window->live().readings().instrument("Organ").inHand);
        stage.acts += 2;  // Fill with…, sliders.
        stage.window->findChild<QAction*>(QStringLiteral("fillSliders"))->trigger();
        stage.key(Qt::Key_F2);
        QCOMPARE(stage.ensemble().desk.pages[0].elements.size(), std::size_t{9});
        QCOMPARE(stage.ensemble().instruments[0].chains.size(), std::size_t{9});
        auto* last = view.board().surface(stage.ensemble().desk.pages[0].elements[8].id);
        ++stage.acts;
        last->setSpokenValue(1);
        QTRY_VERIFY(witness.sent("Organ", 0xB0, 29, 127));
        QVERIFY2(stage.acts <= 6, qPrintable(QString::number(stage.acts)));
        stage.goesBackAndForth();
    }

    /// Faders of a section are named after their instruments and follow them.
    void fadersFollowTheirInstruments() {
        Played desk("weather");
        desk.take(Qt::Key_1);
        QTRY_VERIFY(!desk.isInHand("hurdy"));
        desk.arrange();
        desk.stage.click("addDeskPage");
        desk.view().fill(DeskPageView::Filling::faders);
        const auto names = [&] {
            std::vector<DeskElement> all = desk.stage.ensemble().desk.pages[3].elements;
            std::sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.place < b.place; });
            QStringList words;
            for (const DeskElement& each : all) words << QString::fromStdString(each.name);
            return words;
        };
        // The flute's expression has a slider on another page already.
        QCOMPARE(names(), (QStringList{"Glass harmonium", "Tin whistle pair"}));
        desk.stage.window->document().edit(QStringLiteral("rename"),
                                           [](Ensemble& e) { e.instruments[0].name = "Glass"; });
        QCOMPARE(names(), (QStringList{"Glass", "Tin whistle pair"}));
        desk.stage.window->document().edit(
            QStringLiteral("order"), [](Ensemble& e) { std::swap(e.instruments[0], e.instruments[2]); });
        QCOMPARE(names(), (QStringList{"Tin whistle pair", "Glass"}));
    }

    /// A click draws nothing and, on one of several, means that one; drawing is a drag.
    void aClickWhileArranging() {
        Played desk("weather");
        Arranging& layer = desk.arrange();
        QTRY_VERIFY(layer.isVisible());
        desk.stage.click("addDeskPage");
        desk.stage.click("draw1");
        QTest::mouseClick(&layer, Qt::LeftButton, {}, desk.square(1, 1));
        const auto elements = [&]() -> const auto& {
            return desk.stage.ensemble().desk.pages[3].elements;
        };
        QVERIFY(elements().empty());
        test::drag(&layer, desk.square(1, 1), desk.square(2, 3));
        test::drag(&layer, desk.square(4, 1), desk.square(5, 3));
        QCOMPARE(elements().size(), std::size_t{2});
        QTest::mouseClick(&layer, Qt::LeftButton, Qt::ControlModifier, desk.square(1, 1));
        QCOMPARE(layer.selected().size(), std::size_t{2});
        QTest::mouseClick(&layer, Qt::LeftButton, {}, desk.square(1, 1));
        QCOMPARE(layer.selected(), std::set<std::string>{elements()[0].id});
    }

    /// A key switch among the keys that are played is found, and one act cures it.
    void aKeySwitchThatCollides() {
        Played desk;
        desk.stage.window->document().edit(QStringLiteral("all keys"),
                                           [](Ensemble& e) { e.instruments[0].input.lowKey = 0; });
        const FindingRefs found = desk.stage.window->document().findings();
        const auto collides = std::find_if(found.begin(), found.end(), [](const Finding* each) {
            return each->problem.what.find("lie among the keys that it plays") != std::string::npos;
        });
        QVERIFY(collides != found.end());
        desk.stage.window->document().mend((*collides)->mends.back());
        QCOMPARE(desk.stage.ensemble().instruments[0].input.lowKey, 18);
        QCOMPARE(desk.stage.window->document().findings().size(), std::size_t{0});
    }

    /// Pages turn by keys and by a click, and undo leaves one where one is.
    void pagesTurn() {
        Played desk;
        desk.stage.key(Qt::Key_PageDown, Qt::ControlModifier);
        QVERIFY(desk.view().board().surface("string-1") != nullptr);
        desk.stage.key(Qt::Key_PageDown, Qt::ControlModifier);
        desk.stage.key(Qt::Key_PageDown, Qt::ControlModifier);
        QVERIFY(desk.view().board().surface("rasp") != nullptr);
        desk.stage.key(Qt::Key_PageUp, Qt::ControlModifier);
        QVERIFY(desk.view().board().surface("barometer") != nullptr);
        desk.stage.click("deskPage1");
        QVERIFY(desk.view().board().surface("string-9") != nullptr);
    }

    /// The whole screen is the desk's, and everything is as it was after it.
    void theWholeScreen() {
        Played desk;
        desk.stage.key(Qt::Key_F11);
        QTRY_VERIFY(!desk.stage.isShown("header"));
        QVERIFY(!desk.stage.window->findChild<HandList*>()->isVisible());
        desk.stage.click("wholeDesk");
        QTRY_VERIFY(desk.stage.isShown("header"));
        QVERIFY(desk.stage.window->findChild<HandList*>()->isVisible());
    }

    /// An element shows where another hand has brought it: a take, a tablet, all arrive alike.
    void anElementFollows() {
        Played desk;
        desk.stage.window->live().hands().moveDesk("/rasp", 0.75);
        QTRY_COMPARE(desk.surface("rasp").position(Axis::x), 0.75);
        QTRY_COMPARE(desk.surface("rasp").readout(Axis::x).value, QStringLiteral("95"));
    }

    /// Elements are a part like chains: kept in the library, or copied as text, they come into another
    /// ensemble as they are.
    void elementsInAnotherEnsemble() {
        std::filesystem::remove_all(libraryFolder());
        Played desk;
        Arranging& layer = desk.arrange();
        layer.select({"rasp", "weather-hand"});
        const DeskElement rasp = desk.element("rasp");
        desk.stage.key(Qt::Key_C, Qt::ControlModifier);
        QVERIFY(QGuiApplication::clipboard()->text().contains(QStringLiteral("\"rasp\"")));
        layer.select({"rasp"});
        desk.stage.key(Qt::Key_K, Qt::ControlModifier);
        desk.stage.press("acceptKeep");
        desk.stage.window->newEnsemble();
        desk.stage.key(Qt::Key_2, Qt::ControlModifier);
        desk.stage.window.editsOnce([&] { desk.stage.key(Qt::Key_V, Qt::ControlModifier); });
        const auto& pages = desk.stage.ensemble().desk.pages;
        QCOMPARE(pages.size(), std::size_t{1});
        QCOMPARE(pages[0].elements.size(), std::size_t{2});
        desk.stage.window.editsOnce([&] {
            desk.stage.key(Qt::Key_L, Qt::ControlModifier);
            desk.stage.take(QString::fromStdString(nameOf(rasp)));
        });
        const DeskElement& found = desk.stage.ensemble().desk.pages[0].elements.at(2);
        QCOMPARE(found.name, nameOf(rasp));
        QVERIFY(found.kind == rasp.kind && found.id != rasp.id && found.rest == rasp.rest);
    }

    /// What is selected while arranging is led to a target by typing.
    void leadingAnElement() {
        Played desk("weather");
        Arranging& layer = desk.arrange();
        desk.stage.click("addDeskPage");
        layer.draw(ElementKind::dial);
        QTest::keyClick(&layer, Qt::Key_Return);
        desk.stage.click("leadElement0");
        desk.stage.take(QStringLiteral("frame tone"));
        const std::string made = desk.stage.ensemble().desk.pages[3].elements[0].id;
        desk.stage.key(Qt::Key_F2);
        desk.surface(made).setSpokenValue(1);
        QTRY_VERIFY(desk.witness.sent("drums", 0xB9, 74, 127));
        desk.stage.goesBackAndForth();
    }

    /// Several targets are ticked, and the element is called after the first; L has hardware move what it
    /// moves, and the element goes along.
    void anElementLedToSeveralAndMovedByHardware() {
        Played desk("weather");
        Arranging& layer = desk.arrange();
        desk.stage.click("addDeskPage");
        layer.draw(ElementKind::dial);
        QTest::keyClick(&layer, Qt::Key_Return);
        const std::string made = desk.stage.ensemble().desk.pages[3].elements[0].id;
        // Without a target there is nothing to move.
        desk.stage.key(Qt::Key_L);
        QVERIFY(!desk.stage.window->learn().isOn());
        desk.stage.key(Qt::Key_T, Qt::ControlModifier);
        auto* words = desk.stage.finderWords();
        QTest::keyClicks(words, QStringLiteral("glass harmonium"));
        QCOMPARE(words->text(), QStringLiteral("glass harmonium"));
        QTest::keyClick(words, Qt::Key_Down);
        QTest::keyClick(words, Qt::Key_Space);
        QTest::keyClick(words, Qt::Key_Down);
        QTest::keyClick(words, Qt::Key_Space);
        desk.stage.window.editsOnce([&] { QTest::keyClick(words, Qt::Key_Return); });
        Stage::settle();
        const desk::ElementTargets targets = desk::elementTargets(desk.stage.ensemble());
        QCOMPARE(targets.at(made).size(), std::size_t{2});
        const auto& parameters = desk.stage.window.instrument("glass").parameters;
        QCOMPARE(desk.element(made).name, nameOf(parameters[1]));

        const std::size_t chains = desk.stage.window.instrument("glass").chains.size();
        desk.stage.key(Qt::Key_L);
        QVERIFY(desk.stage.window->learn().isOn());
        desk.stage.window.editsOnce([&] {
            desk.stage.move(77, 127);
            QTRY_VERIFY(desk.stage.window->learn().isDone());
        });
        desk.stage.key(Qt::Key_L);
        QVERIFY(!desk.stage.window->learn().isOn());
        QVERIFY(std::holds_alternative<DeskPlace>(desk.stage.window->selection().address()));
        QCOMPARE(desk.stage.window.instrument("glass").chains.size(), chains + 2);
        desk.stage.key(Qt::Key_F2);
        desk.stage.send({0xB0, 77, 64});
        QTRY_VERIFY(std::abs(desk.surface(made).position(Axis::x) - 64.0 / 127) < 0.01);
        desk.surface(made).setSpokenValue(1);
        QTRY_VERIFY(desk.surface(made).position(Axis::x) == 1);
        desk.stage.goesBackAndForth();
    }

    /// A pad learns across first, then up.
    void aPadLearnsAxisByAxis() {
        Played desk;
        Arranging& layer = desk.arrange();
        layer.select({"weather-hand"});
        const auto moved = [&desk](int number) {
            int count = 0;
            forEachChain(desk.stage.ensemble(), [&](const Chain& chain, const Instrument*) {
                count += chain.source.kind == SourceKind::cc && chain.source.number == number ? 1 : 0;
            });
            return count;
        };
        const auto led = [&desk](Axis axis) {
            const desk::ElementTargets all = desk::elementTargets(desk.stage.ensemble());
            const auto& targets = all.at("weather-hand");
            return static_cast<int>(std::count_if(targets.begin(), targets.end(),
                                                  [axis](const auto& each) { return each.axis == axis; }));
        };
        for (const auto& [axis, number] : {std::pair{Axis::x, 102}, std::pair{Axis::y, 103}}) {
            desk.stage.key(Qt::Key_L);
            QVERIFY(desk.stage.window->learn().isOn());
            QCOMPARE(desk.stage.window->learn().axis(), axis);
            desk.stage.move(number, 127);
            QTRY_VERIFY(desk.stage.window->learn().isDone());
            QVERIFY(moved(number) > 0);
            QCOMPARE(moved(number), led(axis));
        }
    }

    /// What is copied comes onto another page, with chains of its own.
    void elementsAreCopiedToAnotherPage() {
        Played desk("weather");
        Arranging& layer = desk.arrange();
        layer.select({"thaw"});
        desk.stage.key(Qt::Key_C, Qt::ControlModifier);
        desk.stage.click("addDeskPage");
        desk.stage.window.editsOnce([&] { desk.stage.key(Qt::Key_V, Qt::ControlModifier); });
        const auto& page = desk.stage.ensemble().desk.pages[3];
        QCOMPARE(page.elements.size(), std::size_t{1});
        desk.stage.key(Qt::Key_F2);
        desk.surface(page.elements[0].id).setSpokenValue(1);
        QTRY_VERIFY(desk.witness.sent("drone", 0xB4, 72, 127));
    }

    /// A document that comes from somewhere finds nothing open that was opened for another.
    void aDocumentOpensNothingToTheNetwork() {
        QTemporaryDir folder;
        const std::string port = "osc.udp://:47811";
        Ensemble ensemble = test::ensemble({test::instrument()});
        Source tilt = makeSource(SourceKind::osc);
        tilt.values[0] = std::string("/tile/tilt");
        tilt.controller = "tile";
        ensemble.instruments[0].chains = {test::chain("c", tilt, {}, {test::branch("expression", 0, 127)})};
        ensemble.controllers.push_back({"tile", "", port, {}, {}, {}, {}});
        const auto write = [&](const char* name) {
            const QString path = folder.filePath(QLatin1String(name));
            if (!files::writeFile(path.toStdString(), std::string_view(store::printEnsemble(ensemble))))
                qFatal("the folder cannot be written to");
            return path;
        };
        const QString mine = write("mine.lever");
        const QString theirs = write("theirs.lever");
        test::Window window;
        const auto heardAt = [&window, &port] { return window->live().ports().network(port); };
        QVERIFY(window->openFile(mine));
        QCOMPARE(heardAt(), QStringLiteral("127.0.0.1"));
        window->live().ports().setNetwork(port, QStringLiteral("0.0.0.0"));
        QVERIFY(window->live().ports().listeningText(port).contains(QStringLiteral("every network")));
        QVERIFY(window->openFile(theirs));
        QCOMPARE(heardAt(), QStringLiteral("127.0.0.1"));
        QVERIFY(window->live().ports().listeningText(port).contains(QStringLiteral("this machine only")));
        QVERIFY(window->noticeText().contains(QStringLiteral("Gear")));
        // A person's own is as they left it, and says nothing; so is the other, once they said so.
        QVERIFY(window->openFile(mine));
        QCOMPARE(heardAt(), QStringLiteral("0.0.0.0"));
        QVERIFY(window->openFile(theirs));
        const QSignalSpy said(&window->live(), &Live::troubled);
        window->live().ports().setNetwork(port, QStringLiteral("0.0.0.0"));
        QVERIFY(window->openFile(mine));
        QVERIFY(window->openFile(theirs));
        QCOMPARE(heardAt(), QStringLiteral("0.0.0.0"));
        QCOMPARE(said.count(), 0);
        // It was said of this port, and of no other that is open here.
        const std::string other = "osc.udp://:47812";
        ensemble.controllers.push_back({"second", "", other, {}, {}, {}, {}});
        const QString both = write("theirs.lever");
        QVERIFY(window->openFile(mine));
        window->live().ports().setNetwork(other, QStringLiteral("0.0.0.0"));
        QVERIFY(window->openFile(both));
        QCOMPARE(heardAt(), QStringLiteral("0.0.0.0"));
        QCOMPARE(window->live().ports().network(other), QStringLiteral("127.0.0.1"));
        window->live().ports().setNetwork(other, QStringLiteral("127.0.0.1"));
        window->live().ports().setNetwork(port, QStringLiteral("127.0.0.1"));
    }

    /// A tablet moves an element over the network, and is told where everything stands.
    void aTabletMovesTheDesk() {
        Played desk;
        desk.stage.window.menu(QStringLiteral("Tablets…"));
        auto* sheet = desk.stage.window->findChild<TabletDialog*>();
        QVERIFY(sheet != nullptr);
        auto* table = sheet->findChild<QTableWidget*>(QStringLiteral("deskAddresses"));
        QCOMPARE(table->item(0, 0)->text(), QStringLiteral("/desk/weather-hand/x"));
        QVERIFY(table->item(0, 2)->text().contains(QStringLiteral("Bass flute Vibrato depth")));
        auto* open = sheet->findChild<QCheckBox*>(QStringLiteral("openDesk"));
        open->setChecked(true);
        QVERIFY(sheet->findChild<QLabel*>(QStringLiteral("tabletWhere"))
                    ->text()
                    .contains(QStringLiteral("7707")));
        // The tablet: a socket of its own that sends, and hears what comes back.
        struct Heard {
            std::mutex lock;
            std::map<std::string, std::string> last;
        } heard;
        const auto listen = [](const char* path, const char* types, lo_arg** arguments, int, lo_message,
                               void* all) {
            auto& into = *static_cast<Heard*>(all);
            const std::lock_guard guard(into.lock);
            into.last[path] =
                types[0] == 's' ? std::string(&arguments[0]->s) : std::to_string(arguments[0]->f);
            return 0;
        };
        lo_server_thread tablet = lo_server_thread_new(nullptr, nullptr);
        lo_server_thread_add_method(tablet, nullptr, nullptr, listen, &heard);
        lo_server_thread_start(tablet);
        lo_address to = lo_address_new("127.0.0.1", "7707");
        const auto last = [&](const char* path) {
            const std::lock_guard guard(heard.lock);
            return heard.last.contains(path) ? heard.last[path] : std::string();
        };
        QTRY_VERIFY((lo_send_from(to, lo_server_thread_get_server(tablet), atOnce, "/desk/rasp", "f", 0.75),
                     desk.surface("rasp").position(Axis::x) == 0.75));
        QTRY_VERIFY(desk.witness.sent("glass", 0xB0, 21, 95));
        // Nobody is told anything before they have shown that they hear; until then they get an address.
        QTRY_VERIFY(!last("/desk/hi").empty());
        QVERIFY(last("/desk/rasp/name").empty());
        QVERIFY(sheet->findChild<QLabel*>(QStringLiteral("tabletsThere"))
                    ->text()
                    .contains(QStringLiteral("Nobody")));
        lo_send_from(to, lo_server_thread_get_server(tablet), atOnce, last("/desk/hi").c_str(), "");
        QTRY_COMPARE(last("/desk/rasp/name"), std::string("Rasp"));
        QCOMPARE(last("/desk/rasp/tone"), theme().honey.name().toStdString());
        desk.surface("air").setSpokenValue(0.5);
        QTRY_COMPARE(last("/desk/air"), std::to_string(0.5F));
        // Its own finger is not fought.
        QVERIFY(last("/desk/rasp") != std::to_string(0.75F));
        // What is moved under it meanwhile it is told when it has left.
        lo_send_from(to, lo_server_thread_get_server(tablet), atOnce, "/desk/rasp", "f", 0.25);
        QTRY_VERIFY(desk.witness.sent("glass", 0xB0, 21, 32));
        desk.surface("rasp").setSpokenValue(1);
        QTRY_COMPARE(last("/desk/rasp"), std::to_string(1.0F));
        // What it leads to is told in units.
        QTRY_COMPARE(last("/desk/rasp/reads"), desk.surface("rasp").readout(Axis::x).value.toStdString());
        // One that was started again says hello, and is told everything anew.
        {
            const std::lock_guard guard(heard.lock);
            heard.last.clear();
        }
        lo_send_from(to, lo_server_thread_get_server(tablet), atOnce, "/desk", "");
        QTRY_COMPARE(last("/desk/rasp"), std::to_string(1.0F));
        QTRY_VERIFY2(last("/desk/air") == std::to_string(0.5F), last("/desk/air").c_str());
        QCOMPARE(last("/desk/rasp/name"), std::string("Rasp"));
        QVERIFY(!last("/desk/rasp/reads").empty());
        // Where that is read in other units from now on, it is told so.
        desk.stage.window->document().edit(QStringLiteral("Units"), [](Ensemble& e) {
            Parameter* bowing = findById(findById(e.instruments, "glass")->parameters, "bowing");
            bowing->display = {0.0, 1.0, "parts", Law::linear, {}, {}};
        });
        QTRY_VERIFY2(last("/desk/rasp/reads").ends_with(" parts"), last("/desk/rasp/reads").c_str());
        open->setChecked(false);
        lo_address_free(to);
        lo_server_thread_free(tablet);
    }
};

QTEST_MAIN(DeskTest)
#include "desk.moc"
