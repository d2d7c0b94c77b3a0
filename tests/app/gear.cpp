// The Gear page on a real JACK server: what is there and what waits, what a port just sent, who is connected
// to whom, and how a port is heard on this machine.
#include "app/pages/gear/gear_page.h"

#include <QCheckBox>
#include <QComboBox>
#include <QCompleter>
#include <QFileInfo>
#include <QLineEdit>
#include <QListView>
#include <QRegularExpression>
#include <QSettings>

#include "app/acts/details/port_offers.h"
#include "app/pages/gear/port_details.h"
#include "app/widgets/moving_text.h"
#include "support/build.h"
#include "support/jack.h"
#include "support/window.h"
#include "support/witness.h"

using namespace mellow;
using namespace mellow::app;
using test::Peer;
using test::Window;

namespace {

Ensemble northRack() {
    Instrument one = test::instrument();
    one.name = "Storm glass";
    one.input.port = "any";
    one.output.port = "North rack";
    Source wheel = test::ccSource(1);
    wheel.controller = "wind";
    one.chains.push_back(test::chain("swell", wheel, {}, {test::branch("expression", 0, 127)}));
    Ensemble ensemble = test::ensemble({one});
    Controller wind;
    wind.id = "wind";
    wind.name = "Wind stick";
    wind.port = "Wind stick port";
    ControllerControl breath;
    breath.id = "breath";
    breath.name = "Breath";
    breath.message.number = 1;
    wind.controls.push_back(breath);
    ensemble.controllers.push_back(wind);
    return ensemble;
}

struct Stage {
    Window window{test::overJack()};

    Stage() {
        window->document().replace(northRack(), {});
        QTest::keyClick(&*window, Qt::Key_4, Qt::ControlModifier);
    }
    GearPage& page() { return window.pageOf<GearPage>(); }
    const PortCard& card(bool input, const char* port) {
        const PortCards& cards = page().board().cards();
        for (const PortCard& each : input ? cards.hands : cards.sound) {
            if (each.port.name == port) return each;
        }
        qFatal("no card of %s", port);
    }
    void click(bool input, const char* port) {
        QTest::mouseClick(&page().board(), Qt::LeftButton, {}, page().board().rectOf({input, port}).center());
    }
    template<class Button>
    Button* named(const QString& text) {
        for (Button* each : window.pageOf<PortDetails>().findChildren<Button*>()) {
            if (each->text() == text) return each;
        }
        return nullptr;
    }
};

}  // namespace

class GearTest : public QObject {
    Q_OBJECT

    std::unique_ptr<test::JackServer> server_;

 private slots:
    void initTestCase() {
        server_ = std::make_unique<test::JackServer>("mellow-lever-gear");
        qputenv("JACK_DEFAULT_SERVER", QByteArray::fromStdString(server_->name()));
    }
    void cleanupTestCase() { server_.reset(); }

    void whatIsThereAndWhatWaits() {
        Stage stage;
        QVERIFY(stage.page().isVisible());
        QCOMPARE(stage.card(true, "Wind stick port").title, QStringLiteral("Wind stick"));
        QCOMPARE(stage.card(true, "Wind stick port").state, PortCard::State::waiting);
        QCOMPARE(stage.card(true, "Wind stick port").waiting, 1);
        QCOMPARE(stage.card(false, "North rack").title, QStringLiteral("Storm glass"));
        QCOMPARE(stage.page().board().cards().threads.size(), std::size_t{1});
        // Somebody connects, and the card says so by itself.
        Peer wind("wind", server_->name());
        QTRY_VERIFY(wind.exists("Mellow Lever:Wind stick port"));
        QVERIFY(wind.connect(wind.port("out"), "Mellow Lever:Wind stick port"));
        QTRY_COMPARE(stage.card(true, "Wind stick port").state, PortCard::State::here);
        Peer rack("rack", server_->name());
        QVERIFY(rack.connect("Mellow Lever:North rack", rack.port("in")));
        QVERIFY(stage.card(true, "Wind stick port").where.contains(QStringLiteral("wind:out")));
        QTRY_VERIFY((wind.send({{3, {0xB0, 1, 20}}}),
                     stage.card(true, "Wind stick port")
                         .sentence.contains(QStringLiteral("CC 1 at 20 on channel 1"))));
        stage.click(true, "Wind stick port");
        QCOMPARE(stage.page().controls().index(0, ControlsModel::name).data().toString(),
                 QStringLiteral("Breath"));
        QCOMPARE(stage.page().controls().index(0, ControlsModel::usedBy).data().toString(),
                 QStringLiteral("swell"));
        QTRY_VERIFY(stage.card(false, "North rack").sentence.contains(QStringLiteral("at 20 · Storm glass")));
    }

    void portsAreConnectedHere() {
        Stage stage;
        Peer rack("hall", server_->name());
        stage.click(false, "North rack");
        QTRY_VERIFY(stage.named<QCheckBox>(QStringLiteral("hall:in")) != nullptr);
        stage.named<QCheckBox>(QStringLiteral("hall:in"))->click();
        QTRY_VERIFY(rack.isConnected("Mellow Lever:North rack", "hall:in"));
        QTRY_COMPARE(stage.card(false, "North rack").state, PortCard::State::here);
        QTRY_VERIFY(stage.named<QCheckBox>(QStringLiteral("hall:in"))->isChecked());
        stage.named<QCheckBox>(QStringLiteral("hall:in"))->click();
        QTRY_VERIFY(!rack.isConnected("Mellow Lever:North rack", "hall:in"));
    }

    /// What was connected is gone, and something like it is there: one click uses that.
    void aLikelyMatchIsUsed() {
        Stage stage;
        QTRY_VERIFY(Peer("looker", server_->name()).exists("Mellow Lever:Wind stick port"));
        {
            Peer stick("Wind stick 1", server_->name());
            QVERIFY(stick.connect(stick.port("out"), "Mellow Lever:Wind stick port"));
            QTRY_COMPARE(stage.card(true, "Wind stick port").state, PortCard::State::here);
        }
        QTRY_COMPARE(stage.card(true, "Wind stick port").state, PortCard::State::waiting);
        Peer stick("Wind stick 2", server_->name());
        stage.click(true, "Wind stick port");
        const QString use = QStringLiteral("Use “Wind stick 2:out” instead");
        QTRY_VERIFY(stage.named<QPushButton>(use) != nullptr);
        stage.named<QPushButton>(use)->click();
        QTRY_VERIFY(stick.isConnected(stick.port("out"), "Mellow Lever:Wind stick port"));
        QTRY_VERIFY(stage.named<QPushButton>(use) == nullptr);
        QTRY_COMPARE(stage.card(true, "Wind stick port").state, PortCard::State::here);
    }

    /// A port that is silenced, or a channel that is not heard, moves nothing; the machine remembers it.
    void aPortIsHeardAsFarAsOneWishes() {
        Stage stage;
        Peer wind("wind", server_->name());
        Peer rack("rack", server_->name());
        QTRY_VERIFY(wind.exists("Mellow Lever:Wind stick port"));
        QVERIFY(wind.connect(wind.port("out"), "Mellow Lever:Wind stick port"));
        QVERIFY(wind.connect("Mellow Lever:North rack", rack.port("in")));
        wind.awaitWayTo(rack);
        stage.click(true, "Wind stick port");
        QTRY_VERIFY(stage.named<QCheckBox>(QStringLiteral("Hear it")) != nullptr);
        stage.named<QCheckBox>(QStringLiteral("Hear it"))->click();
        QTRY_COMPARE(stage.card(true, "Wind stick port").state, PortCard::State::silenced);
        wind.send({{3, {0xB0, 1, 20}}});
        QTRY_VERIFY(!wind.sent().empty());
        stage.named<QCheckBox>(QStringLiteral("Hear it"))->click();
        QTRY_COMPARE(stage.card(true, "Wind stick port").state, PortCard::State::here);
        stage.named<QPushButton>(QStringLiteral("2"))->click();
        QTRY_VERIFY(!stage.named<QPushButton>(QStringLiteral("2"))->isChecked());
        wind.send({{3, {0xB1, 1, 30}}, {4, {0xB0, 1, 40}}});
        QTRY_VERIFY(!rack.received().empty());
        QCOMPARE(rack.received()[0].bytes, (std::vector<std::uint8_t>{0xB0, 11, 40}));
        QTRY_COMPARE(Machine().table().filter("Wind stick port").channels, std::uint16_t{0xFFFD});
        stage.named<QPushButton>(QStringLiteral("2"))->click();
        QTRY_COMPARE(Machine().table().filter("Wind stick port"), io::PortFilter{});
    }

    /// The practice keys are silenced as any port is; what they hold ends.
    void thePracticeKeysAreSilenced() {
        Stage stage;
        stage.window->document().edit(
            QStringLiteral("rack"), [](Ensemble& e) { e.instruments[0].output.port = io::practiceRackPort; });
        test::Witness witness(stage.window);
        const auto press = [&stage](std::uint8_t status) {
            stage.window->live().hands().send(midi::shortOf(std::vector<std::uint8_t>{status, 60, 90}));
        };
        // What comes while a document is being replaced is heard by nobody.
        QVERIFY(QTest::qWaitFor([&] { return press(0x80), !witness.in.empty(); }));
        press(0x90);
        QTRY_VERIFY(witness.sent("one", 0x90, 60, 90));
        stage.click(true, "practice-keys");
        const auto heard = [&stage] { return stage.named<QCheckBox>(QStringLiteral("Hear it")); };
        QTRY_VERIFY(heard() != nullptr);
        // It has one channel and no clock.
        QVERIFY(stage.named<QCheckBox>(QStringLiteral("Clock")) == nullptr);
        heard()->click();
        QTRY_VERIFY(witness.sent("one", 0x80, 60));
        witness.out.clear();
        press(0x90);
        press(0x80);
        // What comes behind it, through another port, is heard.
        stage.window->live().hands().sendTo("Wind stick port",
                                            midi::shortOf(std::vector<std::uint8_t>{0xB0, 1, 90}));
        QTRY_VERIFY(witness.sent("one", 0xB0, 11, 90));
        QVERIFY(!witness.sent("one", 0x90, 60));
        heard()->click();
        press(0x90);
        QTRY_VERIFY(witness.sent("one", 0x90, 60, 90));
        press(0x80);
    }

    /// By what the practice rack is heard belongs to this machine: chosen on its port, kept beside the
    /// settings, and no edit of the document.
    void theRackIsHeardThroughWhatIsChosen() {
        Stage stage;
        stage.window->document().edit(
            QStringLiteral("rack"), [](Ensemble& e) { e.instruments[0].output.port = io::practiceRackPort; });
        const int before = stage.window->document().undoStack().count();
        stage.click(false, std::string(io::practiceRackPort).c_str());
        const auto choice = [&stage] {
            return stage.window.pageOf<PortDetails>().findChild<QComboBox*>(QStringLiteral("sound"));
        };
        QTRY_VERIFY(choice() != nullptr);
        QCOMPARE(choice()->currentText(), QStringLiteral("Whichever is there"));
        QStringList offered;
        for (int i = 0; i < choice()->count(); ++i) offered << choice()->itemText(i);
        QVERIFY2(offered.contains(QStringLiteral("JACK")), qPrintable(offered.join(QLatin1Char('|'))));
        QVERIFY2(offered.contains(QStringLiteral("ALSA (not here)")),
                 qPrintable(offered.join(QLatin1Char('|'))));
        choice()->setCurrentIndex(choice()->findData(QStringLiteral("jack")));
        emit choice()->activated(choice()->currentIndex());
        QCOMPARE(stage.window->live().ports().sound(), std::string("jack"));
        QCOMPARE(stage.window->document().undoStack().count(), before);
        // And the next window knows.
        QTRY_COMPARE(io::readMachineTable(QFileInfo(QSettings().fileName()).absolutePath().toStdString() +
                                          "/machine.json")
                         ->sound,
                     std::string("jack"));
        stage.window->live().ports().setSound({});
    }

    void whatAnInstrumentIsToldWhenItIsConnected() {
        Stage stage;
        stage.click(false, "North rack");
        QTRY_VERIFY(stage.window.pageOf<PortDetails>().findChild<QComboBox*>() != nullptr);
        auto* choice = stage.window.pageOf<PortDetails>().findChild<QComboBox*>();
        stage.window.editsOnce([&] {
            choice->setCurrentIndex(2);
            emit choice->activated(2);
        });
        QCOMPARE(static_cast<int>(stage.window.instrument("one").output.onConnect),
                 static_cast<int>(OnConnect::last));
    }

    void aSlowWireIsPacedAndSaysWhenItIsFull() {
        Stage stage;
        Peer wind("wind", server_->name());
        Peer rack("rack", server_->name());
        QTRY_VERIFY(wind.exists("Mellow Lever:Wind stick port"));
        QVERIFY(wind.connect(wind.port("out"), "Mellow Lever:Wind stick port"));
        QVERIFY(wind.connect("Mellow Lever:North rack", rack.port("in")));
        wind.awaitWayTo(rack);
        stage.click(false, "North rack");
        QTRY_VERIFY(stage.window.pageOf<PortDetails>().findChild<QComboBox*>(QStringLiteral("wire")) !=
                    nullptr);
        auto* wire = stage.window.pageOf<PortDetails>().findChild<QComboBox*>(QStringLiteral("wire"));
        wire->setCurrentIndex(1);
        emit wire->activated(1);
        QTRY_COMPARE(Machine().table().rate("North rack"), io::Pacer::dinRate);
        // Forty values at one time, far more than the wire carries in a period: the last arrives, notes in
        // front.
        std::vector<std::pair<jack_nframes_t, std::vector<std::uint8_t>>> burst;
        for (int i = 0; i < 40; ++i) burst.push_back({0, {0xB0, 1, static_cast<std::uint8_t>(i)}});
        burst.push_back({0, {0x90, 60, 90}});
        wind.send(burst);
        const auto heard = [&rack](const std::vector<std::uint8_t>& bytes) {
            const auto received = rack.received();
            return std::any_of(received.begin(), received.end(),
                               [&](const auto& each) { return each.bytes == bytes; });
        };
        QTRY_VERIFY(heard({0xB0, 11, 39}) && heard({0x90, 60, 90}));
        QVERIFY(rack.received().size() <= 4);
        stage.window->live().ports().setRate("North rack", 0);
    }

    /// The motors hear by a port of the controller's own name.
    void motorsAreToldAndThePageSaysWhat() {
        Stage stage;
        stage.click(true, "Wind stick port");
        const auto choice = [&] {
            return stage.window.pageOf<PortDetails>().findChild<QComboBox*>(QStringLiteral("feedback"));
        };
        QTRY_VERIFY(choice() != nullptr);
        QCOMPARE(choice()->currentIndex(), 0);
        QCOMPARE(choice()->itemText(1), QStringLiteral("are told by Wind stick port"));
        emit choice()->activated(1);
        QCOMPARE(stage.window->document().ensemble().controllers[0].feedback, std::string("Wind stick port"));
        Peer motors("motors", server_->name());
        QTRY_VERIFY(motors.exists("Mellow Lever:Wind stick port (out)"));
        QVERIFY(motors.connect("Mellow Lever:Wind stick port (out)", motors.port("in")));
        QTRY_COMPARE(stage.card(false, "Wind stick port").state, PortCard::State::here);
        QCOMPARE(stage.card(false, "Wind stick port").title,
                 QStringLiteral("Motors and lights of Wind stick"));
        auto take = std::make_shared<Take>();
        take->ports = {"Wind stick port"};
        take->add(1000, 0, midi::make(0xB0, 0, 1, 77).bytes());
        take->length = 2000;
        stage.window->live().startTake(take);
        QTRY_COMPARE(motors.received().size(), std::size_t{1});
        QCOMPARE(motors.received()[0].bytes, (std::vector<std::uint8_t>{0xB0, 1, 77}));
        const auto shows = [&](const QString& number) {
            for (const MovingText* text : stage.window.pageOf<PortDetails>().findChildren<MovingText*>()) {
                if (text->text() == number) return true;
            }
            return false;
        };
        QTRY_VERIFY(shows(QStringLiteral("77")));
        // With a latch in the chain there is no way back, and the page says so.
        stage.window->document().edit(QStringLiteral("Latch"), [](Ensemble& e) {
            e.instruments[0].chains[0].steps.push_back(test::step("latch"));
        });
        const auto says = [&](const QString& words) {
            for (const QLabel* label : stage.window.pageOf<PortDetails>().findChildren<QLabel*>()) {
                if (label->isVisible() && label->text().contains(words)) return true;
            }
            return false;
        };
        QTRY_VERIFY(says(QStringLiteral("a step waits or latches")));
        // One undo for each edit, and the port goes with its wish.
        stage.window->document().undoStack().undo();
        stage.window->document().undoStack().undo();
        QVERIFY(stage.window->document().ensemble().controllers[0].feedback.empty());
        QTRY_VERIFY(!motors.exists("Mellow Lever:Wind stick port (out)"));
    }

    /// Fields that take a port's name offer those there are.
    void namesOfPortsAreOffered() {
        Stage stage;
        const QStringList outputs = portNames(stage.window->document(), stage.window->live(), false);
        QCOMPARE(outputs, (QStringList{QStringLiteral("practice-rack"), QStringLiteral("North rack")}));
        const QStringList inputs = portNames(stage.window->document(), stage.window->live(), true);
        QVERIFY(inputs.contains(QStringLiteral("Wind stick port")) && inputs.contains(QStringLiteral("any")));
        // Typing a part of a name shows it, and choosing it is an edit.
        stage.window.select("one", "swell", Part::instrument);
        QLineEdit* field = nullptr;
        for (QLineEdit* each : stage.window->findChildren<QLineEdit*>()) {
            if (each->isVisible() && each->completer() != nullptr && each->text() == QStringLiteral("any"))
                field = each;
        }
        QVERIFY(field != nullptr);
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, QStringLiteral("stick"));
        QTRY_VERIFY(field->completer()->popup()->isVisible());
        QTest::keyClick(field->completer()->popup(), Qt::Key_Down);
        QTRY_COMPARE(field->text(), QStringLiteral("Wind stick port"));
        QTest::keyClick(field->completer()->popup(), Qt::Key_Return);
        QTRY_VERIFY(!field->completer()->popup()->isVisible());
        QTRY_COMPARE(stage.window.instrument("one").input.port, std::string("Wind stick port"));
    }

    /// The card of an instrument and its chains say for whom they wait, until somebody is there.
    void cardsAndChainsSayForWhomTheyWait() {
        Stage stage;
        QTest::keyClick(&*stage.window, Qt::Key_1, Qt::ControlModifier);
        stage.window.select("one", "swell");
        const auto says = [&](const char* words) {
            const QRegularExpression wanted{QString::fromLatin1(words)};
            for (const QListView* list : stage.window->findChildren<QListView*>()) {
                for (int row = 0; list->model() != nullptr && row < list->model()->rowCount(); ++row) {
                    const auto at = list->model()->index(row, 0);
                    for (int role = 0; role < 300; ++role) {
                        if (wanted.match(at.data(role).toString()).hasMatch()) return true;
                    }
                }
            }
            return false;
        };
        QTRY_VERIFY(says("waiting for North rack"));
        Peer rack("rack", server_->name());
        QTRY_VERIFY(rack.exists("Mellow Lever:North rack"));
        QVERIFY(rack.connect("Mellow Lever:North rack", rack.port("in")));
        QTRY_VERIFY(!says("waiting for North rack"));
    }

    void theBoardIsWalkedByKeys() {
        Stage stage;
        auto& board = stage.page().board();
        const auto selected = [&] { return stage.window->selection().on<GearPlace>(); };
        QTest::keyClick(&board, Qt::Key_Down);
        QCOMPARE(selected().port, std::string(io::practiceKeysPort));
        QTest::keyClick(&board, Qt::Key_Down);
        QTest::keyClick(&board, Qt::Key_Down);
        QCOMPARE(selected().port, std::string("Wind stick port"));
        QTest::keyClick(&board, Qt::Key_Right);
        QCOMPARE(selected().port, std::string("North rack"));
        QTest::keyClick(&board, Qt::Key_Left);
        QVERIFY(selected().input);
        // Back on the Chains page the instrument is still selected.
        QTest::keyClick(&*stage.window, Qt::Key_1, Qt::ControlModifier);
        QVERIFY(!stage.page().isVisible());
    }

    void aRenamedPortIsTheLikelyMatch() {
        const std::vector<std::string> there{"system:midi_capture_1", "Wind stick MIDI 2:out", "rack:in"};
        QCOMPARE(likelyMatch("Wind stick MIDI 1:out", there), std::string("Wind stick MIDI 2:out"));
        QCOMPARE(likelyMatch("Wind stick MIDI", there), std::string("Wind stick MIDI 2:out"));
        QCOMPARE(likelyMatch("Four-pedal board", there), std::string());
    }

    /// What was sent to a port is named by the parameter that it is; one that chooses articulations is no
    /// message.
    void anArticulationIsNoMessageOfItsOwn() {
        Window window;
        window->selection().go(GearPlace{false, "practice-rack"});
        window->live().hands().send(midi::make(midi::controlChange, 0, 3, 99));
        const auto names = [&] {
            QStringList all;
            const ControlsModel& model = window.pageOf<GearPage>().controls();
            for (int row = 0; row < model.rowCount(); ++row) all << model.index(row, 0).data().toString();
            return all;
        };
        QTRY_VERIFY(names().contains(QStringLiteral("CC 3")));
    }
};

QTEST_MAIN(GearTest)
#include "gear.moc"
