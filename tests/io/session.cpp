// A session as its users have it: what is handed over is played, what happened can be watched, what is gone
// is replaced; over a real JACK server, and without one.
#include "io/session/session.h"

#include <QtTest>

#include "support/build.h"
#include "support/jack.h"

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

/// What went out since the test began to look, as bytes.
class Watch {
 public:
    explicit Watch(io::Session& session) : session_(session) {}
    const std::vector<std::string>& lines() {
        session_.watch(
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
        session.sendTo("North keys", midi::make(midi::controlChange, 0, 1, 64));
        QTRY_COMPARE(watch.lines(), std::vector<std::string>{"B0 0B 40"});
        QVERIFY(session.status().front().starts_with("No MIDI ports"));
        session.playsAnother();
        const io::ChainReading reading = session.reading("one", "swell");
        QVERIFY(reading.runs && reading.spoken);
        QCOMPARE(reading.raw, 64);
        QVERIFY(!session.reading("one", "none").runs);
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
            const auto present = session.present();
            return std::any_of(present.begin(), present.end(), [&](const io::PortState& port) {
                return port.name == name && port.input == input;
            });
        };
        QVERIFY(has("North keys", true) && has("hands", true) && has("North rack", false));
        std::atomic<int> told{0};
        session.onChange([&told] { ++told; });
        server.kill();
        QTRY_VERIFY_WITH_TIMEOUT(told > 0, 10000);
        QVERIFY(tended(session));
        QVERIFY(session.status().front().starts_with("No MIDI ports"));
        QVERIFY(!has("North keys", true));
        // It goes on playing.
        Watch watch(session);
        session.sendTo("North keys", midi::make(midi::controlChange, 0, 1, 99));
        QTRY_COMPARE(watch.lines(), std::vector<std::string>{"B0 0B 63"});
    }

    /// What is shown of a chain follows each edit at once; it never reads as if it did not run.
    void aChainReadsOnThroughEdits() {
        io::Session session(without());
        Ensemble ensemble = northRack();
        session.play(ensemble);
        session.start();
        Watch watch(session);
        session.sendTo("North keys", midi::make(midi::controlChange, 0, 1, 64));
        QTRY_COMPARE(watch.lines(), std::vector<std::string>{"B0 0B 40"});
        for (double high = 100; high < 110; ++high) {
            ensemble.instruments[0].chains[0].branches[0].high = high;
            session.play(ensemble);
            QVERIFY(session.reading("one", "swell").runs);
            QTRY_VERIFY(!watch.lines().empty() && session.playsNewest());
            const io::ChainReading reading = session.reading("one", "swell");
            QVERIFY(reading.runs && reading.spoken);
            QCOMPARE(reading.raw, 64);
            QVERIFY(session.playsAnother());
            QVERIFY(!session.playsAnother());
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
            seen.push_back(session.portName(each.port) + " " + midi::toHex(each.bytes));
        });
        QCOMPARE(seen, std::vector<std::string>{"North keys B0 01 07"});
        QTRY_COMPARE(session.takePosition(), std::int64_t{-1});
        QCOMPARE(session.tapLost(), std::uint64_t{0});
    }
};

QTEST_GUILESS_MAIN(SessionTest)
#include "session.moc"
