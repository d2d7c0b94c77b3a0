// Who has the keyboard and the wheel: what is open, what was clicked, and otherwise the hands.
#include "app/widgets/manners.h"

#include <QApplication>
#include <QComboBox>
#include <QLineEdit>
#include <QListView>
#include <QScrollArea>
#include <QSignalSpy>
#include <QTableView>

#include "app/pages/chains/chain_list.h"
#include "app/pages/gear/profile_panel.h"
#include "app/pages/takes/takes_page.h"
#include "app/widgets/number_field.h"
#include "support/stage.h"
#include "support/witness.h"

using namespace mellow;
using namespace mellow::app;
using test::Stage;

namespace {

QComboBox& firstList(Stage& stage) {
    for (QComboBox* each : stage.window.details().findChildren<QComboBox*>()) {
        if (each->isVisible() && each->isEnabled() && each->count() > 3 && !each->isEditable()) return *each;
    }
    qFatal("no list in the details");
}

}  // namespace

class MannersTest : public QObject {
    Q_OBJECT

 private slots:
    void anOpenListHasTheKeyboard() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        test::Witness witness(stage.window);
        QComboBox& list = firstList(stage);
        const Ensemble before = stage.window.ensemble();
        stage.window->live().hands().send(midi::make(0x90, 0, 64, 100));
        QTRY_VERIFY(witness.sent("glass", 0x90, 64));
        list.showPopup();
        QTRY_VERIFY(QApplication::activePopupWidget() != nullptr);
        for (const Qt::Key key : {Qt::Key_D, Qt::Key_R, Qt::Key_Z}) QTest::keyClick(list.view(), key);
        QTest::keyClick(list.view(), Qt::Key_Escape);
        QTRY_VERIFY(QApplication::activePopupWidget() == nullptr);
        QVERIFY(stage.window.ensemble() == before);
        // What came after it has come, and nothing came before but that.
        stage.window->live().hands().send(midi::make(0x90, 0, 65, 100));
        QTRY_VERIFY(witness.sent("glass", 0x90, 65));
        QVERIFY(!witness.sent("glass", 0x80, 64));
        const auto notes = std::count_if(witness.in.begin(), witness.in.end(), [](const auto& each) {
            return midi::isNoteOn(each.message.bytes());
        });
        QCOMPARE(notes, 2);
        // Nothing is open now, so it silences; after a popup the offscreen platform runs no shortcuts.
        if (QGuiApplication::platformName() == QLatin1String("offscreen")) return;
        stage.key(Qt::Key_Escape);
        QTRY_VERIFY(witness.sent("glass", 0x80, 64));
    }

    void theWheelScrollsPastFields() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        QComboBox& list = firstList(stage);
        const int steps = stage.window->document().undoStack().count();
        const auto turn = [&list] {
            for (int i = 0; i < 5; ++i) {
                QWheelEvent wheel(QPointF(list.rect().center()),
                                  list.mapToGlobal(QPointF(list.rect().center())), {}, QPoint(0, -120),
                                  Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
                QCoreApplication::sendEvent(&list, &wheel);
            }
        };
        const int shown = list.currentIndex();
        turn();
        QCOMPARE(list.currentIndex(), shown);
        QCOMPARE(stage.window->document().undoStack().count(), steps);
        // Once it has been come to on purpose it turns.
        list.setCurrentIndex(0);
        list.setFocus(Qt::TabFocusReason);
        turn();
        QVERIFY(list.currentIndex() != 0);
    }

    void aButtonThatWasClickedKeepsNothing() {
        Stage stage(false);
        stage.window->selection().go(TakePlace{"barometer-falls"});
        TakeWork& takes = stage.window->takes();
        QTRY_VERIFY(!takes.choice.take()->events.empty());
        stage.click("take-loop");
        QVERIFY(takes.playing.loops());
        QVERIFY(stage.window.find<QAbstractButton>("take-loop") != QApplication::focusWidget());
        QWidget* has = QApplication::focusWidget();
        QTest::keyClick(has != nullptr ? has : &*stage.window, Qt::Key_Space);
        QVERIFY(takes.playing.loops());
        QTRY_VERIFY(takes.playing.isPlaying());
        takes.playing.stop();
    }

    void recordingBeginsOnEveryPage() {
        Stage stage(false);
        for (int page = 0; page < 4; ++page) {
            stage.window->showPage(static_cast<std::size_t>(page));
            stage.key(Qt::Key_F3);
            QVERIFY2(stage.window->takes().recording.isOn(), qPrintable(QString::number(page)));
            stage.key(Qt::Key_F3);
            QTRY_VERIFY(!stage.window->takes().recording.isOn());
        }
    }

    void aClickOnAChainMeansTheChain() {
        Stage stage(false);
        stage.window.select("glass", "swell", app::Part::step, 0);
        auto* list = stage.window->findChild<ChainList*>();
        const auto chains = stage.window.instrument("glass").chains.size();
        QTest::mouseClick(list->viewport(), Qt::LeftButton, {},
                          list->visualRect(list->model()->index(0, 0)).center());
        QVERIFY(stage.window->selection().now().part == app::Part::source);
        stage.key(Qt::Key_Delete);
        QCOMPARE(stage.window.instrument("glass").chains.size(), chains - 1);
        stage.window->document().undoStack().undo();
        QCOMPARE(stage.window.instrument("glass").chains.size(), chains);
    }

    void whatIsCalledSoComesFirst() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        stage.window.pickStep("addStep", QStringLiteral("smooth"));
        QCOMPARE(stage.window.chain("glass", "swell").steps.back().kind->name, std::string_view("smooth"));
        // Nothing found is said, and Enter takes nothing.
        const Ensemble before = stage.window.ensemble();
        stage.key(Qt::Key_E, Qt::ControlModifier);
        auto* stepWords = stage.window->findChild<QLineEdit*>(QStringLiteral("stepWords"));
        QTest::keyClicks(stepWords, QStringLiteral("qqqq"));
        QVERIFY(stage.window->findChild<QLabel*>(QStringLiteral("noStep"))->isVisible());
        QTest::keyClick(stepWords, Qt::Key_Return);
        QVERIFY(stage.window.ensemble() == before);
        QTest::keyClick(stepWords, Qt::Key_Escape);
        Stage::settle();
        stage.window->selection().go(GearPlace{});
        stage.key(Qt::Key_L, Qt::ControlModifier);
        QLineEdit* words = stage.finderWords();
        QTest::keyClicks(words, QStringLiteral("qqqq"));
        auto* found = stage.window->findChild<QListView*>(QStringLiteral("found"));
        QCOMPARE(found->model()->rowCount(), 1);
        QVERIFY(found->model()->index(0, 0).data().toString().contains(QStringLiteral("qqqq")));
        QTest::keyClick(words, Qt::Key_Return);
        QVERIFY(found->isVisible());
        QVERIFY(stage.window.ensemble() == before);
        QTest::keyClick(words, Qt::Key_Escape);
    }

    /// Space is a letter while one types, and ticks what an arrow went to; Enter takes all that is ticked.
    void severalTargetsAreTicked() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        const std::size_t before = stage.window.chain("glass", "swell").branches.size();
        stage.click("addTarget");
        auto* words = stage.finderWords();
        auto* found = stage.window->findChild<QListView*>(QStringLiteral("found"));
        QTest::keyClick(words, Qt::Key_Space);
        QTest::keyClick(words, Qt::Key_Down);
        QTest::keyClick(words, Qt::Key_Down);
        QTest::keyClick(words, Qt::Key_Space);
        QCOMPARE(stage.shown("finderHint"), QStringLiteral("2 ticked; Enter takes all"));
        const QString second = found->currentIndex().data().toString();
        // Ticked stays ticked when other words are typed; a second Space takes it away.
        QTest::keyClicks(words, second.left(3));
        QVERIFY(stage.shown("finderHint").startsWith(QLatin1Char('2')));
        words->clear();
        stage.window.editsOnce([&] { QTest::keyClick(words, Qt::Key_Return); });
        Stage::settle();
        QCOMPARE(stage.window.chain("glass", "swell").branches.size(), before + 2);
        stage.goesBackAndForth();
    }

    /// A chain that follows what is touched wears a ribbon that locks it; a rail, a row of a profile and the
    /// shortcut inside a number are touches and acts as any.
    void whatIsTouchedIsFollowedAndSeen() {
        Stage stage(false);
        stage.window.select("glass", "swell", app::Part::branch, 0);
        auto* ribbon = stage.window->findChild<QPushButton*>(QStringLiteral("followRibbon"));
        QVERIFY(!ribbon->isVisible());
        // While a number is being typed, too.
        NumberField* field = nullptr;
        for (NumberField* each : stage.window->findChildren<NumberField*>()) {
            if (each->isVisible()) field = each;
        }
        QVERIFY(field != nullptr);
        field->setFocus();
        QTest::keyClick(field, Qt::Key_F, Qt::ControlModifier);
        QVERIFY(ribbon->isVisible());
        stage.window->showPage(3);
        stage.click("showProfile");
        auto& panel = *stage.window->findChild<ProfilePanel*>();
        panel.show(ProfilePlace::parameters("glass"));
        auto* table = panel.findChild<QTableView*>(QStringLiteral("profileTable"));
        const auto& parameters = stage.window.instrument("glass").parameters;
        const std::size_t row = parameters.size() - 1;
        table->scrollTo(table->model()->index(static_cast<int>(row), 0));
        QTest::mouseClick(table->viewport(), Qt::LeftButton, {},
                          table->visualRect(table->model()->index(static_cast<int>(row), 0)).center());
        QCOMPARE(stage.window.chain("glass", "swell").branches[0].target, parameters[row].id);
        stage.window->showPage(0);
        QVERIFY(ribbon->isVisible());
        QVERIFY(ribbon->text().contains(toQt(nameOf(parameters[row]))));
        stage.click("followRibbon");
        QVERIFY(!ribbon->isVisible());
        QVERIFY(!stage.window->touched().follower());
        // A rail is touched by picking it.
        stage.window.select("glass", "swell", app::Part::source);
        auto* rail = stage.window.page().lever().targetRails()[1];
        QTest::mouseClick(rail, Qt::LeftButton, {}, rail->gripPoint(Rail::Grip::high).toPoint());
        QCOMPARE(stage.window->touched().last()->parameter,
                 stage.window.chain("glass", "swell").branches[1].target);
    }

    /// The ensemble and its controllers are named where their names are shown; an instrument that nobody has
    /// named is called after its sound or its port.
    void namesAreTypedWhereTheyAreShown() {
        Stage stage(false);
        QTest::mouseClick(stage.window.find<QLabel>("ensembleTitle"), Qt::LeftButton);
        auto* name = stage.window->findChild<QLineEdit*>(QStringLiteral("ensembleName"));
        QVERIFY(name != nullptr && name->hasFocus());
        QTest::keyClicks(name, QStringLiteral("Winter observatory"));
        stage.window.editsOnce([&] { QTest::keyClick(name, Qt::Key_Return); });
        QCOMPARE(stage.ensemble().title, std::string("Winter observatory"));
        Stage::settle();
        stage.window->selection().go(GearPlace{true, "practice-keys"});
        QTRY_VERIFY(stage.window->findChild<QLineEdit*>(QStringLiteral("controllerName0")) != nullptr);
        auto* controller = stage.window->findChild<QLineEdit*>(QStringLiteral("controllerName0"));
        controller->setFocus();
        controller->selectAll();
        QTest::keyClicks(controller, QStringLiteral("Frosted "));
        // What changes elsewhere meanwhile does not throw the field.
        stage.window->document().edit(QStringLiteral("elsewhere"),
                                      [](Ensemble& e) { e.controllers[1].name = "Iced pedals"; });
        Stage::settle();
        QCOMPARE(stage.window->findChild<QLineEdit*>(QStringLiteral("controllerName0")), controller);
        QTest::keyClicks(controller, QStringLiteral("keys"));
        QTest::keyClick(controller, Qt::Key_Return);
        QCOMPARE(stage.ensemble().controllers[0].name, std::string("Frosted keys"));

        stage.window->showPage(0);
        stage.key(Qt::Key_N, Qt::ControlModifier | Qt::ShiftModifier);
        const auto& made = [&]() -> const Instrument& {
            return stage.ensemble().instruments[stage.ensemble().instruments.size() - 1];
        };
        QComboBox* sound = nullptr;
        for (QComboBox* each : stage.window.details().findChildren<QComboBox*>()) {
            if (each->isVisible() && each->count() == 128) sound = each;
        }
        QVERIFY(sound != nullptr);
        sound->setCurrentIndex(73);
        emit sound->activated(73);
        QCOMPARE(made().name, sound->itemText(73).toStdString());
        sound->setCurrentIndex(40);
        emit sound->activated(40);
        QCOMPARE(made().name, sound->itemText(40).toStdString());
        stage.goesBackAndForth();
    }

    /// What is added is seen, and its name is what is typed next.
    void aNewParameterIsNamed() {
        Stage stage(false);
        stage.window.select("glass", {}, app::Part::instrument);
        stage.click("addParameter");
        Stage::settle();
        auto* name = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        QVERIFY(name != nullptr);
        QTest::keyClicks(name, QStringLiteral("Frost"));
        QTest::keyClick(name, Qt::Key_Return);
        QCOMPARE(stage.window.instrument("glass").parameters.back().name, std::string("Frost"));
    }

    void stepsBelowTheResponseAreTheTrunks() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        stage.window.addTarget();
        const auto& chain = stage.window.chain("glass", "swell");
        const auto steps = chain.steps.size();
        stage.window.pickStep("addStep", QStringLiteral("Formula"));
        QCOMPARE(stage.window.chain("glass", "swell").steps.size(), steps + 1);
        // It works as it is.
        const Step& formula = stage.window.chain("glass", "swell").steps.back();
        QCOMPARE(std::get<std::string>(formula.values[0]), std::string("x"));
        // What no other chain moves is offered first.
        const std::string added = stage.window.chain("glass", "swell").branches.back().target;
        for (const Chain& other : stage.window.instrument("glass").chains) {
            if (other.id == "swell") continue;
            for (const Branch& branch : other.branches) QVERIFY2(branch.target != added, added.c_str());
        }
        for (const Finding* found : stage.window->document().findings())
            QVERIFY2(found->severity != Severity::trouble, found->problem.what.c_str());
    }

    /// Esc in a field leaves what was typed, and ends no note.
    void escapeInAFieldMeansTheField() {
        Stage stage(false);
        stage.window.select("glass", "swell", app::Part::branch, 0);
        test::Witness witness(stage.window);
        NumberField* field = nullptr;
        for (NumberField* each : stage.window.details().findChildren<NumberField*>()) {
            if (each->isVisible() && field == nullptr) field = each;
        }
        QVERIFY(field != nullptr);
        const QString shown = field->text();
        const Ensemble before = stage.window.ensemble();
        stage.window->live().hands().send(midi::make(0x90, 0, 64, 100));
        QTRY_VERIFY(witness.sent("glass", 0x90, 64));
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, QStringLiteral("1/1.5"));
        QTest::keyClick(field, Qt::Key_Escape);
        QCOMPARE(field->text(), shown);
        stage.window->live().hands().send(midi::make(0x90, 0, 65, 100));
        QTRY_VERIFY(witness.sent("glass", 0x90, 65));
        QVERIFY(!witness.sent("glass", 0x80, 64));
        QVERIFY(stage.window.ensemble() == before);
        test::type(field, QStringLiteral("96/3"));
        QCOMPARE(field->value(), 32.0);
    }

    /// Chains that are chosen together are changed together, as one step: by Ctrl, by Shift, or all of them.
    void severalChainsAtOnce() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        auto& list = stage.window.page().chains();
        const auto rowAt = [&](int row) { return list.visualRect(list.model()->index(row, 0)).center(); };
        QTest::mouseClick(list.viewport(), Qt::LeftButton, Qt::NoModifier, rowAt(0));
        QTest::mouseClick(list.viewport(), Qt::LeftButton, Qt::ControlModifier, rowAt(2));
        const auto chosen = [&] { return stage.window->selection().everySelected().size(); };
        QCOMPARE(chosen(), std::size_t{2});
        QCOMPARE(list.selectionModel()->selectedIndexes().size(), qsizetype{2});
        const auto chains = [&]() -> const auto& {
            return stage.ensemble().instruments[0].chains;
        };
        const Chain first = chains()[0];
        const Chain second = chains()[1];
        const Chain third = chains()[2];
        stage.window.editsOnce([&] { stage.window.menu(QStringLiteral("Turn round")); });
        QVERIFY(chains()[0].branches[0].low == first.branches[0].high);
        QVERIFY(chains()[2].branches[0].low == third.branches[0].high);
        QVERIFY(chains()[1] == second);
        stage.window.editsOnce([&] { stage.window.menu(QStringLiteral("Switch on or off")); });
        QVERIFY(!chains()[0].on && chains()[1].on && !chains()[2].on);
        stage.window.editsOnce([&] { stage.window.menu(QStringLiteral("Only in hand, or always")); });
        QVERIFY(chains()[0].active == chains()[2].active && chains()[0].active != first.active);
        // They are copied and pasted together, and moved as a block.
        stage.window.menu(QStringLiteral("Move later"));
        QCOMPARE(chains()[1].id, first.id);
        QCOMPARE(chains()[3].id, third.id);
        QCOMPARE(chosen(), std::size_t{2});
        const std::size_t before = chains().size();
        stage.window.menu(QStringLiteral("Copy"));
        stage.window.menu(QStringLiteral("Paste"));
        QCOMPARE(chains().size(), before + 2);
        stage.window->document().undoStack().undo();
        // A click on one is that one alone; all of them by Ctrl+A, wherever the keyboard is.
        QTest::mouseClick(list.viewport(), Qt::LeftButton, Qt::NoModifier, rowAt(0));
        QCOMPARE(chosen(), std::size_t{1});
        stage.window.menu(QStringLiteral("Select all chains"));
        QCOMPARE(chosen(), before);
        QVERIFY(stage.shown("summary").startsWith(QStringLiteral("%1 selected").arg(before)));
        stage.window.editsOnce([&] { stage.key(Qt::Key_Delete); });
        QVERIFY(chains().empty());
    }

    /// Targets of a chain and instruments likewise.
    void severalTargetsAndInstrumentsAtOnce() {
        Stage stage(false);
        stage.window.select("glass", "swell");
        const auto rails = stage.window.page().lever().targetRails();
        const auto name = [](Rail* rail) { return QPoint(rail->width() / 2, scaled(6)); };
        QTest::mouseClick(rails[0], Qt::LeftButton, Qt::NoModifier, name(rails[0]));
        QTest::mouseClick(rails[2], Qt::LeftButton, Qt::ControlModifier, name(rails[2]));
        QCOMPARE(stage.window->selection().everySelected().size(), std::size_t{2});
        const auto branches = [&] { return stage.window.chain("glass", "swell").branches; };
        const auto before = branches();
        stage.window.editsOnce([&] { stage.window.menu(QStringLiteral("Turn round")); });
        QVERIFY(branches()[0].low == before[0].high && branches()[2].low == before[2].high);
        QVERIFY(branches()[1].low == before[1].low);
        stage.window.editsOnce([&] { stage.key(Qt::Key_Delete); });
        QCOMPARE(branches().size(), before.size() - 2);
        QCOMPARE(branches()[0].target, before[1].target);
        auto& list = stage.window->ensembleList();
        const auto card = [&](int row) { return list.visualRect(list.model()->index(row, 0)).center(); };
        QTest::mouseClick(list.viewport(), Qt::LeftButton, Qt::NoModifier, card(0));
        QTest::mouseClick(list.viewport(), Qt::LeftButton, Qt::ShiftModifier, card(2));
        QCOMPARE(stage.window->selection().everySelected().size(), std::size_t{3});
        stage.window.editsOnce([&] { stage.window.menu(QStringLiteral("Switch on or off")); });
        for (std::size_t i = 0; i < 4; ++i) QCOMPARE(stage.ensemble().instruments[i].on, i == 3);
        const std::size_t many = stage.ensemble().instruments.size();
        stage.window.editsOnce([&] { stage.key(Qt::Key_Delete); });
        QCOMPARE(stage.ensemble().instruments.size(), many - 3);
    }

    /// Controls that are learned one after another lead to one parameter after the other.
    void whatIsLearnedInARowLeadsOn() {
        Stage stage;
        stage.window->actions().addInstrument();
        const auto& parameters = stage.window.ensemble().instruments[0].parameters;
        const std::string id = stage.window.ensemble().instruments[0].id;
        stage.window->selection().set({id, {}, app::Part::instrument, 0, 0});
        // L for each: it begins, and once one has learned it goes on with the next.
        for (int knob = 0; knob < 3; ++knob) {
            stage.key(Qt::Key_L);
            stage.move(40 + knob);
            QTRY_VERIFY(stage.learn().isDone());
            QCOMPARE(stage.learn().targetName(), app::toQt(parameters[static_cast<std::size_t>(knob)].name));
        }
        const auto made = [&]() -> const auto& {
            return stage.window.ensemble().instruments[0].chains;
        };
        QCOMPARE(made().size(), std::size_t{3});
        // The arrows beside it lead the newest elsewhere, as part of the same step.
        const int steps = stage.window->document().undoStack().index();
        stage.click("learnTargetAfter");
        QCOMPARE(made()[2].branches.at(0).target, parameters[3].id);
        stage.click("learnTargetBefore");
        QCOMPARE(made()[2].branches.at(0).target, parameters[2].id);
        QCOMPARE(stage.window->document().undoStack().index(), steps);
        // Its button does the same as the key; Esc ends it.
        stage.click("learnNext");
        QVERIFY(!stage.learn().isDone() && stage.learn().isOn());
        stage.key(Qt::Key_Escape);
        QVERIFY(!stage.learn().isOn());
        QCOMPARE(made().size(), std::size_t{3});
        const auto& chains = made();
        for (std::size_t i = 0; i < chains.size(); ++i) {
            QCOMPARE(chains[i].source.number, 40 + static_cast<int>(i));
            QCOMPARE(chains[i].branches.at(0).target, parameters[i].id);
        }
    }
};

QTEST_MAIN(MannersTest)
#include "manners.moc"
