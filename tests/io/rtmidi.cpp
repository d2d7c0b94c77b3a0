// Ports by RtMidi, on a real JACK server in place of a sequencer: what comes in is played and what leaves
// arrives, whichever port comes first, and what is pulled out lets go of its keys.
#include "io/ports/rtmidi_ports.h"

#include <QtTest>

#include "io/clocks/silent_clock.h"
#include "io/ports/patchbay.h"
#include "support/build.h"
#include "support/jack.h"

using namespace mellow;

namespace {

Ensemble northRack() {
    Instrument one = test::instrument();
    one.input.port = "keys:out";
    one.output.port = "rack:in";
    one.chains.push_back(test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
    return test::ensemble({one});
}

using Bytes = std::vector<std::uint8_t>;

/// A player with ports by RtMidi and the silent clock.
struct Stage {
    io::Player player;
    io::Patchbay patchbay{player};
    io::RtMidiPorts ports{RtMidi::UNIX_JACK};
    io::SilentClock clock;

    Stage() {
        patchbay.add(ports);
        player.play(northRack());
        patchbay.want(io::wishesOf(northRack()));
        if (!clock.start(patchbay)) qFatal("the silent clock does not start");
    }
    ~Stage() { clock.stop(); }
    bool has(const char* name) {
        patchbay.tend();
        const auto present = ports.present();
        return std::any_of(present.begin(), present.end(),
                           [&](const auto& port) { return port.name == name; });
    }
};

std::vector<Bytes> heard(test::Peer& peer) {
    std::vector<Bytes> all;
    for (const auto& each : peer.received()) all.push_back(each.bytes);
    return all;
}

}  // namespace

class RtMidiTest : public QObject {
    Q_OBJECT

    std::unique_ptr<test::JackServer> server_;

 private slots:
    void initTestCase() {
        server_ = std::make_unique<test::JackServer>("mellow-lever-rtmidi");
        qputenv("JACK_DEFAULT_SERVER", QByteArray::fromStdString(server_->name()));
    }
    void cleanupTestCase() { server_.reset(); }

    void whatComesInIsPlayedAndWhatLeavesArrives() {
        test::Peer keys("keys", server_->name());
        test::Peer rack("rack", server_->name());
        Stage stage;
        QTRY_VERIFY(stage.has("keys:out") && stage.has("rack:in"));
        keys.awaitWayTo(rack);
        keys.send({{3, {0xB0, 1, 100}}, {4, {0x90, 60, 90}}, {5, {0x80, 60, 64}}});
        QTRY_COMPARE(heard(rack), (std::vector<Bytes>{{0xB0, 11, 100}, {0x90, 60, 90}, {0x80, 60, 64}}));
    }

    /// Whoever comes first waits for the other; what goes and comes back works again.
    void portsComeAndGo() {
        Stage stage;
        QVERIFY(!stage.has("keys:out"));
        test::Peer rack("rack", server_->name());
        {
            test::Peer keys("keys", server_->name());
            QTRY_VERIFY(stage.has("keys:out") && stage.has("rack:in"));
            keys.awaitWayTo(rack);
            keys.send({{3, {0x90, 60, 90}}});
            QTRY_COMPARE(heard(rack), (std::vector<Bytes>{{0x90, 60, 90}}));
        }
        // The keyboard was pulled out with its key down.
        QTRY_VERIFY(!stage.has("keys:out"));
        QTRY_COMPARE(heard(rack), (std::vector<Bytes>{{0x90, 60, 90}, {0x80, 60, 64}}));
        test::Peer keys("keys", server_->name());
        QTRY_VERIFY(stage.has("keys:out"));
        keys.awaitWayTo(rack);
        keys.send({{3, {0xB0, 1, 64}}});
        QTRY_COMPARE(heard(rack).back(), (Bytes{0xB0, 11, 64}));
    }

    /// What the document calls otherwise than this machine does is led to by a person, once.
    void aNameLeadsToAPortThatIsCalledOtherwise() {
        Stage stage;
        test::Peer keys("keys-2", server_->name());
        test::Peer rack("rack", server_->name());
        QTRY_VERIFY(stage.has("rack:in"));
        QVERIFY(!stage.has("keys:out"));
        const io::Wire wire{"keys:out", "keys-2:out", true, "ALSA"};
        stage.ports.lead(wire);
        QVERIFY(stage.has("keys:out"));
        QCOMPARE(stage.ports.leads().size(), std::size_t{1});
        keys.awaitWayTo(rack);
        keys.send({{3, {0xB0, 1, 100}}});
        QTRY_COMPARE(heard(rack), (std::vector<Bytes>{{0xB0, 11, 100}}));
        stage.ports.leadNoMore(wire);
        QVERIFY(!stage.has("keys:out"));
    }

    /// An instrument that comes back is silenced, since it may have missed the end of a note.
    void anInstrumentThatComesBackIsSilenced() {
        Stage stage;
        test::Peer keys("keys", server_->name());
        {
            test::Peer rack("rack", server_->name());
            QTRY_VERIFY(stage.has("keys:out") && stage.has("rack:in"));
            keys.awaitWayTo(rack);
            keys.send({{3, {0x90, 60, 90}}});
            QTRY_COMPARE(heard(rack).size(), std::size_t{1});
        }
        QTRY_VERIFY(!stage.has("rack:in"));
        test::Peer rack("rack", server_->name());
        QTRY_VERIFY(stage.has("rack:in"));
        QTRY_COMPARE(heard(rack), (std::vector<Bytes>{{0xB0, 64, 0}, {0xB0, 123, 0}}));
    }

    void sysExGoesThroughWhole() {
        Ensemble ensemble = northRack();
        ensemble.instruments[0].pass.sysex = true;
        Stage stage;
        stage.player.play(ensemble);
        test::Peer keys("keys", server_->name());
        test::Peer rack("rack", server_->name());
        QTRY_VERIFY(stage.has("keys:out") && stage.has("rack:in"));
        keys.awaitWayTo(rack);
        Bytes dump(300, 0x11);
        dump.front() = 0xF0;
        dump.back() = 0xF7;
        keys.send({{3, dump}});
        QTRY_COMPARE(heard(rack), std::vector<Bytes>{dump});
        QCOMPARE(stage.ports.lost(), std::uint64_t{0});
    }

    void namesAreSteady() {
        QCOMPARE(io::steadyName("North keys:North keys MIDI 1 20:0"),
                 std::string("North keys:North keys MIDI 1"));
        QCOMPARE(io::steadyName("keys:out"), std::string("keys:out"));
    }

    void withoutASequencerItSaysSo() {
        if (QFile::exists(QStringLiteral("/dev/snd/seq"))) QSKIP("there is a sequencer here");
        io::Player player;
        io::RtMidiPorts ports;
        ports.join(player);
        ports.want({{"keys"}, {}});
        QCOMPARE(ports.problems().size(), std::size_t{1});
        QVERIFY(ports.problems()[0].sentence().find("there is no sequencer") != std::string::npos);
        QVERIFY(ports.present().empty());
    }
};

QTEST_GUILESS_MAIN(RtMidiTest)
#include "rtmidi.moc"
