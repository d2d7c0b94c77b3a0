// The player over the loopback backend: what an instrument would receive, while a person edits and plays.
#include "io/player.h"

#include <QtTest>

#include "core/smf/read.h"
#include "io/backend.h"
#include "io/loopback_backend.h"
#include "support/build.h"

using namespace mellow;
using Sent = io::LoopbackBackend::Sent;

namespace {

Ensemble swell() {
    Instrument one = test::instrument();
    one.chains.push_back(test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
    return test::ensemble({one});
}

struct Stage {
    io::Player player;
    io::LoopbackBackend backend;

    explicit Stage(const Ensemble& ensemble) {
        player.play(ensemble);
        if (!backend.start(player)) qFatal("the loopback does not start");
        backend.run(0);
    }
    std::vector<std::string> sentSince(std::size_t from) {
        std::vector<std::string> lines;
        for (std::size_t i = from; i < backend.sent().size(); ++i) {
            const Sent& sent = backend.sent()[i];
            lines.push_back(std::to_string(sent.time) + " " + sent.port + " " + midi::toHex(sent.bytes));
        }
        return lines;
    }
    std::vector<std::string> sent() { return sentSince(0); }
};

using Lines = std::vector<std::string>;

}  // namespace

class PlayerTest : public QObject {
    Q_OBJECT

 private slots:
    void aMessageLeavesInTheCycleItCame() {
        Stage stage(swell());
        stage.backend.run(1500, "keys", {0xB0, 1, 64});
        QCOMPARE(stage.sent(), (Lines{"1500 out B0 0B 40"}));
    }

    void anEditIsHeardWithoutTouchingTheControl() {
        Stage stage(swell());
        stage.backend.run(1000, "keys", {0xB0, 1, 64});
        Ensemble edited = swell();
        edited.instruments[0].chains[0].branches[0].high = 63.0;
        stage.player.play(edited);
        stage.backend.run(2000);
        QCOMPARE(stage.sentSince(1), (Lines{"1000 out B0 0B 20"}));
    }

    void anInstrumentSwitchedOffLetsItsNotesEndAndTakesNoNewOnes() {
        Stage stage(swell());
        stage.backend.run(1000, "keys", {0x90, 60, 100});
        Ensemble off = swell();
        off.instruments[0].on = false;
        stage.player.play(off);
        stage.backend.run(2000, "keys", {0x90, 62, 100});
        stage.backend.run(3000, "keys", {0xB0, 1, 30});
        stage.backend.run(4000, "keys", {0x80, 60, 64});
        stage.backend.run(5000, "keys", {0x80, 62, 64});
        QCOMPARE(stage.sent(), (Lines{"1000 out 90 3C 64", "4000 out 80 3C 40"}));
    }

    void aBranchSwitchedOffSendsNothingAndASkippedStepChangesNothing() {
        Ensemble ensemble = swell();
        Chain& chain = ensemble.instruments[0].chains[0];
        chain.steps.push_back(test::step("reverse"));
        chain.steps[0].on = false;
        chain.branches.push_back(test::branch("tone", 0, 127));
        chain.branches[1].on = false;
        Stage stage(ensemble);
        stage.backend.run(1000, "keys", {0xB0, 1, 100});
        QCOMPARE(stage.sent(), (Lines{"1000 out B0 0B 64"}));
    }

    void practiceKeysArriveAsAPort() {
        Ensemble ensemble = swell();
        ensemble.instruments[0].input.port = io::practiceKeysPort;
        Stage stage(ensemble);
        QVERIFY(stage.player.send(stage.player.portId(io::practiceKeysPort),
                                  midi::make(midi::controlChange, 0, 1, 127)));
        stage.backend.run(1000);
        stage.backend.run(2000, "keys", {0xB0, 1, 5});
        QCOMPARE(stage.sent().size(), std::size_t{1});
        QCOMPARE(stage.backend.sent()[0].bytes, (std::vector<std::uint8_t>{0xB0, 11, 127}));
    }

    void theRackGetsWhatGoesToItsPort() {
        Ensemble ensemble = swell();
        ensemble.instruments[0].output = {std::string(io::practiceRackPort), 3, {}};
        io::Player player;
        std::vector<midi::Short> received;
        player.onRack([&](const midi::Short& message) { received.push_back(message); });
        player.play(ensemble);
        io::LoopbackBackend backend;
        QVERIFY(static_cast<bool>(backend.start(player)));
        backend.run(1000, "keys", {0x90, 60, 1});
        QCOMPARE(received.size(), std::size_t{1});
        QCOMPARE(received[0], midi::make(0x90, 2, 60, 1));
        QVERIFY(backend.sent().empty());
    }

    void aTakeIsPlayedAtItsTimesAndLetsGoWhenStopped() {
        auto take = std::make_shared<Take>();
        take->events = {{1000, midi::make(0x90, 0, 60, 90)},
                        {1500, midi::make(0xB0, 0, 64, 127)},
                        {9000, midi::make(0x80, 0, 60, 64)}};
        take->length = 10000;
        Stage stage(swell());
        stage.backend.run(5000);
        stage.player.startTake(take);
        stage.backend.run(7000);
        QCOMPARE(stage.player.takePosition(), std::int64_t{2000});
        QCOMPARE(stage.sent(), (Lines{"6000 out 90 3C 5A", "6500 out B0 40 7F"}));
        stage.player.stopTake();
        stage.backend.run(8000);
        QCOMPARE(stage.sentSince(2), (Lines{"7000 out 80 3C 40", "7000 out B0 40 00"}));
        QCOMPARE(stage.player.takePosition(), std::int64_t{-1});
    }

    void aTakeThatEndsWithHeldKeysLetsThemGo() {
        auto take = std::make_shared<Take>();
        take->events = {{0, midi::make(0x90, 4, 60, 90)}, {0, midi::makeBend(4, 16000)}};
        take->length = 2000;
        Stage stage(swell());
        stage.player.startTake(take);
        stage.backend.run(5000);
        QCOMPARE(stage.sent().size(), std::size_t{4});
        QVERIFY(stage.sent()[2].ends_with("80 3C 40"));
        QVERIFY(stage.sent()[3].ends_with("E0 00 40"));
    }

    void silenceAllEndsEverythingOnce() {
        Stage stage(swell());
        stage.backend.run(1000, "keys", {0x90, 60, 100});
        stage.player.silenceAll();
        stage.backend.run(2000);
        QCOMPARE(stage.sentSince(1),
                 (Lines{"1000 out 80 3C 40", "1000 out B0 40 00", "1000 out B0 7B 00", "1000 out B0 78 00"}));
        stage.backend.run(3000, "keys", {0x80, 60, 0});
        QCOMPARE(stage.sent().size(), std::size_t{5});
    }

    void manyEditsBetweenCyclesPlayOnlyTheNewest() {
        Stage stage(swell());
        for (int i = 0; i < 200; ++i) {
            Ensemble edited = swell();
            edited.instruments[0].chains[0].branches[0].high = static_cast<double>(i % 128);
            stage.player.play(edited);
        }
        stage.backend.run(1000, "keys", {0xB0, 1, 127});
        QCOMPARE(stage.sent(), (Lines{"1000 out B0 0B 47"}));
        int seen = 0;
        stage.player.watch([&](const io::Happening&) { ++seen; });
        QCOMPARE(seen, 2);
    }

    void aPortThatIsConnectedHearsTheNextValueAgain() {
        Stage stage(swell());
        stage.backend.run(1000, "keys", {0xB0, 1, 64});
        stage.backend.run(2000, "keys", {0xB0, 1, 64});
        QCOMPARE(stage.sent().size(), std::size_t{1});
        stage.player.heardAnew(stage.player.portId("out"));
        stage.backend.run(3000, "keys", {0xB0, 1, 64});
        QCOMPARE(stage.sentSince(1), (Lines{"3000 out B0 0B 40"}));
    }

    void portsAreThoseTheDocumentNamesAndNoneOfOurOwn() {
        Ensemble ensemble = swell();
        ensemble.controllers.push_back({"c", "", "North keys", {}, {}, {}});
        ensemble.instruments.push_back(test::instrument("two"));
        ensemble.instruments[1].output.port = io::practiceRackPort;
        ensemble.instruments[1].input.port = io::practiceKeysPort;
        const io::PortNames names = io::portsOf(ensemble);
        QCOMPARE(names.inputs, (std::vector<std::string>{"hands", "North keys"}));
        QCOMPARE(names.outputs, (std::vector<std::string>{"out"}));
    }

    void theDemoTakeLeavesNothingSounding() {
        const QByteArray file = test::sourceFile(QStringLiteral("data/demo/barometer-falls.mid"));
        const auto reading = smf::read(
            {reinterpret_cast<const std::uint8_t*>(file.constData()), static_cast<std::size_t>(file.size())});
        QVERIFY(static_cast<bool>(reading));
        const auto take = std::make_shared<const Take>(takeFrom(reading->file));
        QVERIFY(take->length > 40'000'000 && take->length < 90'000'000);
        Stage stage(swell());
        stage.player.startTake(take);
        for (std::int64_t time = 0; time <= take->length + 2'000'000; time += 2667) stage.backend.run(time);
        std::map<int, int> sounding;
        for (const Sent& sent : stage.backend.sent()) {
            if (midi::isNoteOn(sent.bytes)) ++sounding[sent.bytes[1]];
            if (midi::isNoteOff(sent.bytes)) sounding[sent.bytes[1]] = 0;
        }
        QVERIFY(sounding.size() > 5);
        for (const auto& [key, count] : sounding) QCOMPARE(count, 0);
    }

    void liftedHandsLetGoOfAllThatTheTakeHeldAndOfNothingElse() {
        Take take;
        take.length = 10000;
        const auto add = [&take](const char* message) {
            take.events.push_back({std::int64_t{1000}, midi::shortOf(test::bytes(message))});
        };
        for (const char* message : {"90 3C 64", "90 3C 64", "91 40 64", "81 40 64", "B0 40 7F", "B0 42 7F",
                                    "B0 43 7F", "B0 45 7F", "B0 07 64", "E0 00 50", "D0 20"})
            add(message);
        Stage stage(test::ensemble({test::instrument()}));
        stage.player.startTake(std::make_shared<const Take>(take));
        stage.backend.run(2000);
        const std::size_t before = stage.backend.sent().size();
        stage.player.stopTake();
        stage.backend.run(3000);
        QCOMPARE(stage.sentSince(before),
                 (Lines{"2000 out 80 3C 40", "2000 out 80 3C 40", "2000 out B0 40 00", "2000 out B0 42 00",
                        "2000 out B0 43 00", "2000 out B0 45 00", "2000 out E0 00 40", "2000 out D0 00"}));
        // Another take begins with empty hands.
        const std::size_t then = stage.backend.sent().size();
        stage.player.startTake(std::make_shared<const Take>(Take{{}, {}, 10000}));
        stage.backend.run(4000);
        stage.player.stopTake();
        stage.backend.run(5000);
        QCOMPARE(stage.sentSince(then), Lines{});
    }

    void keysBeyondWhatCanBeRememberedAreCounted() {
        Stage stage(test::ensemble({test::instrument()}));
        int struck = 0;
        for (const char* port : {"a", "b", "c", "d", "e"}) {
            for (int channel = 0; channel < 16; ++channel) {
                for (std::uint8_t key = 0; key < 128; ++key, ++struck)
                    stage.backend.run(1000, port, {static_cast<std::uint8_t>(0x90 + channel), key, 64});
            }
        }
        const std::size_t sounded = stage.backend.sent().size();
        QCOMPARE(sounded + stage.player.notesRefused(), static_cast<std::size_t>(struck));
        QVERIFY(sounded >= 8192);
        QVERIFY(stage.player.notesRefused() > 0);
    }

    void cyclesInBeatsFollowTheClockOnItsPort() {
        Ensemble ensemble = swell();
        Source square = makeSource(SourceKind::lfo);
        square.values = {4, 1.0, 1.0, 0.0, 2, 1.0};  // one beat, begun again by the start
        ensemble.instruments[0].chains[0].source = square;
        ensemble.tempo = {60, Follow::clock, "keys", {}};
        Stage stage(ensemble);
        stage.backend.run(100000);
        stage.backend.run(100000, "pads", {0xFA});
        stage.backend.run(100000, "keys", {0xFA});
        // Two clocks 12.5 ms apart are 200 beats a minute, from 112.5 ms on; until then a beat was a second.
        // So half a beat is over where 0.0125 + (t − 0.1125)·200/60 = 0.5, at 258.75 ms.
        stage.backend.run(100000, "keys", {0xF8});
        stage.backend.run(112500, "keys", {0xF8});
        stage.backend.run(400000);
        QCOMPARE(stage.sent(), (Lines{"0 out B0 0B 7F", "259000 out B0 0B 00"}));
    }

    void takesThatWerePlayedAreForgotten() {
        Stage stage(swell());
        std::vector<std::weak_ptr<const Take>> takes;
        for (int i = 0; i < 5; ++i) {
            auto take = std::make_shared<const Take>(Take{{}, {}, 1000});
            takes.push_back(take);
            stage.player.startTake(std::move(take));
            stage.backend.run(stage.player.now() + 500);
        }
        stage.player.stopTake();
        stage.backend.run(stage.player.now() + 500);
        stage.player.watch([](const io::Happening&) {});
        for (const auto& take : takes) QVERIFY(take.expired());
    }

    void anEditLeavesThePlanThatPlaysAlone() {
        Stage stage(swell());
        stage.player.watch([](const io::Happening&) {});
        const engine::Program& playing = stage.player.shown();
        const std::size_t ports = playing.plan.numbering.ports.size();
        const engine::PortId late = stage.player.portId("late");
        stage.player.play(swell());
        QCOMPARE(playing.plan.numbering.ports.size(), ports);
        QCOMPARE(stage.player.names().ports.find("late"), std::optional<std::uint32_t>(late));
    }
};

QTEST_APPLESS_MAIN(PlayerTest)
#include "player.moc"
