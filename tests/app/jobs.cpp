// Whole jobs of a composer in the window, from an empty ensemble or an instrument that is there, with every
// act counted: a key, a click, a drag, what is typed into a field, a control that is moved. A job that needs
// more acts than it may is a fault, as is one that does something else on its way.
#include <QComboBox>
#include <QListView>
#include <QSpinBox>
#include <QTableView>

#include "app/acts/draw_dialog.h"
#include "app/acts/reuse/keep_dialog.h"
#include "app/acts/reuse/reuse.h"
#include "app/acts/reuse/run_dialog.h"
#include "app/document/library_folder.h"
#include "app/pages/chains/chain_list.h"
#include "app/pages/desk/desk_page.h"
#include "app/pages/desk/surface.h"
#include "app/pages/gear/profile_panel.h"
#include "core/checks/check.h"
#include "core/model/edit.h"
#include "support/build.h"
#include "support/stage.h"
#include "support/witness.h"

using namespace mellow;
using namespace mellow::app;

namespace {

struct Stage : test::Stage {
    using test::Stage::Stage;

    /// The ensemble is one instrument, which is selected.
    void given(const Instrument& one) {
        window->document().edit(QStringLiteral("given"), [&one](Ensemble& e) { e.instruments = {one}; });
        window.select(one.id, {}, app::Part::instrument);
    }

    /// Moves a control while something learns, until that has learned.
    void learn(int number) {
        move(number, 127);
        if (!QTest::qWaitFor([this] { return window->learn().isDone(); })) qFatal("nothing was learned");
    }
    /// Moves a control no faster than the window sees it.
    void moveInTime(int number) {
        ++acts;
        QSignalSpy seen(&window->live(), &app::Live::happened);
        for (int value = 0; value <= 125; value += 5) {
            const auto before = seen.count();
            send({0xB0, static_cast<std::uint8_t>(number), static_cast<std::uint8_t>(value)});
            if (!QTest::qWaitFor([&] { return seen.count() > before; })) qFatal("nothing was heard");
        }
    }
    /// What is typed into a field, with Enter.
    void type(QWidget* field, const QString& text) {
        ++acts;
        test::type(field, text);
        settle();
    }
    void giveToAll() {
        key(Qt::Key_G, Qt::ControlModifier);
        press("giveAll");
        press("acceptGive");
        if (auto* matches = window->findChild<QPushButton*>(QStringLiteral("acceptMatches")))
            if (matches->isVisible()) press("acceptMatches");
    }
    /// A step of the selected branch, its numbers typed behind its name.
    void typeBranchStep(const QString& typed) {
        click("addBranchStep");
        ++acts;
        auto* words = window->findChild<QLineEdit*>(QStringLiteral("stepWords"));
        QTest::keyClicks(words, typed);
        QTest::keyClick(words, Qt::Key_Return);
        settle();
    }
    void pickRail(std::size_t branch) {
        ++acts;
        auto* rail = window.page().lever().targetRails()[branch];
        QTest::mouseClick(rail, Qt::LeftButton, {}, QPoint(rail->width() / 2, 12));
        settle();
    }
    const Instrument& first() { return ensemble().instruments[0]; }
    void took(int most) { QVERIFY2(acts <= most, qPrintable(QStringLiteral("%1 acts").arg(acts))); }
    int troubles() {
        const auto findings = check(ensemble());
        return static_cast<int>(std::count_if(findings.begin(), findings.end(), [](const Finding& each) {
            return each.severity == Severity::trouble;
        }));
    }
};

/// An instrument with as many parameters, on control changes from 20 on.
Instrument manyParameters(const std::string& id, int count) {
    Instrument one = test::instrument(id);
    one.parameters.clear();
    for (int i = 0; i < count; ++i) {
        Parameter parameter = test::ccParameter("p-" + std::to_string(i + 1), 20 + i);
        parameter.name = "Frost " + std::to_string(i + 1);
        one.parameters.push_back(parameter);
    }
    return one;
}

}  // namespace

class JobsTest : public QObject {
    Q_OBJECT

 private slots:
    void initTestCase() { QStandardPaths::setTestModeEnabled(true); }
    void init() { std::filesystem::remove_all(libraryFolder()); }

    /// Two instruments; the wheel leads to expression on one, and is switched off and on while one plays.
    void oneOfTwoInstruments() {
        Stage stage;
        test::Witness witness(stage.window);
        stage.key(Qt::Key_N, Qt::ControlModifier | Qt::ShiftModifier);
        stage.key(Qt::Key_N, Qt::ControlModifier | Qt::ShiftModifier);
        stage.key(Qt::Key_L);
        stage.learn(1);
        stage.key(Qt::Key_Escape);
        const std::string id = stage.ensemble().instruments[1].id;
        QCOMPARE(stage.ensemble().instruments[1].chains.size(), 1U);
        QVERIFY(stage.first().chains.empty());
        ++stage.acts;
        stage.send({0x90, 60, 100});
        QTRY_VERIFY(witness.sent(id, 0x91, 60, 100));
        stage.move(1, 100);
        QTRY_VERIFY(witness.sent(id, 0xB1, 11, 100));
        stage.key(Qt::Key_M, Qt::ControlModifier);
        QVERIFY(!stage.ensemble().instruments[1].chains[0].on);
        QVERIFY(!witness.sent(id, 0x81, 60));
        stage.key(Qt::Key_M, Qt::ControlModifier);
        stage.move(1, 50);
        QTRY_VERIFY(witness.sent(id, 0xB1, 11, 50));
        stage.took(12);
        QCOMPARE(stage.troubles(), 0);
    }

    /// Two knobs reach twenty-four parameters: one walks through them, the other sets the one it stands at.
    void twoKnobsForTwentyFour() {
        Stage stage;
        stage.given(manyParameters("frost", 24));
        test::Witness witness(stage.window);
        stage.key(Qt::Key_U, Qt::ControlModifier | Qt::ShiftModifier);
        const auto number = [&](const char* name) {
            return stage.window->findChild<SourcePick*>(QLatin1String(name))->source().number;
        };
        stage.move(70, 127);
        QTRY_COMPARE(number("knobChooses"), 70);
        stage.move(71, 127);
        QTRY_COMPARE(number("knobSets"), 71);
        stage.press("makeTwoKnobs");
        QCOMPARE(stage.first().chains.at(0).branches.size(), 24U);
        // The last one is chosen and set.
        stage.send({0xB0, 70, 127});
        stage.send({0xB0, 71, 30});
        QTRY_VERIFY(witness.sent("frost", 0xB0, 43, 30));
        stage.took(10);
        QCOMPARE(stage.troubles(), 0);
    }

    /// Eight sliders and a knob are learned in a row, each for the next parameter, and all are turned round.
    void nineLearnedInARow() {
        Stage stage;
        stage.given(manyParameters("frost", 12));
        test::Witness witness(stage.window);
        for (int i = 0; i < 9; ++i) {
            stage.key(Qt::Key_L);
            stage.learn(80 + i);
        }
        stage.key(Qt::Key_Escape);
        QCOMPARE(stage.first().chains.size(), 9U);
        for (std::size_t i = 0; i < 9; ++i) {
            QCOMPARE(stage.first().chains[i].source.number, 80 + static_cast<int>(i));
            QCOMPARE(stage.first().chains[i].branches.at(0).target, "p-" + std::to_string(i + 1));
        }
        stage.key(Qt::Key_A, Qt::ControlModifier);
        stage.key(Qt::Key_R, Qt::ControlModifier | Qt::ShiftModifier);
        stage.send({0xB0, 88, 20});
        QTRY_VERIFY(witness.sent("frost", 0xB0, 28, 107));
        stage.took(22);
        QCOMPARE(stage.troubles(), 0);
    }

    /// One wheel to three effects, recorded, and a range changed afterwards: the take plays the new one.
    void recordedAndChangedAfterwards() {
        Stage stage;
        stage.given(manyParameters("frost", 3));
        stage.key(Qt::Key_L);
        stage.learn(1);
        stage.key(Qt::Key_Escape);
        stage.key(Qt::Key_T, Qt::ControlModifier);
        auto* words = stage.finderWords();
        for (const Qt::Key key : {Qt::Key_Space, Qt::Key_Down, Qt::Key_Space, Qt::Key_Return}) {
            ++stage.acts;
            QTest::keyClick(words, key);
        }
        test::Stage::settle();
        QCOMPARE(stage.first().chains.at(0).branches.size(), 3U);
        stage.key(Qt::Key_F3);
        stage.move(1, 127);
        stage.key(Qt::Key_F3);
        QTRY_COMPARE(stage.ensemble().takes.size(), 1U);
        // The range is changed at the rail, by typing.
        auto* rail = stage.window.page().lever().targetRails()[2];
        ++stage.acts;
        QTest::mouseDClick(rail, Qt::LeftButton, {}, rail->numberRect(Rail::Grip::high).center().toPoint());
        auto* field = stage.window->findChild<QLineEdit*>(QStringLiteral("gripEditor"));
        QVERIFY(field != nullptr);
        stage.type(field, QStringLiteral("63"));
        QVERIFY(stage.first().chains.at(0).branches[2].high == Level(63.0));
        test::Witness witness(stage.window);
        // What was played before has been told of.
        stage.send({0xBF, 119, 1});
        QTRY_VERIFY(witness.came(0xBF, 119));
        witness.out.clear();
        stage.key(Qt::Key_Space);
        QTRY_VERIFY_WITH_TIMEOUT(witness.sent("frost", 0xB0, 20, 125), 15000);
        QVERIFY(witness.sent("frost", 0xB0, 22, 62));
        QVERIFY(!witness.sent("frost", 0xB0, 22, 125));
        stage.took(20);
        QCOMPARE(stage.troubles(), 0);
    }

    /// Nine on the desk, moved by hardware too; then the instrument and the hardware are exchanged.
    void nineOnTheDeskWithHardware() {
        Stage stage;
        for (const std::string name : {"Nine sliders", "Nine-drawbar organ"}) {
            const library::Shelf shelf = wholeLibrary();
            for (const library::Item& item : shelf.items) {
                if (item.part.name == name) stage.window->reuse().put(item.part);
            }
        }
        const std::string organ = stage.first().id;
        stage.window->document().edit(QStringLiteral("given"),
                                      [](Ensemble& e) { e.instruments[0].chains.clear(); });
        stage.window.select(organ, {}, app::Part::instrument);
        test::Witness witness(stage.window);
        stage.acts = 0;
        stage.key(Qt::Key_2, Qt::ControlModifier);
        stage.click("addDeskPage");
        QTRY_VERIFY(stage.window->live().readings().instrument(organ).inHand);
        stage.acts += 2;  // Fill with…, sliders.
        stage.window->findChild<QAction*>(QStringLiteral("fillSliders"))->trigger();
        stage.key(Qt::Key_F2);
        const auto elements = [&] { return stage.ensemble().desk.pages[0].elements.size(); };
        QVERIFY(elements() >= 9);
        const std::string drawbar = stage.ensemble().desk.pages[0].elements[0].id;
        stage.key(Qt::Key_1, Qt::ControlModifier);
        stage.key(Qt::Key_U, Qt::ControlModifier);
        stage.move(70);
        auto* run = stage.window->findChild<RunDialog*>();
        QTRY_COMPARE(run->findChild<SourcePick*>()->source().number, 70);
        stage.press("makeRun");
        stage.send({0xB0, 70, 64});
        QTRY_VERIFY(witness.sent(organ, 0xB0, 70, 64) || witness.sent(organ, 0xB1, 70, 64));
        auto* surface = stage.window.pageOf<DeskPageView>().board().surface(drawbar);
        QVERIFY(surface != nullptr);
        stage.key(Qt::Key_2, Qt::ControlModifier);
        QTRY_VERIFY(std::abs(surface->position(Axis::x) - 64.0 / 127) < 0.02);
        stage.key(Qt::Key_1, Qt::ControlModifier);
        stage.key(Qt::Key_W, Qt::ControlModifier | Qt::ShiftModifier);
        stage.take(QStringLiteral("orchestral"));
        stage.press("acceptMatches");
        QCOMPARE(stage.first().name, std::string("Orchestral strings"));
        stage.key(Qt::Key_4, Qt::ControlModifier);
        stage.click("showProfile");
        stage.window->findChild<ProfilePanel*>()->show(
            ProfilePlace::controls(stage.ensemble().controllers[0].id));
        ++stage.acts;  // The choice of the profile.
        stage.key(Qt::Key_W, Qt::ControlModifier | Qt::ShiftModifier);
        stage.take(QStringLiteral("four pedals"));
        stage.press("acceptMatches");
        QCOMPARE(stage.ensemble().controllers[0].controls.size(), 4U);
        stage.took(24);
        stage.goesBackAndForth();
    }

    /// Eighteen drawbars in one run, three buttons that share a number, a control through five choices, and a
    /// knob that is two switches at once.
    void drawbarsButtonsAndSwitches() {
        Stage stage;
        stage.window->document().edit(QStringLiteral("given"), [](Ensemble& e) {
            Instrument organ = manyParameters("organ", 18);
            const auto add = [&organ](const std::string& name, std::vector<std::string> choices) {
                Parameter one = test::ccParameter(name, 80 + static_cast<int>(organ.parameters.size()) - 18);
                one.name = name;
                one.display.law = Law::choices;
                one.display.choices = std::move(choices);
                organ.parameters.push_back(one);
            };
            add("Rotor", {"still", "slow", "fast"});
            add("Stop", {"flute", "reed", "string", "glass", "tin"});
            add("Drive", {"off", "on"});
            add("Echo", {"off", "on"});
            e.instruments = {organ};
        });
        stage.window.select("organ", {}, app::Part::instrument);
        test::Witness witness(stage.window);
        stage.key(Qt::Key_U, Qt::ControlModifier);
        stage.move(20);
        auto* run = stage.window->findChild<RunDialog*>();
        QTRY_COMPARE(run->findChild<SourcePick*>()->source().number, 20);
        ++stage.acts;
        run->findChild<QSpinBox*>(QStringLiteral("runCount"))->setValue(18);
        stage.press("makeRun");
        QCOMPARE(stage.first().chains.size(), 18U);
        // The instrument again, for what is new.
        ++stage.acts;
        stage.window.select("organ", {}, app::Part::instrument);
        for (const int number : {102, 103, 104}) {
            stage.key(Qt::Key_L);
            stage.learn(number);
        }
        stage.key(Qt::Key_Escape);
        stage.key(Qt::Key_T, Qt::ControlModifier);
        stage.take(QStringLiteral("echo"));
        QCOMPARE(stage.first().chains.size(), 21U);
        const Chain& knob = stage.first().chains[20];
        QCOMPARE(knob.branches.size(), 2U);
        QCOMPARE(knob.branches[0].target, std::string("Drive"));
        QCOMPARE(knob.branches[1].target, std::string("Echo"));
        // Each comes on at its own place.
        stage.typeBranchStep(QStringLiteral("gate 70"));
        stage.pickRail(0);
        stage.typeBranchStep(QStringLiteral("gate 30"));
        stage.send({0xB0, 37, 99});
        QTRY_VERIFY(witness.sent("organ", 0xB0, 37, 99));
        // Three buttons on one number.
        for (const auto& [sent, chosen] : {std::pair{127, 127}, std::pair{64, 64}, std::pair{0, 0}}) {
            stage.send({0xB0, 102, static_cast<std::uint8_t>(sent)});
            QTRY_VERIFY(witness.sent("organ", 0xB0, 80, chosen));
        }
        // Five choices: a quarter of the way is the second.
        stage.send({0xB0, 103, 32});
        QTRY_VERIFY(witness.sent("organ", 0xB0, 81, 32));
        stage.send({0xB0, 104, 0});
        QTRY_VERIFY(witness.sent("organ", 0xB0, 82, 0) && witness.sent("organ", 0xB0, 83, 0));
        witness.out.clear();
        stage.send({0xB0, 104, 64});
        QTRY_VERIFY(witness.sent("organ", 0xB0, 82, 127));
        QVERIFY(!witness.sent("organ", 0xB0, 83, 127));
        stage.send({0xB0, 104, 100});
        QTRY_VERIFY(witness.sent("organ", 0xB0, 83, 127));
        stage.took(30);
        QCOMPARE(stage.troubles(), 0);
    }

    /// Four articulations by a control that rests in the middle, dynamics by another, the same for a choir;
    /// and key switches that lie among the keys that are played are moved out of the way.
    void articulationsDynamicsAndAChoir() {
        Stage stage;
        stage.window->document().edit(QStringLiteral("given"), [](Ensemble& e) {
            Instrument strings = test::instrument("strings");
            strings.input.lowKey = 36;
            strings.input.highKey = 96;
            for (int i = 0; i < 4; ++i) {
                Articulation way;
                way.id = "way-" + std::to_string(i);
                way.name = std::array{"Long", "Short", "Trembling", "Muted"}.at(static_cast<std::size_t>(i));
                Select key;
                key.kind = SelectKind::note;
                key.number = 40 + i;
                way.select = {key};
                strings.articulations.push_back(way);
            }
            Parameter way;
            way.id = "way";
            way.name = "Way of playing";
            way.message.kind = MessageKind::articulation;
            strings.parameters.insert(strings.parameters.begin(), way);
            nameArticulations(strings);
            e.instruments = {strings, test::instrument("choir", 2)};
            e.instruments[1].input.lowKey = 60;
        });
        stage.window.select("strings", {}, app::Part::instrument);
        test::Witness witness(stage.window);
        stage.key(Qt::Key_L);
        ++stage.acts;
        for (int value = 0; value < 16384; value += 256)
            stage.send(
                {0xE0, static_cast<std::uint8_t>(value % 128), static_cast<std::uint8_t>(value / 128)});
        QTRY_VERIFY(stage.window->learn().isDone());
        stage.key(Qt::Key_L);
        stage.learn(2);
        stage.key(Qt::Key_Escape);
        QCOMPARE(stage.first().chains.size(), 2U);
        QCOMPARE(stage.first().chains[0].branches.at(0).target, std::string("way"));
        QCOMPARE(stage.first().chains[1].branches.at(0).target, std::string("expression"));
        stage.send({0xE0, 0, 0});
        QTRY_COMPARE(stage.window->live().readings().instrument("strings").articulation, 0);
        stage.send({0xE0, 127, 127});
        QTRY_COMPARE(stage.window->live().readings().instrument("strings").articulation, 3);
        // The dynamics for the choir, too.
        stage.giveToAll();
        QCOMPARE(stage.ensemble().instruments[1].chains.size(), 1U);
        stage.send({0xB0, 2, 77});
        QTRY_VERIFY(witness.sent("choir", 0xB1, 11, 77));
        // The clash.
        stage.key(Qt::Key_F4);
        QPushButton* cure = nullptr;
        const auto look = [&] {
            for (QPushButton* each : stage.window->findChildren<QPushButton*>()) {
                if (each->isVisible() && each->text().startsWith(QStringLiteral("Move the switches")))
                    cure = each;
            }
            return cure != nullptr;
        };
        QVERIFY(QTest::qWaitFor(look));
        ++stage.acts;
        cure->click();
        QVERIFY(stage.first().articulations[0].select.at(0).number < 36);
        stage.send({0xE0, 0, 0});
        QTRY_COMPARE(stage.window->live().readings().instrument("strings").articulation, 0);
        stage.took(26);
        QCOMPARE(stage.troubles(), 0);
    }

    /// Pressure is divided and limited, kept in the library, and used in another document.
    void keptAndUsedElsewhere() {
        Stage stage;
        stage.given(manyParameters("frost", 1));
        test::Witness witness(stage.window);
        stage.key(Qt::Key_L);
        ++stage.acts;
        for (std::uint8_t value = 0; value < 127; value += 2) stage.send({0xD0, value});
        QTRY_VERIFY(stage.window->learn().isDone());
        stage.key(Qt::Key_Escape);
        const auto step = [&stage](const QString& name) {
            stage.key(Qt::Key_E, Qt::ControlModifier);
            ++stage.acts;
            auto* words = stage.window->findChild<QLineEdit*>(QStringLiteral("stepWords"));
            QTest::keyClicks(words, name);
            QTest::keyClick(words, Qt::Key_Return);
            test::Stage::settle();
        };
        step(QStringLiteral("formula x/1.5"));
        step(QStringLiteral("limit 0 50"));
        QCOMPARE(stage.first().chains.at(0).steps.size(), 2U);
        stage.send({0xD0, 30});
        QTRY_VERIFY(witness.sent("frost", 0xB0, 20, 20));
        stage.send({0xD0, 127});
        QTRY_VERIFY(witness.sent("frost", 0xB0, 20, 64));
        QCOMPARE(std::get<std::string>(stage.first().chains[0].steps[0].values[0]), std::string("x/1.5"));
        stage.window.select("frost", stage.first().chains[0].id);
        ++stage.acts;
        stage.key(Qt::Key_K, Qt::ControlModifier);
        stage.press("acceptKeep");
        stage.key(Qt::Key_N, Qt::ControlModifier);
        stage.key(Qt::Key_L, Qt::ControlModifier);
        stage.take(QStringLiteral("pressure"));
        // With what it leads to, since there was no instrument.
        QCOMPARE(stage.ensemble().instruments.size(), 1U);
        QCOMPARE(stage.first().chains.size(), 1U);
        QCOMPARE(stage.first().chains[0].steps.size(), 2U);
        const std::string made = stage.first().id;
        witness.out.clear();
        stage.send({0xD0, 126});
        QTRY_VERIFY(witness.sent(made, 0xB0, 20, 64));
        stage.took(14);
        QCOMPARE(stage.troubles(), 0);
    }

    /// A pad's two ways across and two up and down lead to five targets, each from the middle on; it is
    /// recorded, smoothed, and compared with what it was.
    void fourWaysOfAPad() {
        Stage stage;
        stage.given(manyParameters("frost", 5));
        test::Witness witness(stage.window);
        // An axis each: across, then up and down.
        stage.key(Qt::Key_L);
        stage.learn(12);
        stage.key(Qt::Key_L);
        stage.learn(13);
        // Two for up, one for down.
        stage.key(Qt::Key_T, Qt::ControlModifier);
        auto* finder = stage.finderWords();
        for (const Qt::Key key : {Qt::Key_Space, Qt::Key_Down, Qt::Key_Space, Qt::Key_Return}) {
            ++stage.acts;
            QTest::keyClick(finder, key);
        }
        test::Stage::settle();
        QCOMPARE(stage.first().chains.size(), 2U);
        QCOMPARE(stage.first().chains[1].branches.size(), 3U);
        stage.typeBranchStep(QStringLiteral("window 50 0"));
        stage.pickRail(1);
        stage.typeBranchStep(QStringLiteral("window 50 100"));
        stage.pickRail(0);
        stage.typeBranchStep(QStringLiteral("window 50 100"));
        // Across: one to each side.
        ++stage.acts;
        stage.window.select("frost", stage.first().chains[0].id);
        stage.key(Qt::Key_T, Qt::ControlModifier);
        stage.take(QStringLiteral("frost 5"));
        stage.typeBranchStep(QStringLiteral("window 50 0"));
        stage.pickRail(0);
        stage.typeBranchStep(QStringLiteral("window 50 100"));
        stage.key(Qt::Key_F3);
        stage.moveInTime(12);
        stage.moveInTime(13);
        stage.key(Qt::Key_F3);
        QTRY_COMPARE(stage.ensemble().takes.size(), 1U);
        for (const auto& [number, value] : {std::pair{20, 123}, {21, 123}, {22, 123}, {23, 127}, {24, 127}})
            QTRY_VERIFY2(witness.sent("frost", 0xB0, number, value), qPrintable(QString::number(number)));
        stage.key(Qt::Key_3, Qt::ControlModifier);
        stage.click("bandMark");
        stage.key(Qt::Key_S, Qt::ControlModifier | Qt::AltModifier);
        stage.click("tidyMake");
        const auto difference = [&stage] {
            return stage.window->findChild<QLabel*>(QStringLiteral("bandDifference"))->text();
        };
        QTRY_VERIFY2(difference().contains(QStringLiteral("Frost")), qPrintable(difference()));
        stage.took(34);
        QCOMPARE(stage.troubles(), 0);
    }

    /// Eight basses led by one knob, drawn, put to rest, and undone.
    void eightBassesByOneKnob() {
        Stage stage;
        stage.window->document().edit(QStringLiteral("given"), [](Ensemble& e) {
            e.instruments.clear();
            for (int i = 0; i < 8; ++i) {
                Instrument bass = manyParameters("bass-" + std::to_string(i + 1), 2);
                bass.output.channel = i + 1;
                e.instruments.push_back(bass);
            }
        });
        const Ensemble before = stage.ensemble();
        stage.window.select("bass-1", {}, app::Part::instrument);
        test::Witness witness(stage.window);
        stage.key(Qt::Key_L);
        stage.learn(74);
        stage.key(Qt::Key_Escape);
        // Given to the other seven.
        stage.giveToAll();
        for (const Instrument& bass : stage.ensemble().instruments) QCOMPARE(bass.chains.size(), 1U);
        stage.send({0xB0, 74, 99});
        QTRY_VERIFY(witness.sent("bass-8", 0xB7, 20, 99));
        stage.key(Qt::Key_F9);
        auto* draws = stage.window->findChild<DrawDialog*>();
        QVERIFY(draws != nullptr);
        ++stage.acts;
        draws->findChild<QComboBox*>(QStringLiteral("drawScope"))->setCurrentIndex(2);
        stage.press("draw");
        stage.press("drawClose");
        const std::size_t drawn = witness.out.size();
        stage.key(Qt::Key_F7, Qt::ShiftModifier);
        QTRY_VERIFY(witness.out.size() > drawn);
        QTRY_VERIFY(witness.sent("bass-8", 0xB7, 20, 0));
        while (stage.window->document().undoStack().canUndo() && stage.ensemble() != before)
            stage.key(Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(stage.ensemble() == before);
        stage.took(30);
    }
};

QTEST_MAIN(JobsTest)
#include "jobs.moc"
