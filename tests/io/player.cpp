// The player over the loopback: what an instrument would receive, while a person edits and plays.
#include "io/playing/player.h"

#include <QtTest>
#include <atomic>
#include <set>
#include <thread>

#include "core/smf/read.h"
#include "io/ports/loopback.h"
#include "io/recording/recorder.h"
#include "support/build.h"

using namespace mellow;
using Sent = io::Loopback::Sent;

namespace {

Ensemble swell() {
    Instrument one = test::instrument();
    one.chains.push_back(test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
    return test::ensemble({one});
}

struct Stage {
    io::Player player;
    io::Patchbay patchbay{player};
    io::Loopback loopback;

    explicit Stage(const Ensemble& ensemble) {
        patchbay.add(loopback);
        player.play(ensemble);
        if (!loopback.start(patchbay)) qFatal("the loopback does not start");
        loopback.run(0);
    }
    std::vector<std::string> sentSince(std::size_t from) {
        std::vector<std::string> lines;
        for (std::size_t i = from; i < loopback.sent().size(); ++i) {
            const Sent& sent = loopback.sent()[i];
            lines.push_back(std::to_string(sent.time) + " " + sent.port + " " + midi::toHex(sent.bytes));
        }
        return lines;
    }
    std::vector<std::string> sent() { return sentSince(0); }
};

using Lines = std::vector<std::string>;

/// Ports of one name, both ways, that keep what leaves and let come what a test puts there.
struct OnePort : io::Ports {
    explicit OnePort(std::string portName) : name(std::move(portName)) {}
    void want(const io::PortNames&) override {}
    [[nodiscard]] std::vector<io::PortState> present() const override { return {}; }
    void gather(io::Arrivals& arrivals) override {
        for (const auto& [time, bytes] : comes) arrivals.add({time, player_->ports().of(name), bytes});
        gathered = std::exchange(comes, {});
    }
    bool send(const engine::Output& output) override {
        if (player_->ports().name(output.port) != name) return false;
        sent.push_back(std::to_string(output.time) + " " + midi::toHex(output.bytes));
        return true;
    }

    using Message = std::pair<engine::Time, std::vector<std::uint8_t>>;
    std::string name;
    std::vector<Message> comes;
    std::vector<Message> gathered;  ///< kept, as a port keeps its buffer, until the next cycle
    Lines sent;
};

std::shared_ptr<Take> handsOnTheKeys(std::initializer_list<std::pair<std::int64_t, midi::Short>> events,
                                     std::int64_t length) {
    auto take = std::make_shared<Take>();
    take->ports = {std::string(io::practiceKeysPort)};
    for (const auto& [time, message] : events) take->add(time, 0, message.bytes());
    take->length = length;
    return take;
}

}  // namespace

class PlayerTest : public QObject {
    Q_OBJECT

 private slots:
    /// A take that is started plays from then on for whoever asks, at whatever moment of a cycle that is.
    void aTakePlaysAtOnce() {
        io::Player player;
        player.play(swell());
        std::atomic<bool> over{false};
        std::thread cycles([&] {
            auto nowhere = [](const engine::Output&) {};
            const engine::Sink sink = engine::sinkTo(nowhere);
            for (engine::Time time = 0; !over; time += 100) player.cycle({}, time, sink);
        });
        const auto take = handsOnTheKeys({}, std::int64_t{1} << 50);
        int lost = 0;
        for (int i = 0; i < 20000; ++i) {
            player.startTake(take);
            for (int asked = 0; asked < 50; ++asked) lost += player.takePosition() < 0 ? 1 : 0;
            player.stopTake();
            while (player.takePosition() >= 0) player.watch([](const io::Happening&) {});
        }
        over = true;
        cycles.join();
        QCOMPARE(lost, 0);
    }

    void aMessageLeavesInTheCycleItCame() {
        Stage stage(swell());
        stage.loopback.run(1500, "keys", {0xB0, 1, 64});
        QCOMPARE(stage.sent(), (Lines{"1500 out B0 0B 40"}));
    }

    void anEditIsHeardWithoutTouchingTheControl() {
        Stage stage(swell());
        stage.loopback.run(1000, "keys", {0xB0, 1, 64});
        Ensemble edited = swell();
        edited.instruments[0].chains[0].branches[0].high = 63.0;
        stage.player.play(edited);
        stage.loopback.run(2000);
        QCOMPARE(stage.sentSince(1), (Lines{"1000 out B0 0B 20"}));
    }

    /// Whatever takes an instrument away takes its feet off the pedals too.
    void pedalsOfAnInstrumentThatGoesComeUp_data() {
        QTest::addColumn<int>("how");
        QTest::newRow("switched off") << 0;
        QTest::newRow("removed") << 1;
        QTest::newRow("on another channel") << 2;
    }
    void pedalsOfAnInstrumentThatGoesComeUp() {
        QFETCH(int, how);
        Stage stage(swell());
        stage.loopback.run(1000, "keys", {0xB0, 64, 127});
        stage.loopback.run(2000, "keys", {0xE0, 0, 96});
        Ensemble edited = swell();
        if (how == 0) edited.instruments[0].on = false;
        if (how == 1) edited.instruments.clear();
        if (how == 2) edited.instruments[0].output.channel = 5;
        stage.player.play(edited);
        stage.loopback.run(3000);
        Lines wanted{"2000 out B0 40 00", "2000 out E0 00 40"};
        if (how == 2) wanted.emplace_back("2000 out B4 40 7F");
        QCOMPARE(stage.sentSince(2), wanted);
        stage.player.play(swell());
        stage.loopback.run(4000);
        // It comes back with the pedal that is still down.
        QCOMPARE(stage.sentSince(2 + wanted.size() + (how == 2 ? 1 : 0)), Lines{"3000 out B0 40 7F"});
    }

    void anInstrumentSwitchedOffLetsItsNotesEndAndTakesNoNewOnes() {
        Stage stage(swell());
        stage.loopback.run(1000, "keys", {0x90, 60, 100});
        Ensemble off = swell();
        off.instruments[0].on = false;
        stage.player.play(off);
        stage.loopback.run(2000, "keys", {0x90, 62, 100});
        stage.loopback.run(3000, "keys", {0xB0, 1, 30});
        stage.loopback.run(4000, "keys", {0x80, 60, 64});
        stage.loopback.run(5000, "keys", {0x80, 62, 64});
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
        stage.loopback.run(1000, "keys", {0xB0, 1, 100});
        QCOMPARE(stage.sent(), (Lines{"1000 out B0 0B 64"}));
    }

    void practiceKeysArriveAsAPort() {
        Ensemble ensemble = swell();
        ensemble.instruments[0].input.port = io::practiceKeysPort;
        Stage stage(ensemble);
        QVERIFY(stage.player.send(stage.player.ports().of(io::practiceKeysPort),
                                  midi::make(midi::controlChange, 0, 1, 127)));
        stage.loopback.run(1000);
        stage.loopback.run(2000, "keys", {0xB0, 1, 5});
        QCOMPARE(stage.sent().size(), std::size_t{1});
        QCOMPARE(stage.loopback.sent()[0].bytes, (std::vector<std::uint8_t>{0xB0, 11, 127}));
    }

    /// Several classes of ports: each message goes to those that serve its port.
    void aMessageLeavesByTheClassThatServesItsPort() {
        Ensemble ensemble = swell();
        ensemble.instruments[0].output = {std::string(io::practiceRackPort), 3, OnConnect::nothing, {}};
        ensemble.instruments.push_back(test::instrument("two"));
        OnePort rack{std::string(io::practiceRackPort)};
        io::Player player;
        io::Patchbay patchbay(player);
        io::Loopback loopback;
        patchbay.add(rack);
        patchbay.add(loopback);
        player.play(ensemble);
        QVERIFY(static_cast<bool>(loopback.start(patchbay)));
        rack.comes.push_back({500, {0xB0, 1, 64}});
        loopback.run(1000, "keys", {0x90, 60, 1});
        QCOMPARE(rack.sent, (Lines{"500 B2 0B 40", "1000 92 3C 01"}));
        // The loopback takes whatever there is.
        std::vector<io::Loopback::Sent> out;
        std::copy_if(loopback.sent().begin(), loopback.sent().end(), std::back_inserter(out),
                     [](const auto& sent) { return sent.port == "out"; });
        QCOMPARE(out.size(), std::size_t{2});
        QCOMPARE(out[0].time, engine::Time{500});
        QCOMPARE(out[1].bytes, (std::vector<std::uint8_t>{0x90, 60, 1}));
    }

    void aTakeIsPlayedAtItsTimesAndLetsGoWhenStopped() {
        const auto take = handsOnTheKeys({{1000, midi::make(0x90, 0, 60, 90)},
                                          {1500, midi::make(0xB0, 0, 64, 127)},
                                          {9000, midi::make(0x80, 0, 60, 64)}},
                                         10000);
        Stage stage(swell());
        stage.loopback.run(5000);
        stage.player.startTake(take);
        stage.loopback.run(7000);
        QCOMPARE(stage.player.takePosition(), std::int64_t{2000});
        QCOMPARE(stage.sent(), (Lines{"6000 out 90 3C 5A", "6500 out B0 40 7F"}));
        stage.player.stopTake();
        stage.loopback.run(8000);
        QCOMPARE(stage.sentSince(2), (Lines{"7000 out 80 3C 40", "7000 out B0 40 00"}));
        QCOMPARE(stage.player.takePosition(), std::int64_t{-1});
    }

    /// Begun in the middle, it begins with what stood there; played anew elsewhere, what it held is let go.
    void aTakeIsJumpedInto() {
        const auto take = handsOnTheKeys({{0, midi::make(0xB0, 0, 1, 64)},
                                          {1000, midi::make(0x90, 0, 60, 90)},
                                          {2000, midi::make(0xB0, 0, 1, 100)},
                                          {9000, midi::make(0x80, 0, 60, 64)}},
                                         10000);
        Stage stage(swell());
        io::TakeRun run;
        run.from = 1500;
        stage.loopback.run(5000);
        stage.player.startTake(take, run);
        stage.loopback.run(5600);
        QCOMPARE(stage.sent(), (Lines{"5000 out B0 0B 40", "5000 out 90 3C 5A", "5500 out B0 0B 64"}));
        run.from = 0;
        stage.player.startTake(take, run);
        stage.loopback.run(5700);
        QCOMPARE(stage.sentSince(3), (Lines{"5600 out 80 3C 40", "5600 out B0 0B 40"}));
    }

    /// With the ensemble that is played, an engine that has heard the take takes over, on time, and nothing
    /// that the old one held sounds on; where the document is edited meanwhile, that counts.
    void anEngineThatHasHeardTheTakeTakesOver() {
        const auto take = handsOnTheKeys({{0, midi::make(0xB0, 0, 1, 64)},
                                          {1000, midi::make(0x90, 0, 60, 90)},
                                          {400'000, midi::make(0xB0, 0, 1, 100)},
                                          {900'000, midi::make(0x80, 0, 60, 64)}},
                                         1'000'000);
        for (const bool edited : {false, true}) {
            Stage stage(swell());
            stage.loopback.run(1'000'000, "keys", {0x90, 72, 80});
            const std::size_t before = stage.sent().size();
            io::TakeRun run;
            run.from = 300'000;
            const Ensemble played = swell();
            stage.player.startTake(take, run, &played);
            if (edited) {
                Ensemble other = swell();
                other.instruments[0].chains[0].branches[0].high = 63.0;
                stage.player.play(other);
            }
            for (int i = 1; i <= 300; ++i) stage.loopback.run(1'000'000 + i * 1000);
            QVERIFY(stage.player.takePosition() > 400'000);
            Lines bytes;
            for (const std::string& line : stage.sentSince(before))
                bytes.push_back(line.substr(line.find("out")));
            if (edited) {
                // What stood is said by hands; what was held by others goes on.
                QCOMPARE(bytes, (Lines{"out B0 0B 20", "out 90 3C 5A", "out B0 0B 32"}));
            } else {
                QCOMPARE(bytes, (Lines{"out 80 48 40", "out B0 0B 40", "out 90 3C 5A", "out B0 0B 64"}));
            }
            stage.player.stopTake();
            stage.loopback.run(2'000'000);
            QVERIFY(stage.sent().back().ends_with("80 3C 40"));
        }
    }

    /// Programs that edits left behind are freed, and their places in memory are used again: what is jumped
    /// into is still told from what was edited away.
    void aJumpBringsBackNothingThatWasEditedAway() {
        const auto take = handsOnTheKeys({{0, midi::make(0xB0, 0, 1, 64)}}, 1'000'000);
        for (const int edits : {2, 3, 5, 10, 20, 50}) {
            for (int round = 0; round < 8; ++round) {
                Stage stage(swell());
                engine::Time time = 1'000'000;
                const auto runOn = [&] { stage.loopback.run(time += 1000); };
                runOn();
                io::TakeRun run;
                run.from = 300'000;
                run.at = time + 400'000;
                const Ensemble played = swell();
                stage.player.startTake(take, run, &played);
                for (int i = 1; i <= edits; ++i) {
                    Ensemble other = swell();
                    other.instruments[0].chains[0].branches[0].high = static_cast<double>(i + 40);
                    stage.player.play(other);
                    runOn();
                    // What was left behind is looked for by the next one who hands something over.
                    if (i % 2 == round % 2) runOn();
                }
                while (stage.player.takePosition() < 300'000) {
                    runOn();
                    QVERIFY(time < 3'000'000);
                }
                const std::size_t before = stage.sent().size();
                stage.loopback.run(time += 1000, "keys", {0xB0, 1, 127});
                const Lines lines = stage.sentSince(before);
                QVERIFY(!lines.empty());
                const auto newest = midi::make(0xB0, 0, 11, edits + 40);
                QVERIFY2(lines.back().ends_with(midi::toHex(newest.bytes())), lines.back().c_str());
            }
        }
    }

    /// A loop that is moved behind what plays goes round once, however far behind it is.
    void aLoopIsMovedBehindWhatPlays() {
        const auto take = handsOnTheKeys(
            {{0, midi::make(0xB0, 0, 1, 1)}, {50'000, midi::make(0xB0, 0, 1, 64)}}, 900'000'000);
        Stage stage(swell());
        io::TakeRun run;
        run.from = 600'000'000;
        stage.player.startTake(take, run);
        stage.loopback.run(1'000'000);
        const std::size_t before = stage.sent().size();
        run.loopFrom = 10'000;
        run.loopTo = 40'000;
        stage.player.changeTake(take, run);
        stage.loopback.run(1'010'000);
        QCOMPARE(stage.sentSince(before), (Lines{"1000000 out B0 0B 01"}));
        QCOMPARE(stage.player.takePosition(), std::int64_t{20'000});
    }

    void aTakeThatEndsWithHeldKeysLetsThemGo() {
        const auto take =
            handsOnTheKeys({{0, midi::make(0x90, 4, 60, 90)}, {0, midi::makeBend(4, 16000)}}, 2000);
        Stage stage(swell());
        stage.player.startTake(take);
        stage.loopback.run(5000);
        QCOMPARE(stage.sent().size(), std::size_t{4});
        QVERIFY(stage.sent()[2].ends_with("80 3C 40"));
        QVERIFY(stage.sent()[3].ends_with("E0 00 40"));
    }

    void silenceAllEndsEverythingOnce() {
        Stage stage(swell());
        stage.loopback.run(1000, "keys", {0x90, 60, 100});
        stage.player.silenceAll();
        stage.loopback.run(2000);
        QCOMPARE(stage.sentSince(1),
                 (Lines{"1000 out 80 3C 40", "1000 out B0 40 00", "1000 out B0 7B 00", "1000 out B0 78 00"}));
        stage.loopback.run(3000, "keys", {0x80, 60, 0});
        QCOMPARE(stage.sent().size(), std::size_t{5});
    }

    void manyEditsBetweenCyclesPlayOnlyTheNewest() {
        Stage stage(swell());
        for (int i = 0; i < 200; ++i) {
            Ensemble edited = swell();
            edited.instruments[0].chains[0].branches[0].high = static_cast<double>(i % 128);
            stage.player.play(edited);
        }
        stage.loopback.run(1000, "keys", {0xB0, 1, 127});
        QCOMPARE(stage.sent(), (Lines{"1000 out B0 0B 47"}));
        int seen = 0;
        stage.player.watch([&](const io::Happening&) { ++seen; });
        QCOMPARE(seen, 2);
    }

    void aPortThatIsConnectedHearsTheNextValueAgain() {
        Stage stage(swell());
        stage.loopback.run(1000, "keys", {0xB0, 1, 64});
        stage.loopback.run(2000, "keys", {0xB0, 1, 64});
        QCOMPARE(stage.sent().size(), std::size_t{1});
        stage.player.portConnected(stage.player.ports().of("out"), engine::Engine::Again::no);
        stage.loopback.run(3000, "keys", {0xB0, 1, 64});
        QCOMPARE(stage.sentSince(1), (Lines{"3000 out B0 0B 40"}));
    }

    /// Each instrument chooses what it is told when its port is connected.
    void onConnectingAnInstrumentIsToldWhatItWishes_data() {
        QTest::addColumn<int>("wish");
        QTest::addColumn<Lines>("told");
        QTest::newRow("nothing") << static_cast<int>(OnConnect::nothing) << Lines{};
        QTest::newRow("rest") << static_cast<int>(OnConnect::rest) << Lines{"1000 out B0 0B 0C"};
        QTest::newRow("last") << static_cast<int>(OnConnect::last) << Lines{"1000 out B0 0B 40"};
    }
    void onConnectingAnInstrumentIsToldWhatItWishes() {
        QFETCH(int, wish);
        QFETCH(Lines, told);
        Ensemble ensemble = swell();
        ensemble.instruments[0].output.onConnect = static_cast<OnConnect>(wish);
        ensemble.instruments[0].parameters[0].rest = 12.0;
        Stage stage(ensemble);
        stage.loopback.run(1000, "keys", {0xB0, 1, 64});
        QCOMPARE(stage.sent(), (Lines{"1000 out B0 0B 40"}));
        stage.player.portConnected(stage.player.ports().of("out"), engine::Engine::Again::no);
        stage.loopback.run(2000);
        QCOMPARE(stage.sentSince(1), told);
    }

    /// One that comes back may have missed the end of a note.
    void whatComesBackIsSilencedFirst() {
        Stage stage(swell());
        stage.loopback.run(1000, "keys", {0x90, 60, 90});
        stage.player.portConnected(stage.player.ports().of("out"), engine::Engine::Again::yes);
        stage.loopback.run(2000, "keys", {0x80, 60, 64});
        QCOMPARE(stage.sentSince(1), (Lines{"1000 out B0 40 00", "1000 out B0 7B 00"}));
    }

    void whatIsHeldOnAPortIsLetGo() {
        Stage stage(swell());
        stage.loopback.run(1000, "keys", {0x90, 60, 90});
        stage.loopback.run(1000, "keys", {0x90, 60, 91});
        stage.loopback.run(1000, "keys", {0xB2, 66, 90});
        stage.loopback.run(1000, "others", {0x90, 62, 90});
        const std::size_t before = stage.sent().size();
        stage.player.letGo(stage.player.ports().of("keys"));
        stage.loopback.run(2000);
        QCOMPARE(stage.sentSince(before),
                 (Lines{"1000 out 80 3C 40", "1000 out 80 3C 40", "1000 out B0 42 00"}));
        stage.player.letGo(stage.player.ports().of("keys"));
        stage.loopback.run(3000);
        QCOMPARE(stage.sentSince(before).size(), std::size_t{3});
    }

    /// What a port's filter does not let through moves nothing; a key that is down when less is heard comes
    /// up.
    void aPortIsHeardAsFarAsItsFilterSays() {
        Stage stage(swell());
        const auto keys = stage.player.ports().of("keys");
        stage.loopback.run(1000, "keys", {0x90, 60, 90});
        io::PortFilter filter;
        filter.channels = 0xFFFE;
        stage.player.setFilter(keys, filter);
        stage.loopback.run(2000, "keys", {0xB0, 1, 64});
        QCOMPARE(stage.sentSince(1), (Lines{"1000 out 80 3C 40"}));
        stage.loopback.run(3000, "keys", {0xB1, 1, 64});
        QCOMPARE(stage.sentSince(2), (Lines{"3000 out B0 0B 40"}));
        filter.silenced = true;
        stage.player.setFilter(keys, filter);
        stage.loopback.run(4000, "keys", {0xB1, 1, 65});
        QCOMPARE(stage.sent().size(), std::size_t{3});
        io::PortFilter other;
        other.sysEx = false;
        QVERIFY(!other.lets(std::vector<std::uint8_t>{0xF0, 1, 0xF7}));
        QVERIFY(!other.lets(std::vector<std::uint8_t>{0xFE}));
        QVERIFY(other.lets(std::vector<std::uint8_t>{0xF8}));
        QVERIFY(io::PortFilter::unpacked(other.packed()) == other);
        QVERIFY(io::PortFilter::unpacked(filter.packed()) == filter);
    }

    void wishesAreThePortsThatTheDocumentNames() {
        Ensemble ensemble = swell();
        ensemble.controllers.push_back({"c", "", "North keys", {}, {}, {}, {}});
        ensemble.instruments.push_back(test::instrument("two"));
        ensemble.instruments[1].output.port = io::practiceRackPort;
        ensemble.instruments[1].input.port = io::practiceKeysPort;
        const io::PortNames names = io::wishesOf(ensemble);
        QCOMPARE(names.inputs, (std::vector<std::string>{"hands", "North keys"}));
        QCOMPARE(names.outputs, (std::vector<std::string>{"out", std::string(io::practiceRackPort)}));
    }

    void theDemoTakeLeavesNothingSounding() {
        const QByteArray file = test::sourceFile(QStringLiteral("data/demo/barometer-falls.mid"));
        const auto reading = smf::read(
            {reinterpret_cast<const std::uint8_t*>(file.constData()), static_cast<std::size_t>(file.size())});
        QVERIFY(static_cast<bool>(reading));
        const auto take =
            std::make_shared<const Take>(takeFrom(reading->file, std::string(io::practiceKeysPort)));
        QVERIFY(take->length > 40'000'000 && take->length < 90'000'000);
        Stage stage(swell());
        stage.player.startTake(take);
        for (std::int64_t time = 0; time <= take->length + 2'000'000; time += 2667) stage.loopback.run(time);
        std::map<int, int> sounding;
        for (const Sent& sent : stage.loopback.sent()) {
            if (midi::isNoteOn(sent.bytes)) ++sounding[sent.bytes[1]];
            if (midi::isNoteOff(sent.bytes)) sounding[sent.bytes[1]] = 0;
        }
        QVERIFY(sounding.size() > 5);
        for (const auto& [key, count] : sounding) QCOMPARE(count, 0);
    }

    void liftedHandsLetGoOfAllThatTheTakeHeldAndOfNothingElse() {
        const auto take = handsOnTheKeys({}, 10000);
        const auto add = [&take](const char* message) { take->add(1000, 0, test::bytes(message)); };
        for (const char* message : {"90 3C 64", "90 3C 64", "91 40 64", "81 40 64", "B0 40 7F", "B0 42 7F",
                                    "B0 43 7F", "B0 45 7F", "B0 07 64", "E0 00 50", "D0 20"})
            add(message);
        Stage stage(test::ensemble({test::instrument()}));
        stage.player.startTake(take);
        stage.loopback.run(2000);
        const std::size_t before = stage.loopback.sent().size();
        stage.player.stopTake();
        stage.loopback.run(3000);
        QCOMPARE(stage.sentSince(before),
                 (Lines{"2000 out 80 3C 40", "2000 out 80 3C 40", "2000 out B0 40 00", "2000 out B0 42 00",
                        "2000 out B0 43 00", "2000 out B0 45 00", "2000 out E0 00 40", "2000 out D0 00"}));
        // Another take begins with empty hands.
        const std::size_t then = stage.loopback.sent().size();
        stage.player.startTake(handsOnTheKeys({}, 10000));
        stage.loopback.run(4000);
        stage.player.stopTake();
        stage.loopback.run(5000);
        QCOMPARE(stage.sentSince(then), Lines{});
    }

    void keysBeyondWhatCanBeRememberedAreCounted() {
        Stage stage(test::ensemble({test::instrument()}));
        int struck = 0;
        for (const char* port : {"a", "b", "c", "d", "e"}) {
            for (int channel = 0; channel < 16; ++channel) {
                for (std::uint8_t key = 0; key < 128; ++key, ++struck)
                    stage.loopback.run(1000, port, {static_cast<std::uint8_t>(0x90 + channel), key, 64});
            }
        }
        const std::size_t sounded = stage.loopback.sent().size();
        QCOMPARE(sounded + stage.player.now().notesRefused(), static_cast<std::size_t>(struck));
        QVERIFY(sounded >= 8192);
        QVERIFY(stage.player.now().notesRefused() > 0);
    }

    void cyclesInBeatsFollowTheClockOnItsPort() {
        Ensemble ensemble = swell();
        Source square = makeSource(SourceKind::lfo);
        square.values = {4, 1.0, 1.0, 0.0, 2, 1.0};  // one beat, begun again by the start
        ensemble.instruments[0].chains[0].source = square;
        ensemble.tempo = {60, Follow::clock, "keys", {}};
        Stage stage(ensemble);
        stage.loopback.run(100000);
        stage.loopback.run(100000, "pads", {0xFA});
        stage.loopback.run(100000, "keys", {0xFA});
        // Two clocks 12.5 ms apart are 200 beats a minute, from 112.5 ms on; until then a beat was a second.
        // So half a beat is over where 0.0125 + (t − 0.1125)·200/60 = 0.5, at 258.75 ms.
        stage.loopback.run(100000, "keys", {0xF8});
        stage.loopback.run(112500, "keys", {0xF8});
        stage.loopback.run(400000);
        QCOMPARE(stage.sent(), (Lines{"0 out B0 0B 7F", "259000 out B0 0B 00"}));
    }

    /// A take has a port for every event, and SysEx; what each port's hands hold is let go there.
    void aTakePlaysThroughItsPortsSysexIncluded() {
        Ensemble ensemble = test::ensemble({test::instrument("one"), test::instrument("two")});
        ensemble.instruments[0].input.port = "left";
        ensemble.instruments[0].pass.sysex = true;
        ensemble.instruments[1].input.port = "right";
        ensemble.instruments[1].output.channel = 2;
        auto take = std::make_shared<Take>();
        take->ports = {"left", "right"};
        take->add(1000, 0, test::bytes("90 3C 64"));
        take->add(2000, 1, test::bytes("90 40 50"));
        take->add(3000, 0, test::bytes("F0 7D 01 02 03 04 05 F7"));
        take->length = 100000;
        Stage stage(ensemble);
        stage.player.startTake(take);
        stage.loopback.run(5000);
        QCOMPARE(stage.sent(),
                 (Lines{"1000 out 90 3C 64", "2000 out 91 40 50", "3000 out F0 7D 01 02 03 04 05 F7"}));
        stage.player.stopTake();
        stage.loopback.run(6000);
        QCOMPARE(stage.sentSince(3), (Lines{"5000 out 80 3C 40", "5000 out 81 40 40"}));
    }

    /// The tap sees all that comes in, before the engine, as it came.
    void theTapSeesEverythingThatComesIn() {
        Stage stage(swell());
        QVERIFY(stage.player.send(stage.player.ports().of(io::practiceKeysPort), midi::make(0xB0, 0, 1, 5)));
        stage.player.receiveOsc(stage.player.ports().of("net"), "/tile/tilt", 0.25);
        stage.loopback.run(1000, "keys", {0xF0, 0x7D, 1, 2, 3, 4, 0xF7});
        stage.loopback.run(2000, "keys", {0xF8});
        const auto take = handsOnTheKeys({{0, midi::make(0x90, 0, 60, 90)}}, 1000);
        stage.player.startTake(take);
        stage.loopback.run(2500);
        Lines seen;
        stage.player.tap().drain([&](const io::Tap::Seen& each) {
            seen.push_back(std::to_string(each.time) + " " + stage.player.ports().name(each.port) + " " +
                           (each.fromTake ? "take " : "") +
                           (each.address.empty()
                                ? midi::toHex(each.bytes)
                                : std::string(each.address) + " " + std::to_string(each.number)));
        });
        QCOMPARE(seen, (Lines{"0 practice-keys B0 01 05", "0 net /tile/tilt 0.250000",
                              "1000 keys F0 7D 01 02 03 04 F7", "2000 keys F8",
                              "2000 practice-keys take 90 3C 5A"}));
        QCOMPARE(stage.player.tap().lost(), std::uint64_t{0});
    }

    /// What finds no room in the tap is counted, and what was kept is whole.
    /// What hands did in the last ten minutes is kept, and nothing older; what a take plays is not theirs.
    void tenMinutesAreKept() {
        constexpr engine::Time minute = 60'000'000;
        Stage stage(swell());
        io::Recorder recorder(stage.player);
        recorder.start();
        const auto heard = [&recorder] {
            std::vector<int> values;
            const Recording recording = recorder.justPlayed();
            for (const TakeEvent& event : recording.heard.events)
                values.push_back(recording.heard.bodyOf(event)[2]);
            return values;
        };
        std::vector<int> all;
        for (int at = 0; at < 12; ++at) {
            stage.loopback.run(at * minute, "keys", {0xB0, 1, static_cast<std::uint8_t>(at)});
            all.push_back(at);
            QTRY_VERIFY(!heard().empty() && heard().back() == at);
        }
        const std::vector<int> kept = heard();
        QVERIFY(kept.size() >= 10 && kept.size() <= 11);
        QVERIFY(std::equal(kept.rbegin(), kept.rend(), all.rbegin()));
        QVERIFY(kept.front() >= 1);
    }

    void theTapCountsWhatItCouldNotKeep() {
        io::Tap tap(256);
        const std::vector<std::uint8_t> sysex(40, 0x11);
        int kept = 0;
        for (int i = 0; i < 10; ++i) tap.see({i, 3, false, sysex});
        tap.drain([&](const io::Tap::Seen& seen) {
            QCOMPARE(seen.time, engine::Time{kept++});
            QVERIFY(std::equal(seen.bytes.begin(), seen.bytes.end(), sysex.begin(), sysex.end()));
        });
        QVERIFY(kept > 1);
        QCOMPARE(tap.lost(), static_cast<std::uint64_t>(10 - kept));
        // Drained, it has room again, however often it has gone round.
        for (int i = 0; i < 1000; ++i) {
            tap.see({i, 3, false, sysex});
            engine::Time newest = -1;
            tap.drain([&](const io::Tap::Seen& seen) { newest = seen.time; });
            QCOMPARE(newest, engine::Time{i});
        }
        QCOMPARE(tap.lost(), static_cast<std::uint64_t>(10 - kept));
    }

    void takesThatWerePlayedAreForgotten() {
        Stage stage(swell());
        std::vector<std::weak_ptr<const Take>> takes;
        for (int i = 0; i < 5; ++i) {
            std::shared_ptr<const Take> take = handsOnTheKeys({}, 1000);
            takes.emplace_back(take);
            stage.player.startTake(std::move(take));
            stage.loopback.run(stage.player.time() + 500);
        }
        stage.player.stopTake();
        stage.loopback.run(stage.player.time() + 500);
        stage.player.watch([](const io::Happening&) {});
        for (const auto& take : takes) QVERIFY(take.expired());
    }

    void anEditLeavesThePlanThatPlaysAlone() {
        Stage stage(swell());
        stage.player.watch([](const io::Happening&) {});
        const engine::Program& playing = stage.player.programs().shown();
        const std::size_t ports = playing.plan.numbering.ports.size();
        const engine::PortId late = stage.player.ports().of("late");
        stage.player.play(swell());
        QCOMPARE(playing.plan.numbering.ports.size(), ports);
        QCOMPARE(stage.player.programs().names().ports.find("late"), std::optional<std::uint32_t>(late));
    }

    /// Targets are put to rest, and to what is drawn: the same for the same seed, inside the reach, and never
    /// what is locked.
    void targetsArePut() {
        Ensemble ensemble = swell();
        Instrument& one = ensemble.instruments[0];
        one.parameters[0].rest = 100.0;
        one.chains[0].branches[0].low = 40.0;
        one.chains[0].branches[0].high = 60.0;
        Stage stage(ensemble);
        stage.player.play(ensemble, atRest(ensemble, {}));
        stage.loopback.run(1000);
        QCOMPARE(stage.sent(), (Lines{"0 out B0 0B 64"}));
        std::set<std::string> values;
        for (std::uint64_t seed = 1; seed <= 200; ++seed) {
            const Placements once = drawn(ensemble, {}, seed);
            QCOMPARE(once, drawn(ensemble, {}, seed));
            QCOMPARE(once.size(), 1U);
            const long value = std::lround(once[0].position * 127);
            QVERIFY2(value >= 40 && value <= 60, std::to_string(value).c_str());
            values.insert(std::to_string(value));
        }
        QVERIFY(values.size() > 15);
        // Two edits before the next cycle: what was to be placed is not lost.
        const std::size_t before = stage.sent().size();
        Placements placed = atRest(ensemble, {});
        placed[0].position = 0.5;
        stage.player.play(ensemble, placed);
        stage.player.play(ensemble);
        stage.loopback.run(2000);
        QCOMPARE(stage.sentSince(before), (Lines{"1000 out B0 0B 40"}));
        // The hand takes over as ever.
        stage.loopback.run(3000, "keys", test::bytes("B0 01 7F"));
        QCOMPARE(stage.sentSince(before + 1), (Lines{"3000 out B0 0B 3C"}));
        one.parameters[0].locked = true;
        QVERIFY(atRest(ensemble, {}).empty() && drawn(ensemble, {}, 1).empty());
        one.parameters[0].locked = false;
        QVERIFY(atRest(ensemble, {"another", {}, {}}).empty());
        QCOMPARE(atRest(ensemble, {"one", "swell", 0}).size(), 1U);
    }
};

QTEST_APPLESS_MAIN(PlayerTest)
#include "player.moc"
