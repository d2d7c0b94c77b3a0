// Feedback as a motorised controller sees it: the bytes that come to it, and when.
#include <rapidcheck.h>

#include <QtTest>

#include "io/playing/player.h"
#include "io/ports/loopback.h"
#include "support/build.h"

using namespace mellow;
using Lines = std::vector<std::string>;

namespace {

constexpr engine::Time second = 1'000'000;

ControllerControl control(const std::string& id, MessageKind kind, int number) {
    ControllerControl made;
    made.id = id;
    made.message.kind = kind;
    made.message.number = number;
    return made;
}

/// A box of faders on port "box" that hears on port "motors", its first fader leading to expression.
Ensemble faders(std::vector<Step> steps = {}, double low = 0, double high = 127) {
    Instrument one = test::instrument();
    one.chains.push_back(
        test::chain("swell", test::ccSource(1), std::move(steps), {test::branch("expression", low, high)}));
    Ensemble made = test::ensemble({one});
    Controller box;
    box.id = "box";
    box.port = "box";
    box.feedback = "motors";
    box.controls = {control("fader", MessageKind::cc, 1)};
    made.controllers.push_back(box);
    return made;
}

/// The same with a wheel of another controller that leads to expression too.
Ensemble fadersAndWheel(std::vector<Step> steps = {}, double low = 0, double high = 127) {
    Ensemble made = faders(std::move(steps), low, high);
    made.instruments[0].chains.push_back(
        test::chain("other", test::ccSource(2), {}, {test::branch("expression", 0, 127)}));
    return made;
}

struct Stage {
    io::Player player;
    io::Patchbay patchbay{player};
    io::Loopback loopback;
    std::size_t seen = 0;

    explicit Stage(const Ensemble& ensemble) {
        patchbay.add(loopback);
        player.play(ensemble);
        if (!loopback.start(patchbay)) qFatal("the loopback does not start");
        loopback.run(0);
    }
    /// What came to the motors since the last call, with milliseconds.
    Lines told() {
        Lines lines;
        for (; seen < loopback.sent().size(); ++seen) {
            const io::Loopback::Sent& sent = loopback.sent()[seen];
            if (sent.port == "motors") lines.push_back(midi::toHex(sent.bytes));
        }
        return lines;
    }
    /// What the program that plays says of the one control that is followed.
    const engine::Feedback& feedback() {
        player.watch([](const io::Happening&) {});
        return player.programs().shown().feedback;
    }
    /// Lets time pass in cycles of five milliseconds.
    void pass(engine::Time until) {
        for (engine::Time now = player.time(); now < until; now = player.time())
            loopback.run(std::min(now + 5'000, until));
    }
    /// The same, until the hands have left everything alone; in one text.
    QString toldAtRest() {
        pass(player.time() + 2 * second);
        return toldNow();
    }
    QString toldNow() {
        QStringList lines;
        for (const std::string& line : told()) lines << QString::fromStdString(line);
        return lines.join(QStringLiteral(", "));
    }
};

std::shared_ptr<Take> takeOn(const std::string& port,
                             std::initializer_list<std::pair<std::int64_t, midi::Short>> events) {
    auto take = std::make_shared<Take>();
    take->ports = {port};
    for (const auto& [time, message] : events) take->add(time, 0, message.bytes());
    take->length = second;
    return take;
}

engine::NoWayBack without(const Ensemble& ensemble) {
    Stage stage(ensemble);
    return stage.feedback().reasonOf(0);
}

}  // namespace

class FeedbackTest : public QObject {
    Q_OBJECT

 private slots:
    void aHandIsToldNothingOfItsOwnMovement() {
        Stage stage(faders());
        stage.loopback.run(1000, "box", {0xB0, 1, 64});
        QCOMPARE(stage.toldAtRest(), QString(""));
    }

    void aTakeMovesTheFader() {
        Stage stage(faders());
        stage.player.startTake(takeOn("box", {{1000, midi::make(0xB0, 0, 1, 30)}}));
        QCOMPARE(stage.toldAtRest(), QString("B0 01 1E"));
    }

    void anotherControllersHandMovesTheFaderOfTheSameChain() {
        Stage stage(faders());
        stage.loopback.run(1000, "keys", {0xB0, 1, 90});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 5A"));
    }

    void anotherChainMovesTheFaderThroughItsWayBack() {
        // Of a fader that is turned round and has the upper half only, 96 of expression is at a half.
        Stage stage(fadersAndWheel({test::step("reverse")}, 64, 127));
        stage.loopback.run(1000, "keys", {0xB0, 2, 64});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 7E"));
        stage.loopback.run(stage.player.time() + 1, "keys", {0xB0, 2, 127});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 00"));
        stage.loopback.run(stage.player.time() + 1, "keys", {0xB0, 2, 96});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 3E"));
    }

    void whatPassesMovesTheFaderToo() {
        Stage stage(faders());
        stage.loopback.run(1000, "keys", {0xB0, 11, 100});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 64"));
    }

    void aSmoothedFaderIsNotMovedOnTheWay() {
        Stage stage(fadersAndWheel({test::step("smooth", {40, 40})}));
        stage.loopback.run(1000, "box", {0xB0, 1, 0});
        stage.loopback.run(2000, "box", {0xB0, 1, 127});
        QCOMPARE(stage.toldAtRest(), QString(""));
        stage.loopback.run(stage.player.time() + 1, "keys", {0xB0, 2, 50});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 32"));
    }

    void hysteresisDoesNotNudgeTheFader() {
        Stage stage(fadersAndWheel({test::step("levels", {4, 0.5})}));
        for (const std::uint8_t value : {0, 127, 80, 70, 62})
            stage.loopback.run(stage.player.time() + 1000, "box", {0xB0, 1, value});
        QCOMPARE(stage.toldAtRest(), QString(""));
    }

    void aHandOnTheFaderIsNotFought() {
        Stage stage(fadersAndWheel());
        stage.loopback.run(1000, "box", {0xB0, 1, 10});
        stage.loopback.run(2000, "keys", {0xB0, 2, 100});
        stage.pass(400'000);
        stage.loopback.run(400'001, "box", {0xB0, 1, 12});
        stage.loopback.run(401'000, "keys", {0xB0, 2, 101});
        stage.pass(890'000);
        QCOMPARE(stage.toldNow(), QString(""));
        stage.pass(930'000);
        QCOMPARE(stage.toldNow(), QString("B0 01 65"));
    }

    void anUndoOfAnEditBringsTheFaderBack() {
        // The second ensemble's resting hand is elsewhere: expression is set by the wheel.
        Stage stage(fadersAndWheel());
        stage.loopback.run(1000, "keys", {0xB0, 2, 100});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 64"));
        stage.player.play(fadersAndWheel({test::step("reverse")}));
        QCOMPARE(stage.toldAtRest(), QString("B0 01 1B"));
        stage.player.play(fadersAndWheel());
        QCOMPARE(stage.toldAtRest(), QString("B0 01 64"));
    }

    void aFaderThatComesBackIsToldAgain() {
        Stage stage(faders());
        stage.loopback.run(1000, "keys", {0xB0, 1, 90});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 5A"));
        stage.player.portConnected(stage.player.ports().of("motors"), engine::Engine::Again::yes);
        QCOMPARE(stage.toldAtRest(), QString("B0 01 5A"));
    }

    void meetingTheChainsPlaceTheFaderGoesThere() {
        Ensemble ensemble = faders();
        ensemble.instruments[0].chains[0].handover = Handover::meet;
        Stage stage(ensemble);
        stage.loopback.run(1000, "keys", {0xB0, 1, 0});
        stage.loopback.run(2000, "keys", {0xB0, 1, 90});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 5A"));
        stage.loopback.run(stage.player.time() + 1, "box", {0xB0, 1, 20});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 5A"));
    }

    void aButtonIsLit() {
        Ensemble ensemble = faders();
        ensemble.controllers[0].controls = {control("pad", MessageKind::note, 36)};
        Source key = makeSource(SourceKind::key);
        key.number = 36;
        ensemble.instruments[0].chains[0].source = key;
        Stage stage(ensemble);
        stage.loopback.run(1000, "box", {0x90, 36, 100});
        QCOMPARE(stage.toldAtRest(), QString("90 24 7F"));
        stage.loopback.run(stage.player.time() + 1, "box", {0x80, 36, 64});
        QCOMPARE(stage.toldAtRest(), QString("90 24 00"));
    }

    void anEncodersRingFollowsTheHandAtOnce() {
        Ensemble ensemble = faders();
        ensemble.controllers[0].controls = {control("turn", MessageKind::relative, 16)};
        ensemble.controllers[0].controls[0].message.values = makeSource(SourceKind::relative).values;
        Source turn = makeSource(SourceKind::control);
        turn.controller = "box";
        turn.control = "turn";
        ensemble.instruments[0].chains[0].source = turn;
        Stage stage(ensemble);
        stage.loopback.run(1000, "box", {0xB0, 16, 5});
        stage.pass(30'000);
        QCOMPARE(stage.toldNow(), QString("B0 10 05"));
    }

    void pairsBendAndRegistersAreToldWhole() {
        Ensemble ensemble = faders();
        ensemble.controllers[0].controls = {control("fine", MessageKind::cc14, 2),
                                            control("wheel", MessageKind::bend, 0),
                                            control("deep", MessageKind::nrpn, 300)};
        Stage stage(ensemble);
        stage.player.startTake(takeOn("box", {{1000, midi::make(0xB0, 0, 2, 64)},
                                              {1001, midi::make(0xB0, 0, 34, 3)},
                                              {1002, midi::makeBend(0, 100)}}));
        QCOMPARE(stage.toldAtRest(), QString("B0 02 40, B0 22 03, E0 64 00, E0 00 40"));
        ensemble.instruments[0].chains[0].source = makeSource(SourceKind::nrpn);
        ensemble.instruments[0].chains[0].source.number = 300;
        Stage registers(ensemble);
        for (const auto& message : {std::pair{99, 2}, {98, 44}, {6, 64}, {38, 0}})
            registers.loopback.run(
                registers.player.time() + 1, "keys",
                {0xB0, static_cast<std::uint8_t>(message.first), static_cast<std::uint8_t>(message.second)});
        QCOMPARE(registers.toldAtRest(), QString("B0 63 02, B0 62 2C, B0 06 40, B0 26 00"));
    }

    void itAnswersOnTheChannelOnWhichItWasHeard() {
        Stage stage(faders());
        stage.loopback.run(1000, "box", {0xB4, 1, 64});
        stage.pass(2 * second);
        stage.loopback.run(stage.player.time() + 1, "keys", {0xB0, 1, 65});
        QCOMPARE(stage.toldAtRest(), QString("B4 01 41"));
    }

    void whatInstrumentIsInHandCounts() {
        Ensemble ensemble = faders();
        Instrument two = test::instrument("two", 2);
        two.chains.push_back(
            test::chain("swell", test::ccSource(1), {test::step("reverse")}, {test::branch("tone", 0, 127)}));
        ensemble.instruments.push_back(two);
        for (std::size_t i : {0U, 1U}) ensemble.instruments[i].chains[0].active = Active::inHand;
        ensemble.inHand = std::vector<std::string>{"one"};
        Stage stage(ensemble);
        stage.loopback.run(1000, "keys", {0xB0, 1, 90});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 5A"));
        ensemble.inHand = std::vector<std::string>{"two"};
        stage.player.play(ensemble);
        stage.loopback.run(stage.player.time() + 1, "keys", {0xB0, 1, 30});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 1E"));
        ensemble.inHand = std::vector<std::string>{"one"};
        stage.player.play(ensemble);
        QCOMPARE(stage.toldAtRest(), QString("B0 01 5A"));
    }

    void aReasonIsGivenWhereThereIsNoWayBack() {
        using engine::NoWayBack;
        QCOMPARE(without(faders()), NoWayBack::hasOne);
        Step hill = test::step("points");
        hill.values[0] = std::vector<Point>{{0, 0}, {0.5, 1}, {1, 0}};
        QCOMPARE(without(faders({hill})), NoWayBack::twoPlaces);
        QCOMPARE(without(faders({test::step("latch")})), NoWayBack::waits);
        QCOMPARE(without(faders({}, 64, 64)), NoWayBack::standsStill);
        Step both = test::step("combine");
        both.with = test::ccSource(4);
        QCOMPARE(without(faders({both})), NoWayBack::secondSource);
        Ensemble mixed = faders();
        mixed.instruments[0].parameters[0].mix = Mix::highest;
        QCOMPARE(without(mixed), NoWayBack::mixed);
        Ensemble unheard = faders();
        unheard.controllers[0].controls[0].message.number = 99;
        QCOMPARE(without(unheard), NoWayBack::unheard);
    }

    void whereThereIsNoWayBackTheSourceCounts() {
        Stage stage(fadersAndWheel({test::step("latch")}));
        stage.loopback.run(1000, "keys", {0xB0, 2, 100});
        QCOMPARE(stage.toldAtRest(), QString(""));
        stage.loopback.run(stage.player.time() + 1, "keys", {0xB0, 1, 90});
        QCOMPARE(stage.toldAtRest(), QString("B0 01 5A"));
    }

    void manyControlsAreToldInOneLook() {
        Ensemble ensemble = faders();
        ensemble.controllers[0].controls.clear();
        auto take = std::make_shared<Take>();
        take->ports = {"box"};
        for (int i = 0; i < 100; ++i) {
            ensemble.controllers[0].controls.push_back(control("c" + std::to_string(i), MessageKind::cc, i));
            take->add(1000 + i, 0, midi::make(0xB0, 0, i, 64).bytes());
        }
        take->length = second;
        Stage stage(ensemble);
        stage.player.startTake(take);
        QCOMPARE(stage.toldAtRest().count(QStringLiteral("B0")), 104);  // four pedals are let go
    }

    /// A chain chooses the hand while one plays: the fader goes to where the one that is in hand now stands.
    void theFaderGoesWithTheHand() {
        Instrument one = test::instrument("one", 1);
        Instrument two = test::instrument("two", 2);
        for (Instrument* each : {&one, &two}) {
            each->chains.push_back(
                test::chain("swell", test::ccSource(1), {}, {test::branch("expression", 0, 127)}));
            each->chains[0].active = Active::inHand;
            each->chains[0].handover = Handover::meet;
        }
        Ensemble ensemble = test::ensemble({one, two});
        ensemble.controllers = faders().controllers;
        ensemble.inHand = {"one"};
        ensemble.handOrder = {"one", "two"};
        Branch hand = test::branch(std::string(handTarget), 0, 0);
        hand.low = std::string("one");
        hand.high = std::string("two");
        ensemble.sharedChains.push_back(test::chain("hand", test::ccSource(9), {}, {hand}));
        Stage stage(ensemble);
        const auto hear = [&stage](int number, int value) {
            stage.loopback.run(stage.player.time() + 1, "box",
                               {0xB0, static_cast<std::uint8_t>(number), static_cast<std::uint8_t>(value)});
        };
        hear(1, 0);
        hear(1, 100);
        hear(9, 127);
        stage.pass(stage.player.time() + second);
        // The other one meets it at 0 and is led to 40.
        hear(1, 0);
        hear(1, 40);
        stage.pass(stage.player.time() + second);
        QCOMPARE(stage.toldNow(), QString(""));
        hear(9, 0);
        QCOMPARE(stage.toldAtRest(), QString("B0 01 64"));
        hear(9, 127);
        QCOMPARE(stage.toldAtRest(), QString("B0 01 28"));
    }

    void atRestTheFaderLeadsToWhatItsTargetHas() {
        const bool holds = rc::check("atRestTheFaderLeadsToWhatItsTargetHas", [] {
            std::vector<Step> steps;
            for (int i = *rc::gen::inRange(0, 4); i > 0; --i) {
                const double amount = *rc::gen::inRange(-90, 91) / 100.0;
                switch (*rc::gen::inRange(0, 4)) {
                    case 0:
                        steps.push_back(test::step("reverse"));
                        break;
                    case 1:
                        steps.push_back(test::step("bend", {amount}));
                        break;
                    case 2:
                        steps.push_back(test::step("sCurve", {amount}));
                        break;
                    default:
                        steps.push_back(test::step("smooth", {30, 60}));
                        break;
                }
            }
            const int low = *rc::gen::inRange(0, 128);
            const int high = *rc::gen::inRange(0, 128);
            Stage stage(fadersAndWheel(steps, low, high));
            int fader = -1;  // where it stands: moved by its hand, or by its motor since
            const auto let = [&](engine::Time pause) {
                stage.pass(stage.player.time() + pause);
                for (const std::string& told : stage.told()) fader = std::stoi(told.substr(6), nullptr, 16);
            };
            for (int i = *rc::gen::inRange(1, 12); i > 0; --i) {
                const bool own = *rc::gen::arbitrary<bool>();
                const auto value = static_cast<std::uint8_t>(*rc::gen::inRange(0, 128));
                stage.loopback.run(stage.player.time() + 1, own ? "box" : "keys",
                                   {0xB0, static_cast<std::uint8_t>(own ? 1 : 2), value});
                if (own) fader = value;
                let(*rc::gen::inRange(1, 900'000));
            }
            let(2 * second);
            int expression = -1;
            for (const io::Loopback::Sent& sent : stage.loopback.sent()) {
                if (sent.port == "out") expression = sent.bytes[2];
            }
            const std::vector<int> way = stage.feedback().controls().front().chains.front().back.values;
            if (way.empty()) return;
            int nearest = 128;
            int grain = 0;
            for (std::size_t at = 0; at < way.size(); ++at) {
                nearest = std::min(nearest, std::abs(way[at] - expression));
                if (at > 0) grain = std::max(grain, std::abs(way[at] - way[at - 1]));
            }
            RC_ASSERT(fader >= 0);
            RC_ASSERT(std::abs(way[static_cast<std::size_t>(fader)] - expression) <= nearest + grain);
        });
        QVERIFY(holds);
    }
};

QTEST_GUILESS_MAIN(FeedbackTest)
#include "feedback.moc"
