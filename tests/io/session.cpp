// A session as its users have it: what is handed over is played, what happened can be watched, what is gone
// is replaced; over a real JACK server, and without one.
#include "io/session/session.h"

#include <QElapsedTimer>
#include <QtTest>
#include <set>

#include "io/ports/jack_library.h"
#include "io/sound/sound_systems.h"
#include "support/build.h"
#include "support/jack.h"
#include "support/rack_sound.h"

using namespace mellow;

namespace {

Ensemble northRack() {
    Instrument one = test::instrument();
    one.input.port = "North keys";
    one.output.port = "North rack";
    one.chains.push_back(test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
    return test::ensemble({one});
}

io::Session::Options without() {
    io::Session::Options options;
    options.jack = false;
    options.soundCard = false;
    return options;
}

io::Session::Options jackOf(const test::JackServer& server) {
    io::Session::Options options = without();
    options.jack = true;
    options.server = server.name();
    return options;
}

/// Who asks a stopped server waits longer than this, however fast the machine; who does not ask, never.
constexpr qint64 asked = 3000;  // ms

QElapsedTimer startedTimer() {
    QElapsedTimer timer;
    timer.start();
    return timer;
}

/// What went out since the test began to look, as bytes.
class Watch {
 public:
    explicit Watch(io::Session& session) : session_(session) {}
    const std::vector<std::string>& lines() {
        session_.readings().watch(
            [&](const io::Happening& happening) {
                if (happening.out) lines_.push_back(midi::toHex(happening.message.bytes()));
            },
            [](const io::OscHappening&) {});
        return lines_;
    }

 private:
    io::Session& session_;
    std::vector<std::string> lines_;
};

/// True once there was something to tend.
bool tended(io::Session& session) {
    return QTest::qWaitFor([&session] { return session.tend(); }, 10000);
}

}  // namespace

class SessionTest : public QObject {
    Q_OBJECT

 private slots:
    void withoutAnyServerTheSilentClockDrives() {
        io::Session session(without());
        session.play(northRack());
        session.start();
        Watch watch(session);
        session.hands().sendTo("North keys", midi::make(midi::controlChange, 0, 1, 64));
        QTRY_COMPARE(watch.lines(), std::vector<std::string>{"B0 0B 40"});
        QVERIFY(session.status().front().starts_with("No MIDI ports"));
        session.readings().playsAnother();
        const io::ChainReading reading = session.readings().chain("one", "swell");
        QVERIFY(reading.runs && reading.spoken);
        QCOMPARE(reading.raw, 64);
        QVERIFY(!session.readings().chain("one", "none").runs);
    }

    void theRackOpensAsideAndIsToldOf() {
        io::Session session(without());
        std::atomic<int> told{0};
        session.onChange([&told] { ++told; });
        session.play(northRack());
        session.start();
        QVERIFY(session.rack() == nullptr);
        session.openRack();
        QVERIFY(session.status().back().find("opening") != std::string::npos);
        QTRY_VERIFY(told > 0);
        QVERIFY(session.tend());
        QVERIFY(session.rack() != nullptr);
        QVERIFY(session.status().back().find("opening") == std::string::npos);
    }

    /// In the graph each port is called as people call it, in the order of the document; nothing of it is
    /// left behind in the server's store.
    void portsAreCalledAsInGear() {
        test::JackServer server("mellow-lever-session");
        test::Peer peer("peer", server.name());
        Ensemble ensemble = northRack();
        ensemble.instruments[0].name = "Storm glass";
        Controller keys;
        keys.id = "keys";
        keys.name = "Two-wheel keys";
        keys.port = "North keys";
        ensemble.controllers.push_back(keys);
        jack_uuid_t keysPort = 0;
        {
            io::Session session(jackOf(server));
            session.play(ensemble);
            session.start();
            QTRY_VERIFY((session.tend(), peer.exists("Mellow Lever:North rack")));
            keysPort = peer.uuid("Mellow Lever:North keys");
            QTRY_COMPARE(peer.property(keysPort, JACK_METADATA_PRETTY_NAME), std::string("Two-wheel keys"));
            const auto rack = peer.uuid("Mellow Lever:North rack");
            QTRY_COMPARE(peer.property(rack, JACK_METADATA_PRETTY_NAME), std::string("Storm glass"));
            QVERIFY(std::stoi(peer.property(keysPort, JACK_METADATA_ORDER)) <
                    std::stoi(peer.property(rack, JACK_METADATA_ORDER)));
            QTRY_COMPARE(peer.property(peer.clientUuid("Mellow Lever"), JACK_METADATA_ICON_NAME),
                         std::string("mellow-lever"));
            // Renamed, it is called otherwise at once; without a name it has its own.
            ensemble.instruments[0].name = "Rain glass";
            session.play(ensemble);
            QTRY_COMPARE(peer.property(rack, JACK_METADATA_PRETTY_NAME), std::string("Rain glass"));
            ensemble.controllers.clear();
            session.play(ensemble);
            QTRY_COMPARE(peer.property(keysPort, JACK_METADATA_PRETTY_NAME), std::string());
            keysPort = rack;
        }
        QTRY_VERIFY(!peer.exists("Mellow Lever:North rack"));
        QCOMPARE(peer.property(keysPort, JACK_METADATA_PRETTY_NAME), std::string());
        QCOMPARE(peer.property(keysPort, JACK_METADATA_ORDER), std::string());
    }

    /// By the program's own client of JACK, where that is chosen; by none, where that is; and it survives the
    /// server.
    void theRackIsHeardThroughWhatIsChosen() {
        auto server = std::make_unique<test::JackServer>("mellow-lever-session");
        io::Session::Options options = jackOf(*server);
        options.soundCard = true;
        options.sound = "jack";
        Ensemble ensemble = northRack();
        ensemble.instruments[0].output.port = io::practiceRackPort;
        ensemble.instruments[0].output.channel = 1;
        io::Session session(options);
        session.play(ensemble);
        session.start();
        session.openRack();
        const auto heardThrough = [&session] { return test::heardThrough(session); };
        QTRY_COMPARE(heardThrough(), std::string("jack"));
        {
            test::Peer peer("peer", server->name());
            QTRY_VERIFY((session.tend(), peer.exists("Mellow Lever:rack left")));
            QTRY_VERIFY(peer.isConnected("Mellow Lever:rack left", "system:playback_1"));
            QVERIFY(peer.isConnected("Mellow Lever:rack right", "system:playback_2"));
            // What is struck is rendered by the server's periods, and by nobody else.
            test::Ear ear(server->name());
            QVERIFY(peer.connect("Mellow Lever:rack left", ear.port()));
            session.hands().sendTo("North keys", midi::make(midi::noteOn, 0, 60, 100));
            QTRY_VERIFY_WITH_TIMEOUT(ear.loudest() > 0.01F, 10000);
            session.hearRackThrough("none");
            QTRY_COMPARE(heardThrough(), std::string());
            QTRY_VERIFY(!peer.exists("Mellow Lever:rack left"));
            QCOMPARE(session.rack()->status(), std::string("Practice rack: silent, as was chosen"));
            // Of whichever is there a JACK server that runs is the best.
            session.hearRackThrough({});
            QTRY_COMPARE(heardThrough(), std::string("jack"));
            session.hearRackThrough("jack");
            QTRY_COMPARE(heardThrough(), std::string("jack"));
            QTRY_VERIFY((session.tend(), peer.exists("Mellow Lever:rack left")));
            QVERIFY(io::isAmong(session.soundSystemsThere(), io::jackSound));
        }
        server->kill();
        QTRY_COMPARE_WITH_TIMEOUT(heardThrough(), std::string(), 10000);
        QCOMPARE(session.rack()->status(), std::string("Practice rack: silent, JACK cannot be had"));
        server.reset();
        server = std::make_unique<test::JackServer>("mellow-lever-session");
        QTRY_COMPARE_WITH_TIMEOUT(heardThrough(), std::string("jack"), 10000);
        test::Peer again("again", server->name());
        QTRY_VERIFY((session.tend(), again.exists("Mellow Lever:rack left")));
    }

    /// The server hangs while the rack is heard by it: nobody waits for it.
    void aServerThatHangsDoesNotHoldTheRack() {
        test::JackServer server("mellow-lever-session");
        io::Session::Options options = jackOf(server);
        options.soundCard = true;
        options.sound = "jack";
        {
            io::Session session(options);
            session.play(northRack());
            session.start();
            session.openRack();
            QTRY_VERIFY(
                (session.tend(), session.rack() != nullptr && session.rack()->heardThrough() == "jack"));
            QTRY_VERIFY(
                (session.tend(), test::Peer("looker", server.name()).exists("Mellow Lever:rack left")));
            server.freeze();
            // A server is taken to answer for a moment after its last call.
            QTRY_VERIFY(!session.cabling().jack().answers());
            const QElapsedTimer timer = startedTimer();
            session.hearRackThrough("none");
            QTRY_VERIFY((session.tend(), session.rack()->heardThrough().empty()));
            QVERIFY2(timer.elapsed() < asked, qPrintable(QString::number(timer.elapsed())));
        }
        server.thaw();
    }

    void aSoundfontThatIsNotThereIsSaid() {
        io::Session::Options options = without();
        options.soundfont = "/nowhere/none.sf2";
        io::Session session(options);
        session.start();
        session.openRack();
        QVERIFY(tended(session));
        QVERIFY(session.rackProblem().has_value());
        QVERIFY(session.status().back().find("none.sf2") != std::string::npos);
    }

    void jackDrivesAndTheSilentClockTakesOverWhenItDies() {
        test::JackServer server("mellow-lever-session");
        io::Session::Options options = without();
        options.jack = true;
        options.server = server.name();
        io::Session session(options);
        session.play(northRack());
        session.start();
        QVERIFY(session.status().front().starts_with("JACK: "));
        test::Peer peer("peer", server.name());
        const auto has = [&session](const char* name, bool input) {
            const auto present = session.cabling().present();
            return std::any_of(present.begin(), present.end(), [&](const io::PortState& port) {
                return port.name == name && port.input == input;
            });
        };
        QVERIFY(has("North keys", true) && has("hands", true) && has("North rack", false));
        std::atomic<int> told{0};
        session.onChange([&told] { ++told; });
        server.kill();
        QTRY_VERIFY_WITH_TIMEOUT(told > 0, 10000);
        QTRY_VERIFY_WITH_TIMEOUT((session.tend(), session.status().front().starts_with("No MIDI ports")),
                                 10000);
        QVERIFY(!has("North keys", true));
        // It goes on playing.
        Watch watch(session);
        session.hands().sendTo("North keys", midi::make(midi::controlChange, 0, 1, 99));
        QTRY_COMPARE(watch.lines(), std::vector<std::string>{"B0 0B 63"});
    }

    /// A server that is stopped answers never. Nobody waits for it: what is played is played without it, it
    /// is told of, and when it goes on it drives.
    void aServerThatIsStoppedIsNotWaitedFor() {
        test::JackServer server("mellow-lever-session");
        server.freeze();
        {
            io::Session session(jackOf(server));
            session.play(northRack());
            const QElapsedTimer begun = startedTimer();
            session.start();
            QVERIFY2(begun.elapsed() < asked, qPrintable(QString::number(begun.elapsed())));
            QCOMPARE(session.problems().front().sentence().find("JACK: the server does not answer"),
                     std::size_t{0});
            QCOMPARE(session.status().front(), std::string("No MIDI ports: JACK does not answer"));
            Watch watch(session);
            session.hands().sendTo("North keys", midi::make(midi::controlChange, 0, 1, 99));
            QTRY_COMPARE(watch.lines(), std::vector<std::string>{"B0 0B 63"});
            server.thaw();
            QTRY_VERIFY_WITH_TIMEOUT((session.tend(), session.status().front().starts_with("JACK: ")), 10000);
        }
        // And one that is given up before it answered takes nobody along.
        server.freeze();
        const QElapsedTimer begun = startedTimer();
        {
            io::Session session(jackOf(server));
            session.play(northRack());
            session.start();
            session.finish();
        }
        QVERIFY2(begun.elapsed() < asked, qPrintable(QString::number(begun.elapsed())));
        server.thaw();
        QTRY_VERIFY(!io::isLeavingJack());
    }

    /// The same while it drives: another clock takes over, edits and closing wait for nothing.
    void aServerThatStopsWhileItDrives() {
        test::JackServer server("mellow-lever-session");
        qint64 longest = 0;
        {
            io::Session session(jackOf(server));
            session.play(northRack());
            session.start();
            QVERIFY(session.status().front().starts_with("JACK: "));
            server.freeze();
            const auto timed = [&longest](const auto& act) {
                const QElapsedTimer begun = startedTimer();
                act();
                longest = std::max(longest, begun.elapsed());
            };
            QTRY_VERIFY_WITH_TIMEOUT(
                (timed([&session] { session.tend(); }), !session.status().front().starts_with("JACK: ")),
                10000);
            Ensemble moved = northRack();
            moved.instruments[0].output.port = "South rack";
            timed([&] { session.play(moved); });
            timed([&session] { (void)session.cabling().present(); });
            timed([&session] { session.finish(); });
        }
        QVERIFY2(longest < asked, qPrintable(QString::number(longest)));
        server.thaw();
        QTRY_VERIFY(!io::isLeavingJack());
    }

    /// A server that is killed with keys down and started again: what was connected is connected again,
    /// within a second and without a word from anybody, and nothing that was let go meanwhile sounds on.
    void aServerThatComesBackFindsEverythingAsItWas() {
        auto server = std::make_unique<test::JackServer>("mellow-lever-session");
        io::Session::Options options = without();
        options.jack = true;
        options.server = server->name();
        io::Session session(options);
        session.play(northRack());
        session.start();
        {
            test::Peer peer("peer", server->name());
            QVERIFY(peer.connect(peer.port("out"), "Mellow Lever:North keys"));
            QVERIFY(peer.connect("Mellow Lever:North rack", peer.port("in")));
            peer.awaitWayTo(peer);
            peer.send({{3, {0x90, 60, 90}}});
            QTRY_COMPARE(peer.received().size(), std::size_t{1});
            session.tend();
            QCOMPARE(session.cabling().wires().size(), std::size_t{2});
            server->kill();
            QTRY_VERIFY_WITH_TIMEOUT((session.tend(), session.status().front().starts_with("No MIDI")),
                                     10000);
        }
        Watch gap(session);
        QTRY_VERIFY(!gap.lines().empty() && gap.lines().back() == "80 3C 40");

        server.reset();
        // JACK's library is not to be asked for another client while it forgets one.
        QTRY_VERIFY(!io::isLeavingJack());
        server = std::make_unique<test::JackServer>("mellow-lever-session");
        test::Peer peer("peer", server->name());
        QTRY_VERIFY_WITH_TIMEOUT(
            (session.tend(), peer.exists("Mellow Lever:North rack") &&
                                 peer.isConnected("Mellow Lever:North rack", peer.port("in")) &&
                                 peer.isConnected(peer.port("out"), "Mellow Lever:North keys")),
            10000);
        peer.awaitWayTo(peer);
        peer.send({{5, {0xB0, 1, 100}}});
        QTRY_VERIFY(!peer.received().empty() && peer.received().back().bytes.at(1) == 11);
        std::vector<std::vector<std::uint8_t>> heard;
        for (const auto& each : peer.received()) heard.push_back(each.bytes);
        QCOMPARE(heard,
                 (std::vector<std::vector<std::uint8_t>>{{0xB0, 64, 0}, {0xB0, 123, 0}, {0xB0, 11, 100}}));
    }

    /// Whoever pulls a cable with a key down does not leave it sounding.
    void whoeverLeavesAnInputLetsGoOfItsKeys() {
        test::JackServer server("mellow-lever-session");
        io::Session::Options options = without();
        options.jack = true;
        options.server = server.name();
        io::Session session(options);
        session.play(northRack());
        session.start();
        test::Peer keys("keys", server.name());
        test::Peer rack("rack", server.name());
        QVERIFY(keys.connect(keys.port("out"), "Mellow Lever:North keys"));
        QVERIFY(keys.connect("Mellow Lever:North rack", rack.port("in")));
        keys.awaitWayTo(rack);
        keys.send({{3, {0x90, 60, 90}}, {4, {0xB0, 64, 127}}});
        QTRY_COMPARE(rack.received().size(), std::size_t{2});
        QVERIFY(keys.disconnect(keys.port("out"), "Mellow Lever:North keys"));
        QTRY_COMPARE(rack.received().size(), std::size_t{4});
        QCOMPARE(rack.received()[2].bytes, (std::vector<std::uint8_t>{0x80, 60, 64}));
        QCOMPARE(rack.received()[3].bytes, (std::vector<std::uint8_t>{0xB0, 64, 0}));
        // Nobody's end was gone, so it was a person who took the connection away.
        session.tend();
        QTRY_VERIFY((session.tend(), session.cabling().wires().size() == 1));
        QVERIFY(!keys.isConnected(keys.port("out"), "Mellow Lever:North keys"));
    }

    void aPortThatComesBackIsConnectedAgain() {
        test::JackServer server("mellow-lever-session");
        io::Session::Options options = without();
        options.jack = true;
        options.server = server.name();
        io::Session session(options);
        session.play(northRack());
        session.cabling().rememberWires({{"North keys", "keys:out", true}});
        session.start();
        test::Peer watcher("watcher", server.name());
        for (int times = 0; times < 3; ++times) {
            test::Peer keys("keys", server.name());
            QTRY_VERIFY((session.tend(), watcher.isConnected("keys:out", "Mellow Lever:North keys")));
        }
        QCOMPARE(session.cabling().wires().size(), std::size_t{1});
    }

    /// What goes out comes back in: it is cut and named, nothing hangs, and what others play is heard on.
    void aLoopIsCutAndNamed() {
        test::JackServer server("mellow-lever-session");
        io::Session::Options options = without();
        options.jack = true;
        options.server = server.name();
        io::Session session(options);
        session.play(northRack());
        session.start();
        test::Peer keys("keys", server.name());
        test::Peer rack("rack", server.name());
        QVERIFY(keys.connect("Mellow Lever:North rack", rack.port("in")));
        QVERIFY(keys.connect(keys.port("out"), "Mellow Lever:North keys"));
        keys.awaitWayTo(rack);
        QVERIFY(keys.connect("Mellow Lever:North rack", "Mellow Lever:North keys"));
        std::vector<std::string> cut;
        const bool found = QTest::qWaitFor(
            [&] {
                keys.send({{3, {0x90, 60, 90}}, {40, {0x80, 60, 64}}});
                cut = session.readings().loopsCut();
                return !cut.empty();
            },
            10000);
        QVERIFY(found);
        QCOMPARE(cut.front(),
                 std::string("What goes to North rack comes back in through North keys; what comes back "
                             "is not played"));
        // It has come to rest, with nothing sounding.
        std::size_t before = 0;
        QTRY_VERIFY(
            (QTest::qWait(50), std::exchange(before, rack.received().size()) == rack.received().size()));
        std::set<std::uint8_t> sounding;
        for (const auto& each : rack.received()) {
            if (midi::isNoteOn(each.bytes)) sounding.insert(each.bytes[1]);
            if (midi::isNoteOff(each.bytes)) sounding.erase(each.bytes[1]);
        }
        QVERIFY(sounding.empty());
        keys.send({{3, {0x90, 64, 90}}});
        QTRY_VERIFY(rack.received().back().bytes == (std::vector<std::uint8_t>{0x90, 64, 90}));
        // Another that goes the same way comes after all that the first could have caused.
        keys.send({{3, {0x80, 64, 64}}});
        QTRY_VERIFY(midi::isNoteOff(rack.received().back().bytes));
        QCOMPARE(rack.received().size(), before + 2);
    }

    /// Another program leads: its tempo is in force as soon as it has one.
    void theTransportOfTheServerIsFollowed() {
        test::JackServer server("mellow-lever-session");
        io::Session::Options options = without();
        options.jack = true;
        options.server = server.name();
        io::Session session(options);
        Ensemble ensemble = northRack();
        ensemble.tempo.follow = Follow::transport;
        ensemble.tempo.bpm = 100;
        session.play(ensemble);
        session.start();
        QTRY_COMPARE(session.readings().tempo(), 100.0);
        jack_client_t* leader =
            jack_client_open("leader", static_cast<jack_options_t>(JackNoStartServer | JackServerName),
                             nullptr, server.name().c_str());
        QVERIFY(leader != nullptr);
        jack_set_timebase_callback(
            leader, 0,
            [](jack_transport_state_t, jack_nframes_t, jack_position_t* position, int, void*) {
                position->valid = JackPositionBBT;
                position->beats_per_minute = 84;
                position->bar = position->beat = 1;
                position->tick = 0;
                position->beats_per_bar = position->beat_type = 4;
                position->ticks_per_beat = 960;
                position->bar_start_tick = 0;
            },
            nullptr);
        jack_activate(leader);
        jack_transport_start(leader);
        QTRY_COMPARE(session.readings().tempo(), 84.0);
        jack_client_close(leader);
    }

    /// Ending silences first, and is heard.
    void finishingLeavesNothingSounding() {
        test::JackServer server("mellow-lever-session");
        io::Session::Options options = without();
        options.jack = true;
        options.server = server.name();
        auto session = std::make_unique<io::Session>(options);
        session->play(northRack());
        session->start();
        test::Peer peer("peer", server.name());
        QVERIFY(peer.connect("Mellow Lever:North rack", peer.port("in")));
        QVERIFY(peer.connect(peer.port("out"), "Mellow Lever:North keys"));
        peer.awaitWayTo(peer);
        peer.send({{3, {0x90, 60, 90}}});
        QTRY_COMPARE(peer.received().size(), std::size_t{1});
        session.reset();
        QTRY_VERIFY(peer.received().size() >= 2);
        QCOMPARE(peer.received()[1].bytes, (std::vector<std::uint8_t>{0x80, 60, 64}));
    }

    /// What is shown of a chain follows each edit at once; it never reads as if it did not run.
    void aChainReadsOnThroughEdits() {
        io::Session session(without());
        Ensemble ensemble = northRack();
        session.play(ensemble);
        session.start();
        Watch watch(session);
        session.hands().sendTo("North keys", midi::make(midi::controlChange, 0, 1, 64));
        QTRY_COMPARE(watch.lines(), std::vector<std::string>{"B0 0B 40"});
        for (double high = 100; high < 110; ++high) {
            ensemble.instruments[0].chains[0].branches[0].high = high;
            session.play(ensemble);
            QVERIFY(session.readings().chain("one", "swell").runs);
            QTRY_VERIFY(!watch.lines().empty() && session.readings().playsNewest());
            const io::ChainReading reading = session.readings().chain("one", "swell");
            QVERIFY(reading.runs && reading.spoken);
            QCOMPARE(reading.raw, 64);
            QVERIFY(session.readings().playsAnother());
            QVERIFY(!session.readings().playsAnother());
        }
    }

    void aTakeAndTheTapGoThroughIt() {
        io::Session session(without());
        session.play(northRack());
        session.start();
        auto take = std::make_shared<Take>();
        take->ports = {"North keys"};
        take->add(0, 0, midi::make(midi::controlChange, 0, 1, 7).bytes());
        take->length = 1000;
        Watch watch(session);
        session.startTake(take);
        QTRY_COMPARE(watch.lines(), std::vector<std::string>{"B0 0B 07"});
        std::vector<std::string> seen;
        session.drainTap([&](const io::Tap::Seen& each) {
            seen.push_back(session.readings().portName(each.port) + " " + midi::toHex(each.bytes));
        });
        QCOMPARE(seen, std::vector<std::string>{"North keys B0 01 07"});
        QTRY_COMPARE(session.readings().takePosition(), std::int64_t{-1});
        QCOMPARE(session.tapLost(), std::uint64_t{0});
    }
};

QTEST_GUILESS_MAIN(SessionTest)
#include "session.moc"
