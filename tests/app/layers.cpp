// Layers in the Gear page, by mouse and by keys: dragged, spread and faded; and keyboards with a channel for
// each finger: their zones said by hand, their fingers learned, their instruments told.
#include <QComboBox>
#include <QMenu>
#include <QSignalSpy>

#include "app/acts/learn.h"
#include "app/pages/gear/gear_page.h"
#include "app/widgets/number_field.h"
#include "support/build.h"
#include "support/stage.h"

using namespace mellow;
using namespace mellow::app;
using layering::Area;
using layering::areaOf;
using test::Stage;

namespace {

/// Two on the keys up to and from middle C, with the layers before them.
struct Layers : Stage {
    Layers() {
        Ensemble e = test::ensemble({test::instrument("low", 1), test::instrument("high", 2)});
        layering::place(e, "low", {24, 59, 1, 127});
        layering::place(e, "high", {60, 95, 1, 127});
        window->document().replace(e, {});
        settle();
        key(Qt::Key_4, Qt::ControlModifier);
        click("showLayers");
    }
    LayerBoard& board() { return window.pageOf<GearPage>().layers().board(); }
    Area area(std::size_t place) { return areaOf(ensemble().instruments[place]); }
    QRectF rect(std::size_t place) { return board().rectOf(area(place)); }
    QPointF middleOf(std::size_t place) { return rect(place).center(); }
    void fade(const QString& words) {
        auto* button = window.find<QPushButton>("crossfade");
        for (QAction* each : button->menu()->actions()) {
            if (each->text() == words) return each->trigger();
        }
        qFatal("no such crossfade");
    }
};

}  // namespace

class LayersTest : public QObject {
    Q_OBJECT

 private slots:
    /// An edge follows the mouse by whole keys, as one undo step.
    void anEdgeIsDragged() {
        Layers stage;
        const double key = stage.rect(0).width() / 36;
        const QPointF edge(stage.rect(0).right() - 1, stage.middleOf(0).y());
        stage.window.editsOnce([&] { test::drag(&stage.board(), edge, edge + QPointF(12 * key, 0)); });
        QCOMPARE(stage.area(0), (Area{24, 71, 1, 127}));
        QCOMPARE(stage.area(1), (Area{60, 95, 1, 127}));
        // The upper edge is the hardest velocity; and as a whole it goes no further than the keyboard.
        const QPointF top(stage.middleOf(1).x(), stage.rect(1).top() + 1);
        const double velocity = stage.rect(1).height() / 127;
        stage.window.editsOnce([&] { test::drag(&stage.board(), top, top + QPointF(0, 27 * velocity)); });
        QCOMPARE(stage.area(1), (Area{60, 95, 1, 100}));
        const QPointF inside = stage.middleOf(1);
        stage.window.editsOnce([&] { test::drag(&stage.board(), inside, inside + QPointF(500, 0)); });
        QCOMPARE(stage.area(1), (Area{92, 127, 1, 100}));
        QCOMPARE(stage.board().selected(), std::string("high"));
    }

    /// The same without a mouse, and said in words.
    void keysDoTheSame() {
        Layers stage;
        stage.board().setFocus();
        QCOMPARE(stage.board().selected(), std::string("low"));
        const auto press = [&stage](Qt::Key key, Qt::KeyboardModifiers with = Qt::NoModifier) {
            QTest::keyClick(&stage.board(), key, with);
        };
        press(Qt::Key_Right, Qt::ShiftModifier);
        press(Qt::Key_PageDown, Qt::ControlModifier);
        press(Qt::Key_Down, Qt::ShiftModifier);
        QCOMPARE(stage.area(0), (Area{12, 60, 1, 126}));
        press(Qt::Key_Tab);
        QCOMPARE(stage.board().selected(), std::string("high"));
        press(Qt::Key_Left);
        press(Qt::Key_Up, Qt::ControlModifier);
        QCOMPARE(stage.area(1), (Area{59, 94, 2, 127}));
        QCOMPARE(stage.shown("layerWords"), QStringLiteral("high: keys B3–A♯6, velocities 2–127"));
        // From the last layer Tab goes on to what is next.
        press(Qt::Key_Tab);
        QVERIFY(!stage.board().hasFocus());
    }

    void sharedOutAndFaded() {
        Layers stage;
        stage.window.editsOnce([&] { stage.click("softToLoud"); });
        QCOMPARE(stage.area(0).highVelocity, 63);
        QCOMPARE(stage.area(1).lowVelocity, 64);
        QCOMPARE(stage.area(1).lowKey, 60);
        // Their keys do not meet, so there is nothing to fade by velocity.
        stage.window->document().undoStack().undo();
        QString told;
        stage.fade(QStringLiteral("By velocity: the velocity of the notes"));
        QCOMPARE(stage.ensemble().instruments[0].chains.size(), std::size_t{0});
        stage.window.editsOnce([&] { stage.fade(QStringLiteral("By key: the velocity of the notes")); });
        QCOMPARE(stage.area(0).highKey, 65);
        QCOMPARE(stage.area(1).lowKey, 54);
        QCOMPARE(stage.ensemble().instruments[0].chains.back().name, std::string("Fade to high"));
        // Played, both sound, each softer than struck.
        QSignalSpy heard(&stage.window->live(), &Live::happened);
        QVERIFY(QTest::qWaitFor([&] {
            stage.send({0x90, 60, 100});
            stage.send({0x80, 60, 64});
            QCoreApplication::processEvents();
            int softer = 0;
            for (const QList<QVariant>& each : heard) {
                const auto happening = each[0].value<io::Happening>();
                const midi::Bytes bytes = happening.message.bytes();
                softer += happening.out && midi::isNoteOn(bytes) && bytes[2] < 100 ? 1 : 0;
            }
            return softer >= 2;
        }));
        // A double click on the curves opens the chain.
        const QRectF both = stage.rect(0) & stage.rect(1);
        QTest::mouseDClick(&stage.board(), Qt::LeftButton, {}, both.center().toPoint());
        QTRY_VERIFY(stage.window.page().isVisible());
        QCOMPARE(stage.window->selection().now().chain, std::string("fade-to-high"));
        stage.key(Qt::Key_4, Qt::ControlModifier);
        stage.window.editsOnce([&] { stage.fade(QStringLiteral("Take the crossfade away")); });
        QVERIFY(layering::fadesOf(stage.ensemble()).empty());
    }

    /// A layer that is dragged away and back, in one go or in two, fades as before.
    void aFadeOutlivesADrag() {
        Layers stage;
        stage.fade(QStringLiteral("By key: the level"));
        const Ensemble faded = stage.ensemble();
        const double far = 30 * stage.rect(1).width() / 42;
        const QPoint from = stage.middleOf(1).toPoint();
        const QPoint away = from + QPoint(static_cast<int>(far), 0);
        QTest::mousePress(&stage.board(), Qt::LeftButton, {}, from);
        QTest::mouseMove(&stage.board(), away);
        QVERIFY(stage.area(1).lowKey > stage.area(0).highKey);
        QTest::mouseMove(&stage.board(), from);
        QTest::mouseRelease(&stage.board(), Qt::LeftButton, {}, from);
        QVERIFY(stage.ensemble() == faded);
        test::drag(&stage.board(), from, away);
        QVERIFY(stage.ensemble() != faded);
        test::drag(&stage.board(), away, from);
        QVERIFY(stage.ensemble() == faded);
        // Apart, too, it can be taken away.
        test::drag(&stage.board(), from, away);
        stage.fade(QStringLiteral("Take the crossfade away"));
        QVERIFY(layering::fadesOf(stage.ensemble()).empty());
        QVERIFY(stage.ensemble().instruments[0].chains.empty());
    }

    /// A hand strikes: the key is marked where it was struck.
    void whatIsStruckIsSeen() {
        Layers stage;
        const auto honey = [&stage] {
            const QImage image = stage.board().grab().toImage();
            int count = 0;
            for (int x = 0; x < image.width(); x += 2) {
                for (int y = 0; y < image.height() * 2 / 3; y += 2)
                    count += image.pixelColor(x, y) == theme().honey ? 1 : 0;
            }
            return count;
        };
        QCOMPARE(honey(), 0);
        stage.send({0x90, 40, 100});
        QTRY_VERIFY(honey() > 0);
        stage.send({0x80, 40, 64});
        QTRY_COMPARE(honey(), 0);
    }

    /// Zones by hand: written as a person chooses, and what the keyboard told is shown.
    void zonesAreSaidByHand() {
        Layers stage;
        stage.window->document().edit(QStringLiteral("A controller"), [](Ensemble& e) {
            e.controllers = {{"stage", "Stage keys", "hands", {}, {}, {}, {}}};
        });
        stage.window->selection().go(GearPlace{true, "hands"});
        stage.settle();
        for (const auto& [number, value] : {std::pair{101, 0}, {100, 6}, {6, 9}})
            stage.send({0xB0, static_cast<std::uint8_t>(number), static_cast<std::uint8_t>(value)});
        const auto lowerSays = [&stage] {
            const auto all = stage.window->findChildren<QComboBox*>(QStringLiteral("lowerZone"));
            return !all.isEmpty() && all.back()->isVisible() ? all.back()->currentText() : QString();
        };
        QTRY_COMPARE(lowerSays(), QStringLiteral("As it says: 9"));
        QCOMPARE(stage.window.find<QComboBox>("upperZone")->currentText(), QStringLiteral("As it says"));
        stage.window.editsOnce([&] {
            auto* lower = stage.window.find<QComboBox>("lowerZone");
            lower->setCurrentIndex(16);
            emit lower->activated(16);
        });
        QCOMPARE(stage.ensemble().controllers[0].zones.lower, 15);
        QTRY_VERIFY(lowerSays() == QStringLiteral("15 channels"));
        test::type(stage.window.find<NumberField>("noteBend"), QStringLiteral("24"));
        QCOMPARE(stage.ensemble().controllers[0].zones.noteBend, 24.0);
    }

    /// A finger that bends its note, on whatever channel, is learned as the newest note's.
    void aFingerIsLearned() {
        Layers stage;
        stage.window->document().edit(QStringLiteral("A controller"), [](Ensemble& e) {
            e.controllers = {{"stage", "Stage keys", "hands", {}, {}, {}, {}}};
            e.controllers[0].zones.lower = 14;
        });
        stage.key(Qt::Key_1, Qt::ControlModifier);
        stage.window.select("low", {}, app::Part::instrument);
        stage.key(Qt::Key_L);
        for (int value = 0; value < 128; value += 4) stage.send({0xE4, 0, static_cast<std::uint8_t>(value)});
        QTRY_VERIFY(stage.learn().isDone());
        const Source& source = stage.ensemble().instruments[0].chains.at(0).source;
        QCOMPARE(source.kind, SourceKind::zoneNote);
        QCOMPARE(zoneNoteOf(source).takes, Finger::bend);
        QCOMPARE(zoneNoteOf(source).of, WhichNote::newest);
        QCOMPARE(source.controller, std::string("stage"));
        QVERIFY(!source.channel);
        // Learned anew for another of its movements, it stays the note that a person has chosen.
        stage.window->document().edit(QStringLiteral("Highest"), [](Ensemble& e) {
            e.instruments[0].chains[0].source.values[1] = static_cast<int>(WhichNote::highest);
        });
        stage.key(Qt::Key_Escape);
        stage.key(Qt::Key_L);
        for (int value = 0; value < 128; value += 4) stage.send({0xD6, static_cast<std::uint8_t>(value)});
        QTRY_COMPARE(zoneNoteOf(stage.ensemble().instruments[0].chains.at(0).source).takes, Finger::pressure);
        QCOMPARE(zoneNoteOf(stage.ensemble().instruments[0].chains.at(0).source).of, WhichNote::highest);
    }
};

QTEST_MAIN(LayersTest)
#include "layers.moc"
