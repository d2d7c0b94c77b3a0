// JACK ports, for real: a server with the dummy driver is started, a sender and a receiver are connected to
// Mellow Lever's ports, and bytes and frames are compared.
#include "io/ports/jack_ports.h"

#include <QtTest>

#include "io/ports/patchbay.h"
#include "support/build.h"
#include "support/jack.h"

using namespace mellow;
using test::Peer;
using test::Stamped;

namespace {

Ensemble northRack() {
    Instrument one = test::instrument();
    one.input.port = "North keys";
    one.output.port = "North rack";
    one.chains.push_back(test::chain("swell", test::ccSource(1), {},
                                     {test::branch("expression", 0, 127), test::branch("tone", 127, 0)}));
    return test::ensemble({one});
}

/// A player on the server, and a sender and a receiver connected to its ports.
struct Stage {
    io::Player player;
    io::Patchbay patchbay{player};
    io::JackClient client;
    io::JackPorts jack{client};
    std::string us;
    Peer sender, receiver;

    Stage(const Ensemble& ensemble, const std::string& server)
        : client(server), sender("sender", server), receiver("receiver", server) {
        patchbay.add(jack);
        player.play(ensemble);
        jack.want(io::wishesOf(ensemble));
        if (!client.start(patchbay)) qFatal("Mellow Lever does not start on the test's server");
        us = client.name();
        if (!sender.connect(sender.port("out"), us + ":North keys")) qFatal("no port for the sender");
        if (!sender.connect(us + ":North rack", receiver.port("in"))) qFatal("no port for the receiver");
        sender.awaitWayTo(receiver);
    }
};

}  // namespace

class JackTest : public QObject {
    Q_OBJECT

    std::unique_ptr<test::JackServer> server_;
    std::string name_;

 private slots:
    void initTestCase() {
        server_ = std::make_unique<test::JackServer>("mellow-lever-test");
        name_ = server_->name();
    }
    void cleanupTestCase() { server_.reset(); }

    void aMessageLeavesAtTheFrameAtWhichItCame() {
        Stage stage(northRack(), name_);
        stage.sender.send({{5, {0xB0, 1, 64}}, {77, {0x90, 60, 100}}, {127, {0xB0, 1, 127}}});
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{5});
        const auto sent = stage.sender.sent();
        const std::vector<Stamped> wanted{{sent[0].frame, {0xB0, 11, 64}},
                                          {sent[0].frame, {0xB0, 74, 63}},
                                          {sent[1].frame, {0x90, 60, 100}},
                                          {sent[2].frame, {0xB0, 11, 127}},
                                          {sent[2].frame, {0xB0, 74, 0}}};
        QVERIFY(stage.receiver.received() == wanted);
        QVERIFY(stage.client.status().find("48000 Hz") != std::string::npos);
    }

    void sysexPassesWholeWhenTheInstrumentTakesIt() {
        Ensemble ensemble = northRack();
        ensemble.instruments[0].pass.sysex = true;
        Stage stage(ensemble, name_);
        const std::vector<std::uint8_t> sysex{0xF0, 0x7D, 1, 2, 3, 4, 5, 6, 7, 0xF7};
        stage.sender.send({{9, sysex}});
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{1});
        QVERIFY(stage.receiver.received() == stage.sender.sent());
    }

    /// As bridges from cables send it: a SysEx in pieces, running status, a message cut off.
    void whatComesInPiecesIsPutTogether() {
        Ensemble ensemble = northRack();
        ensemble.instruments[0].pass.sysex = true;
        Stage stage(ensemble, name_);
        stage.sender.send({{1, {0xF0, 0x7D, 1, 2}},
                           {2, {3, 4}},
                           {3, {5, 0xF7}},
                           {4, {0x90, 60, 100, 62, 90}},
                           {5, {60, 0}},
                           {6, {0xB0, 1}},
                           {7, {0x80, 62, 64}}});
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{5});
        QStringList messages;
        for (const Stamped& each : stage.receiver.received())
            messages << QString::fromStdString(midi::toHex(each.bytes));
        QCOMPARE(messages,
                 (QStringList{"F0 7D 01 02 03 04 05 F7", "90 3C 64", "90 3E 5A", "90 3C 00", "80 3E 40"}));
    }

    void aSmoothedValueGoesOnByTheClock() {
        Ensemble ensemble = northRack();
        Chain& chain = ensemble.instruments[0].chains[0];
        chain.branches.pop_back();
        chain.steps = {test::step("smooth", {10, 10})};
        chain.steps[0].values[2] = 1;
        Stage stage(ensemble, name_);
        stage.sender.send({{0, {0xB0, 1, 0}}});
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{1});
        stage.sender.send({{0, {0xB0, 1, 127}}});
        // Behind the first value, ten steps of a tenth, a millisecond (48 frames) apart.
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{1 + 10});
        const auto received = stage.receiver.received();
        QCOMPARE(received.back().bytes, (std::vector<std::uint8_t>{0xB0, 11, 127}));
        std::vector<engine::Time> times;
        stage.player.watch([&times](const io::Happening& happening) {
            const bool expression = happening.message.data[0] == 0xB0 && happening.message.data[1] == 11;
            if (happening.out && expression) times.push_back(happening.time);
        });
        QCOMPARE(times.size(), received.size());
        for (std::size_t i = 2; i < times.size(); ++i) QCOMPARE(times[i] - times[i - 1], engine::gridStep);
        for (std::size_t i = 2; i < received.size(); ++i) {
            const auto apart = static_cast<int>(received[i].frame - received[i - 1].frame);
            QVERIFY2(apart >= 47 && apart <= 49, qPrintable(QString::number(apart)));
        }
    }

    void portsComeAndGoWithTheDocument() {
        io::Player player;
        io::Patchbay patchbay(player);
        player.play(northRack());
        io::JackClient client(name_);
        io::JackPorts jack(client);
        patchbay.add(jack);
        jack.want(io::wishesOf(northRack()));
        QVERIFY(static_cast<bool>(client.start(patchbay)));
        Peer peer("peer", name_);
        const std::string us = client.name();
        QTRY_VERIFY(peer.exists(us + ":North rack"));
        Ensemble moved = northRack();
        moved.instruments[0].output.port = "South rack";
        player.play(moved);
        jack.want(io::wishesOf(moved));
        QTRY_VERIFY(peer.exists(us + ":South rack"));
        QVERIFY(!peer.exists(us + ":North rack"));
        QVERIFY(peer.exists(us + ":hands"));
        QVERIFY(peer.connect(peer.port("out"), us + ":North keys"));
        QVERIFY(peer.connect(us + ":South rack", peer.port("in")));
        peer.awaitWayTo(peer);
        peer.send({{3, {0xB0, 1, 10}}});
        QTRY_VERIFY(!peer.received().empty());
        QCOMPARE(peer.received()[0].bytes, (std::vector<std::uint8_t>{0xB0, 11, 10}));
    }

    void whoIsConnectedLateHearsTheNextValueAgain() {
        Stage stage(northRack(), name_);
        Peer late("late", name_);
        stage.sender.send({{0, {0xB0, 1, 64}}});
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{2});
        stage.sender.send({{0, {0xB0, 1, 64}}, {1, {0x90, 60, 1}}});
        QTRY_COMPARE(stage.receiver.received().size(), std::size_t{3});
        QVERIFY(stage.sender.connect(stage.us + ":North rack", late.port("in")));
        stage.sender.awaitWayTo(late);
        stage.sender.send({{0, {0xB0, 1, 64}}});
        QTRY_COMPARE(late.received().size(), std::size_t{2});
        QCOMPARE(late.received()[0].bytes, (std::vector<std::uint8_t>{0xB0, 11, 64}));
    }

    void withoutAServerItSaysSo() {
        io::Player player;
        io::Patchbay patchbay(player);
        io::JackClient client("mellow-no-such-server");
        io::JackPorts jack(client);
        patchbay.add(jack);
        const auto started = client.start(patchbay);
        QVERIFY(!started);
        QVERIFY(started.problem().sentence().find("no server is running") != std::string::npos);
    }

    void aServerThatDiesIsNoticed() {
        io::Player player;
        io::Patchbay patchbay(player);
        player.play(northRack());
        io::JackClient client(name_);
        io::JackPorts jack(client);
        patchbay.add(jack);
        jack.want(io::wishesOf(northRack()));
        QVERIFY(static_cast<bool>(client.start(patchbay)));
        QVERIFY(client.alive());
        server_->kill();
        QTRY_VERIFY_WITH_TIMEOUT(!client.alive(), 10000);
        QCOMPARE(client.status(), std::string("JACK has stopped"));
    }
};

QTEST_GUILESS_MAIN(JackTest)
#include "jack.moc"
