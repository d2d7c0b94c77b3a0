// The window over a real JACK server: hands on a port move the page, results leave through ports, and a
// server that dies leaves the practice keys working.
#include <QCompleter>
#include <filesystem>

#include "app/acts/details/port_offers.h"
#include "app/pages/desk/desk_page.h"
#include "app/pages/desk/surfaces.h"
#include "support/jack.h"
#include "support/touch.h"
#include "support/window.h"

using namespace mellow;
using test::Peer;
using test::Window;

namespace {

constexpr const char* serverName = "mellow-lever-window-test";

/// The Glass harmonium alone, behind a port that comes and goes with the document.
void playThroughNorthRack(Window& window) {
    window->document().edit(QStringLiteral("North rack"), [](Ensemble& e) {
        e.instruments.resize(1);
        e.instruments[0].output.port = "North rack";
    });
}

QString status(Window& window) {
    return window.find<app::PortsPill>("ports")->sentences();
}

}  // namespace

class OverJackTest : public QObject {
    Q_OBJECT

    std::unique_ptr<test::JackServer> server_;

 private slots:
    void initTestCase() {
        qputenv("JACK_DEFAULT_SERVER", serverName);
        server_ = std::make_unique<test::JackServer>(serverName);
    }
    void cleanupTestCase() { server_.reset(); }

    void handsOnAPortMoveThePageAndResultsLeaveThroughOne() {
        Window window(test::overJack());
        playThroughNorthRack(window);
        QTRY_VERIFY2(status(window).startsWith(QStringLiteral("JACK: 2 in, 1 out, 48000 Hz, 128 frames")),
                     qPrintable(status(window)));
        Peer hands("hands", serverName), rack("rack", serverName);
        QVERIFY(hands.connect(hands.port("out"), "Mellow Lever:hands"));
        QVERIFY(hands.connect("Mellow Lever:North rack", rack.port("in")));
        hands.awaitWayTo(rack);
        hands.send({{0, {0xB0, 1, 127}}, {0, {0x90, 60, 100}}});
        QTRY_COMPARE(window.page().lever().targetRails()[0]->content().valueText, QStringLiteral("127"));
        QCOMPARE(window.page().lever().targetRails()[1]->content().valueText, QStringLiteral("10"));
        QTRY_COMPARE(rack.received().size(), std::size_t{5});
        QCOMPARE(rack.received()[0].bytes, (std::vector<std::uint8_t>{0xB0, 11, 127}));
        QCOMPARE(rack.received()[4].bytes, (std::vector<std::uint8_t>{0x90, 60, 100}));
        QVERIFY(window->practiceKeys().keyboard().isDown(60));

        // Silence all reaches the port too, and so does an edit.
        window.click("silence");
        QTRY_VERIFY(rack.received().size() >= 9);
        QCOMPARE(rack.received()[5].bytes, (std::vector<std::uint8_t>{0x80, 60, 64}));
        const std::size_t before = rack.received().size();
        window->document().edit(QStringLiteral("Reach"),
                                [](Ensemble& e) { e.instruments[0].chains[0].branches[0].high = 100.0; });
        QTRY_VERIFY(rack.received().size() > before);
        QCOMPARE(rack.received()[before].bytes, (std::vector<std::uint8_t>{0xB0, 11, 100}));
    }

    /// Where an instrument plays is chosen from what is there: that connects it, and is known to the machine.
    void whatIsThereIsChosenAndConnected() {
        std::string path;
        {
            Window window(test::overJack());
            playThroughNorthRack(window);
            QTRY_VERIFY(status(window).startsWith(QStringLiteral("JACK: ")));
            Peer attic("attic", serverName);
            window.select("glass", "swell", app::Part::instrument);
            QLineEdit* field = nullptr;
            for (QLineEdit* each : window->findChildren<QLineEdit*>()) {
                if (each->isVisible() && each->text() == QStringLiteral("North rack")) field = each;
            }
            QVERIFY(field != nullptr);
            QTRY_VERIFY(app::portNames(window->document(), window->live(), false)
                            .contains(QStringLiteral("attic:in")));
            QTest::keyClick(field, Qt::Key_Down);
            QTRY_VERIFY(field->completer()->popup()->isVisible());
            field->completer()->popup()->close();
            field->setFocus();
            field->selectAll();
            QTest::keyClicks(field, QStringLiteral("attic:in"));
            QTest::keyClick(field, Qt::Key_Return);
            QTRY_VERIFY2(window.instrument("glass").output.port == "attic",
                         window.instrument("glass").output.port.c_str());
            QTRY_VERIFY(attic.isConnected("Mellow Lever:attic", "attic:in"));
            const io::Wire wire{"attic", "attic:in"};
            const auto isKnown = [&wire](const std::vector<io::Wire>& wires) {
                return std::find(wires.begin(), wires.end(), wire) != wires.end();
            };
            QTRY_VERIFY(isKnown(window->live().ports().wires()));
            // The same once more is the same port; and a name of one's own stays what it is.
            const Ensemble& now = window.ensemble();
            QCOMPARE(app::portFor("attic:in", window->live(), now, false).name, std::string("attic"));
            QVERIFY(!app::portFor("attic:in", window->live(), now, false).wire);
            QCOMPARE(app::portFor("Loft", window->live(), now, false).name, std::string("Loft"));
            QVERIFY(!app::portFor("Loft", window->live(), now, false).wire);
            path = QFileInfo(QSettings().fileName()).absolutePath().toStdString() + "/machine.json";
            window->document().undoStack().undo();
            QCOMPARE(window.instrument("glass").output.port, std::string("North rack"));
        }
        const auto table = io::readMachineTable(path);
        QVERIFY(table);
        QVERIFY(std::find(table->wires.begin(), table->wires.end(), io::Wire{"attic", "attic:in"}) !=
                table->wires.end());
        QVERIFY(std::filesystem::remove(path));
    }

    /// A finger on the pad moves what the hand leads to, out of a port; and so does who is chosen by a
    /// section.
    void aFingerOnTheDeskLeavesThroughAPort() {
        Window window(test::overJack());
        playThroughNorthRack(window);
        QTRY_VERIFY(status(window).startsWith(QStringLiteral("JACK: ")));
        Peer hands("hands", serverName), rack("rack", serverName);
        QVERIFY(hands.connect(hands.port("out"), "Mellow Lever:hands"));
        QVERIFY(hands.connect("Mellow Lever:North rack", rack.port("in")));
        hands.awaitWayTo(rack);
        window->selection().go(app::DeskPlace{"glass"});
        auto& pad = dynamic_cast<app::PadSurface&>(
            *window.pageOf<app::DeskPageView>().board().surface("weather-hand"));
        QPointingDevice* screen = test::touchScreen();
        const QRectF area = pad.area();
        QTest::touchEvent(&pad, screen).press(0, area.center().toPoint());
        QTest::touchEvent(&pad, screen).move(0, QPointF(area.center().x(), area.top()).toPoint());
        // Dynamics is CC 20.
        const auto isLoudest = [](const test::Stamped& each) {
            return each.bytes == std::vector<std::uint8_t>{0xB0, 20, 127};
        };
        QTRY_VERIFY([&] {
            const auto all = rack.received();
            return std::any_of(all.begin(), all.end(), isLoudest);
        }());
        QTest::touchEvent(&pad, screen).release(0, QPointF(area.center().x(), area.top()).toPoint());
    }

    /// Another program moves and starts the transport: the take is there, with what stood before, and each of
    /// its messages leaves at the frame of the transport at which it was played. And the page leads it.
    void aTakeIsWhereTheTransportIs() {
        Window window(test::overJack());
        playThroughNorthRack(window);
        window->selection().go(app::TakePlace{});
        app::TakeWork& work = window->takes();
        Take take;
        take.add(100'000, take.portNumber("practice-keys"),
                 midi::make(midi::controlChange, 0, 2, 55).bytes());
        for (int i = 0; i < 40; ++i)
            take.add(3'000'000 + i * 50'000, 0, midi::make(midi::controlChange, 0, 3, i).bytes());
        take.length = 6'000'000;
        constexpr std::int64_t start = 5'000'000;
        QVERIFY(work.changing.add(QStringLiteral("Add"), QStringLiteral("Steps"), take, start));
        QTRY_VERIFY(status(window).startsWith(QStringLiteral("JACK: ")));
        Peer rack("rack", serverName);
        QVERIFY(rack.connect("Mellow Lever:North rack", rack.port("in")));
        jack_client_t* other = jack_client_open(
            "other", static_cast<jack_options_t>(JackNoStartServer | JackServerName), nullptr, serverName);
        QVERIFY(other != nullptr);
        work.playing.setLeader(app::TakePlaying::Leader::transport);
        jack_transport_locate(other, 48 * 5500);
        QTRY_VERIFY(std::abs(work.playing.position() - 500'000) < 50);
        jack_transport_start(other);
        const auto steps = [&rack] {
            std::vector<std::pair<std::uint64_t, int>> found;
            for (const test::Stamped& each : rack.received()) {
                if (each.bytes[0] == 0xB0 && each.bytes[1] == 3)
                    found.emplace_back(each.frame, each.bytes[2]);
            }
            return found;
        };
        QTRY_VERIFY_WITH_TIMEOUT(steps().size() >= 20, 20000);
        QVERIFY(work.playing.isPlaying());
        // What stood at half a second was said first.
        const auto heard = rack.received();
        QVERIFY(std::any_of(heard.begin(), heard.end(), [](const test::Stamped& each) {
            return each.bytes == std::vector<std::uint8_t>{0xB0, 2, 55};
        }));
        const auto found = steps();
        for (std::size_t i = 1; i < found.size(); ++i) {
            QCOMPARE(found[i].second, found[0].second + static_cast<int>(i));
            QCOMPARE(found[i].first - found[0].first, static_cast<std::uint64_t>(i) * 2400);
        }
        jack_transport_stop(other);
        QTRY_VERIFY(!work.playing.isPlaying());
        // The page leads.
        work.playing.locate(3'000'000);
        jack_position_t position{};
        QTRY_VERIFY((jack_transport_query(other, &position), position.frame == 48U * 8000));
        work.playing.play();
        QTRY_COMPARE(jack_transport_query(other, nullptr), JackTransportRolling);
        QTRY_VERIFY(work.playing.isPlaying());
        work.playing.stop();
        QTRY_COMPARE(jack_transport_query(other, nullptr), JackTransportStopped);
        jack_client_close(other);
    }

    /// A keyboard says over its port what its zone is; then the finger of its newest note moves an instrument
    /// that knows one channel only, and another gets the channels as they are.
    void aFingerOfAZoneComesThroughAPort() {
        Window window(test::overJack());
        playThroughNorthRack(window);
        window->document().edit(QStringLiteral("Fingers"), [](Ensemble& e) {
            Instrument& one = e.instruments[0];
            one.articulations.clear();
            Chain chain = one.chains[0];
            chain.source = makeSource(SourceKind::zoneNote);
            chain.source.values[0] = static_cast<int>(Finger::pressure);
            chain.steps.clear();
            chain.branches.resize(1);
            chain.branches[0].low = 0.0;
            chain.branches[0].high = 127.0;
            one.chains = {chain};
            Instrument other = one;
            other.id = "other";
            other.chains.clear();
            other.output.keepChannels = true;
            e.instruments.push_back(other);
        });
        QTRY_VERIFY(status(window).startsWith(QStringLiteral("JACK: ")));
        Peer hands("hands", serverName), rack("rack", serverName);
        QVERIFY(hands.connect(hands.port("out"), "Mellow Lever:hands"));
        QVERIFY(hands.connect("Mellow Lever:North rack", rack.port("in")));
        hands.awaitWayTo(rack);
        hands.send({{0, {0xB0, 101, 0}},
                    {1, {0xB0, 100, 6}},
                    {2, {0xB0, 6, 4}},
                    {3, {0x92, 60, 100}},
                    {4, {0xD2, 77}}});
        const auto came = [&rack](std::vector<std::uint8_t> bytes) {
            const auto all = rack.received();
            return std::any_of(all.begin(), all.end(),
                               [&bytes](const test::Stamped& each) { return each.bytes == bytes; });
        };
        QTRY_VERIFY(came({0xB0, 11, 77}));
        QVERIFY(came({0x90, 60, 100}) && came({0x92, 60, 100}) && came({0xD2, 77}));
        QVERIFY(!came({0xD0, 77}));
    }

    void aServerThatDiesLeavesThePracticeKeysWorking() {
        Window window(test::overJack());
        QTRY_VERIFY(status(window).startsWith(QStringLiteral("JACK: ")));
        server_->kill();
        QTRY_VERIFY_WITH_TIMEOUT(status(window).startsWith(QStringLiteral("No MIDI ports")), 30000);
        window->live().hands().send(midi::make(midi::controlChange, 0, 1, 127));
        QTRY_COMPARE(window.page().lever().targetRails()[0]->content().valueText, QStringLiteral("127"));
    }
};

QTEST_MAIN(OverJackTest)
#include "over_jack.moc"
