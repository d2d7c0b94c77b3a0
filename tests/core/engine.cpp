// The engine by examples that can be worked out from the signal rules by hand: lines in, lines out.
#include "core/engine/playing/engine.h"

#include <QtTest>
#include <cstdlib>
#include <new>

#include "core/engine/compiling/compile.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;
using namespace mellow::test;

namespace {

thread_local std::size_t allocations = 0;

QStringList lines(const std::vector<std::string>& texts) {
    QStringList list;
    for (const std::string& text : texts) list << QString::fromStdString(text);
    return list;
}

Ensemble wheelTo(std::vector<Step> steps, std::vector<Branch> branches) {
    Instrument one = instrument();
    one.chains = {chain("c", ccSource(1), std::move(steps), std::move(branches))};
    return ensemble({one});
}

}  // namespace

void* operator new(std::size_t size) {
    ++allocations;
    if (void* memory = std::malloc(size)) return memory;
    throw std::bad_alloc();
}
void* operator new(std::size_t size, const std::nothrow_t&) noexcept {
    ++allocations;
    return std::malloc(size);
}
void operator delete(void* memory) noexcept {
    std::free(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
    std::free(memory);
}

class EngineTest : public QObject {
    Q_OBJECT

 private slots:
    void aWheelBecomesExpression() {
        // q = 30/127 + p·97/127; at 64: (30 + 64·97/127)/127 → 78.88 → 79.
        Feeder feeder(wheelTo({}, {branch("expression", 30, 127)}));
        QCOMPARE(lines(feeder.feed({"0 keys B0 01 00", "1 keys B0 01 40", "2 keys B0 01 7F"})),
                 (QStringList{"0 one B0 0B 1E", "1 one B0 0B 4F", "2 one B0 0B 7F"}));
    }

    /// A chain that only its second source has moved, and that an edit leaves with its first: that one rests.
    void anEditLeavesASourceThatNeverMovedAtRest() {
        Step both = step("combine");
        both.with = ccSource(2);
        Instrument one = instrument();
        one.chains = {chain("c", ccSource(10), {both}, {branch("expression", 0, 127)})};
        Feeder feeder(ensemble({one}));
        QCOMPARE(lines(feeder.feed({"0 keys B0 02 00"})), (QStringList{"0 one B0 0B 00"}));
        one.chains[0].steps.clear();
        // CC 10 is centred: 64 is its middle, and 63.5 rounds up.
        QCOMPARE(lines(feeder.edit(ensemble({one}))), (QStringList{"0 one B0 0B 40"}));
        one.chains[0].branches[0].low = 127.0;
        one.chains[0].branches[0].high = 127.0;
        QCOMPARE(lines(feeder.edit(ensemble({one}))), (QStringList{"0 one B0 0B 7F"}));
        one.chains[0].branches[0].low = 0.0;
        QCOMPARE(lines(feeder.edit(ensemble({one}))), (QStringList{"0 one B0 0B 40"}));
    }

    void lowAboveHighFalls() {
        Feeder feeder(wheelTo({}, {branch("tone", 127, 0)}));
        QCOMPARE(lines(feeder.feed({"0 keys B0 01 00", "0 keys B0 01 7F"})),
                 (QStringList{"0 one B0 4A 7F", "0 one B0 4A 00"}));
    }

    void branchesInOrderThenNothingPassed() {
        Feeder feeder(wheelTo({}, {branch("expression", 0, 127), branch("tone", 0, 127)}));
        QCOMPARE(lines(feeder.feed({"5 keys B0 01 10"})), (QStringList{"5 one B0 0B 10", "5 one B0 4A 10"}));
    }

    void keepOriginalPassesOnceBehindTheChains() {
        Ensemble e = wheelTo({}, {branch("expression", 0, 127)});
        e.instruments[0].chains[0].keepOriginal = true;
        e.instruments[0].chains.push_back(chain("d", ccSource(1), {}, {branch("tone", 0, 127)}));
        e.instruments[0].chains[1].keepOriginal = true;
        e.instruments[0].output.channel = 3;
        Feeder feeder(e);
        QCOMPARE(lines(feeder.feed({"0 keys B9 01 10"})),
                 (QStringList{"0 one B2 0B 10", "0 one B2 4A 10", "0 one B2 01 10"}));
    }

    void repeatsAreSkippedWhoeverSentThem() {
        Feeder feeder(wheelTo({}, {branch("expression", 0, 127)}));
        QCOMPARE(lines(feeder.feed({"0 keys B0 0B 40", "1 keys B0 01 40", "2 keys B0 01 41",
                                    "3 keys B0 0B 41", "4 keys B0 01 41"})),
                 (QStringList{"0 one B0 0B 40", "2 one B0 0B 41", "3 one B0 0B 41"}));
    }

    void resetClearsTheMemoryOfWhatWasSent() {
        Feeder feeder(wheelTo({}, {branch("expression", 0, 127)}));
        QCOMPARE(lines(feeder.feed({"0 keys B0 01 40", "1 keys B0 79 00", "2 keys B0 01 40"})),
                 (QStringList{"0 one B0 0B 40", "1 one B0 79 00", "2 one B0 0B 40"}));
    }

    void repeatsWhereTheParameterWantsThem() {
        Ensemble e = wheelTo({}, {branch("expression", 0, 127)});
        e.instruments[0].parameters[0].repeats = true;
        Feeder feeder(e);
        QCOMPARE(feeder.feed({"0 keys B0 01 40", "1 keys B0 01 40"}).size(), std::size_t{2});
    }

    void channelModeAlwaysPasses() {
        Ensemble e = wheelTo({}, {branch("expression", 0, 127)});
        e.instruments[0].pass.unmatched = false;
        Feeder feeder(e);
        QCOMPARE(lines(feeder.feed({"0 keys B0 07 10", "0 keys B0 7B 00"})), QStringList{"0 one B0 7B 00"});
    }

    void systemMessagesPassWhereWanted() {
        Ensemble e = wheelTo({}, {branch("expression", 0, 127)});
        Feeder closed(e);
        QVERIFY(closed.feed({"0 keys F8", "0 keys F0 7D F7"}).empty());
        e.instruments[0].pass.sysex = true;
        e.instruments[0].pass.clock = true;
        Feeder open(e);
        QCOMPARE(lines(open.feed({"0 keys F8", "0 keys F0 7D 01 F7"})),
                 (QStringList{"0 one F8", "0 one F0 7D 01 F7"}));
    }

    void theInputFilterKeepsNotesOut() {
        Ensemble e = ensemble({instrument()});
        e.instruments[0].input = {"keys", 2, 60, 72, 12, 1, 127, {}, {}};
        Feeder feeder(e);
        QCOMPARE(lines(feeder.feed({"0 pads 91 3C 40", "0 keys 90 3C 40", "0 keys 91 3B 40",
                                    "0 keys 91 3C 40", "1 keys 91 3C 00"})),
                 (QStringList{"0 one 90 48 40", "1 one 90 48 00"}));
    }

    void velocityMovesAChainBeforeItsNote() {
        Ensemble e = ensemble({instrument()});
        Source velocity;
        velocity.kind = SourceKind::velocity;
        e.instruments[0].chains = {chain("c", velocity, {}, {branch("tone", 0, 127)})};
        Feeder feeder(e);
        QCOMPARE(lines(feeder.feed({"0 keys 90 3C 50", "1 keys 80 3C 00"})),
                 (QStringList{"0 one B0 4A 50", "0 one 90 3C 50", "1 one 80 3C 00"}));
    }

    void bendKeepsItsCentre() {
        Ensemble e = ensemble({instrument()});
        Parameter slide;
        slide.id = "slide";
        slide.message.kind = MessageKind::bend;
        e.instruments[0].parameters.push_back(slide);
        Source bend;
        bend.kind = SourceKind::bend;
        e.instruments[0].chains = {chain("c", bend, {}, {branch("slide", -4096, 4095.5)})};
        Feeder feeder(e);
        // The middle goes to the middle: q = ¼ + ½·½ = ½ → 8192. The high end is at 12287.5, and what is sent
        // stays below it.
        QCOMPARE(lines(feeder.feed({"0 keys E0 00 40", "0 keys E0 00 00", "0 keys E0 7F 7F"})),
                 (QStringList{"0 one E0 00 40", "0 one E0 00 20", "0 one E0 7F 5F"}));
    }

    void pressureTurnsIntoAControl() {
        Ensemble e = ensemble({instrument()});
        Source pressure;
        pressure.kind = SourceKind::pressure;
        e.instruments[0].chains = {chain("c", pressure, {step("reverse")}, {branch("tone", 0, 127)})};
        Feeder feeder(e);
        QCOMPARE(lines(feeder.feed({"0 keys D0 00", "0 keys D0 7F"})),
                 (QStringList{"0 one B0 4A 7F", "0 one B0 4A 00"}));
    }

    void smoothMovesOnTheGrid() {
        Step glide = step("smooth", {4, 4});
        glide.values[2] = 1;
        Feeder feeder(wheelTo({glide}, {branch("expression", 0, 127)}));
        QCOMPARE(lines(feeder.feed({"0 keys B0 01 00", "1500 keys B0 01 7F"})),
                 QStringList{"0 one B0 0B 00"});
        QVERIFY(feeder.engine().moving());
        // A quarter of the way at each point: 31.75 → 32, 63.5 → 64, 95.25 → 95, 127.
        QCOMPARE(lines(feeder.until(10000)), (QStringList{"2000 one B0 0B 20", "3000 one B0 0B 40",
                                                          "4000 one B0 0B 5F", "5000 one B0 0B 7F"}));
        QVERIFY(!feeder.engine().moving());
    }

    void theClockActsBeforeTheEventAtOneInstant() {
        Step glide = step("smooth", {2, 2});
        glide.values[2] = 1;
        Feeder feeder(wheelTo({glide}, {branch("expression", 0, 127)}));
        QCOMPARE(lines(feeder.feed({"0 keys B0 01 00", "500 keys B0 01 7F", "1000 keys B0 01 00"})),
                 (QStringList{"0 one B0 0B 00", "1000 one B0 0B 40"}));
    }

    void branchWindowsAndWhatIsOutside() {
        const auto played = [](Outside outside) {
            Branch top = branch("expression", 0, 127);
            top.window = BranchWindow{0.5, 1, outside, {}};
            Ensemble e = wheelTo({}, {top});
            e.instruments[0].parameters[0].rest = Level(64.0);
            Feeder feeder(e);
            return lines(feeder.feed({"0 keys B0 01 7F", "1 keys B0 01 10"}));
        };
        QCOMPARE(played(Outside::clamp), (QStringList{"0 one B0 0B 7F", "1 one B0 0B 00"}));
        QCOMPARE(played(Outside::silent), QStringList{"0 one B0 0B 7F"});
        QCOMPARE(played(Outside::rest), (QStringList{"0 one B0 0B 7F", "1 one B0 0B 40"}));
    }

    void aKeyHeldTwiceEndsWithTheLast() {
        Feeder feeder(ensemble({instrument()}));
        QCOMPARE(lines(feeder.feed({"0 keys 90 3C 40", "1 pads 90 3C 50", "2 keys 80 3C 00",
                                    "3 pads 80 3C 07", "4 pads 80 3C 00"})),
                 (QStringList{"0 one 90 3C 40", "1 one 90 3C 50", "3 one 80 3C 07"}));
    }

    void anOffGoesWhereItsNoteWent() {
        Ensemble e = ensemble({instrument()});
        Feeder feeder(e);
        feeder.feed({"0 keys 90 3C 40"});
        e.instruments[0].output = {"elsewhere", 5, {}};
        e.instruments[0].input.transpose = 7;
        e.instruments[0].pass.notes = false;
        feeder.edit(e);
        QCOMPARE(lines(feeder.feed({"1 keys 80 3C 20"})), QStringList{"1 one 80 3C 20"});
        QVERIFY(feeder.engine().notes().empty());
    }

    void anOffFindsAnInstrumentThatIsGone() {
        Feeder feeder(ensemble({instrument("gone"), instrument("stays", 2)}));
        feeder.feed({"0 keys 90 3C 40"});
        feeder.edit(ensemble({instrument("stays", 2)}));
        QCOMPARE(lines(feeder.feed({"1 keys 80 3C 00"})),
                 (QStringList{"1 stays 81 3C 00", "1 gone 80 3C 00"}));
    }

    void keyPressureFollowsItsNote() {
        Ensemble e = ensemble({instrument()});
        e.instruments[0].input.transpose = 12;
        Feeder feeder(e);
        QCOMPARE(lines(feeder.feed({"0 keys 90 3C 40", "1 keys A0 3C 22"})),
                 (QStringList{"0 one 90 48 40", "1 one A0 48 22"}));
    }

    void silenceAllEndsEverything() {
        Feeder feeder(ensemble({instrument("one"), instrument("two", 2)}));
        feeder.feed({"0 keys 90 3C 40", "0 keys 90 40 40"});
        QCOMPARE(lines(feeder.silenceAll()),
                 (QStringList{"0 one 80 3C 40", "0 two 81 3C 40", "0 one 80 40 40", "0 two 81 40 40",
                              "0 one B0 40 00", "0 one B0 7B 00", "0 one B0 78 00", "0 two B1 40 00",
                              "0 two B1 7B 00", "0 two B1 78 00"}));
        QVERIFY(feeder.feed({"1 keys 80 3C 00"}).empty());
    }

    void anEditIsHeardAtOnce() {
        Ensemble e = wheelTo({}, {branch("expression", 0, 127)});
        Feeder feeder(e);
        feeder.feed({"0 keys B0 01 7F"});
        e.instruments[0].chains[0].branches[0].high = 100.0;
        QCOMPARE(lines(feeder.edit(e)), QStringList{"0 one B0 0B 64"});
        QVERIFY(feeder.edit(e).empty());
    }

    /// What a branch to an instrument that is off remembers stands still, across edits too.
    void anEditBesideABranchThatSmoothsAndLeadsToNobody() {
        Ensemble ensemble = test::ensemble({test::instrument("one"), test::instrument("two", 2)});
        ensemble.instruments[1].on = false;
        Branch nobody = branch("two/tone", 0, 127);
        nobody.steps = {step("smooth", {50, 50})};
        ensemble.sharedChains = {
            chain("shared", ccSource(1), {}, {branch("one/expression", 0, 127), nobody})};
        Feeder feeder(ensemble);
        feeder.feed({"1000 keys B0 01 40"});
        ensemble.title = "Edited";
        feeder.edit(ensemble);
        QVERIFY(!feeder.engine().moving());
        QCOMPARE(lines(feeder.feed({"2000 keys B0 01 41"})).first(), QStringLiteral("2000 one B0 0B 41"));
    }

    void aChainThatIsOffConsumesNothing() {
        Ensemble e = wheelTo({}, {branch("expression", 0, 127)});
        e.instruments[0].chains[0].on = false;
        Feeder feeder(e);
        QCOMPARE(lines(feeder.feed({"0 keys B0 01 40"})), QStringList{"0 one B0 01 40"});
    }

    void aChainThatCannotRunConsumesNothing() {
        Ensemble e = wheelTo({makeStep(*findStepKind("formula"))}, {branch("expression", 0, 127)});
        Feeder feeder(e);
        QCOMPARE(lines(feeder.feed({"0 keys B0 01 40"})), QStringList{"0 one B0 01 40"});
    }

    void aFullNoteMemoryStartsNoNoteItCannotEnd() {
        engine::NoteMemory memory(1024);
        for (std::uint16_t i = 0; i < 1024; ++i) QVERIFY(memory.begin({i, 0, 60}, 1, {1, 0, 60}, 0));
        QVERIFY(!memory.begin({9999, 0, 60}, 1, {1, 0, 60}, 0));
        QCOMPARE(memory.refused(), std::uint64_t{1});
        // A key that is held already takes no more room.
        QVERIFY(memory.begin({5, 0, 60}, 2, {1, 0, 60}, 0));
        // Whoever may allocate makes room, and everything is still found.
        memory.makeRoom(1);
        QVERIFY(memory.begin({9999, 0, 60}, 3, {2, 0, 60}, 0));
        for (std::uint16_t i = 0; i < 1024; ++i) {
            const std::uint32_t cause = memory.find({i, 0, 60});
            QVERIFY(cause != engine::NoteMemory::nothing);
            memory.lift(cause);
            memory.answer(cause);
            // The one that was struck twice expects another off, but is up.
            QCOMPARE(memory.find({i, 0, 60}) == engine::NoteMemory::nothing, i != 5);
        }
        QVERIFY(!memory.sounds(memory.place(memory.firstOf(memory.find({5, 0, 60})))));
    }

    void parametersThatSoundNotesAreToldApartHoweverMany() {
        Ensemble e = ensemble({instrument()});
        Instrument& one = e.instruments[0];
        one.parameters.clear();
        Chain many = chain("many", ccSource(1), {}, {});
        for (int i = 0; i <= 256; ++i) {
            Parameter note;
            note.id = "n" + std::to_string(i);
            note.message.kind = MessageKind::note;
            note.message.number = i == 0 ? 36 : i == 256 ? 38 : 37;
            one.parameters.push_back(note);
            if (i > 0 && i < 256) many.branches.push_back(branch(note.id, 0, 127));
        }
        one.chains = {chain("first", ccSource(2), {}, {branch("n0", 0, 127)}), many,
                      chain("last", ccSource(3), {}, {branch("n256", 0, 127)})};
        Feeder feeder(e);
        QCOMPARE(lines(feeder.feed({"0 k B0 02 7F", "1 k B0 03 7F", "2 k B0 02 00", "3 k B0 03 00"})),
                 (QStringList{"0 one 90 24 64", "1 one 90 26 64", "2 one 80 24 40", "3 one 80 26 40"}));
    }

    /// What is put beside all chains has none: who comes to the port meanwhile is told of chains alone.
    void whoComesIsNotToldOfWhatIsBesideChains() {
        for (const OnConnect wish : {OnConnect::rest, OnConnect::last}) {
            Ensemble e = ensemble({instrument()});
            e.instruments[0].output.onConnect = wish;
            e.instruments[0].chains = {chain("c", ccSource(1), {}, {branch("expression", 0, 127)})};
            const auto program = engine::compile(e, nullptr, nullptr, {{"one", "tone"}});
            QCOMPARE(program->plan.branches.size(), std::size_t{2});
            QCOMPARE(program->plan.firstBeside, 1U);
            engine::Engine engine(program.get());
            QList<int> controls;
            auto note = [&controls](const engine::Output& output) { controls << output.bytes[1]; };
            const engine::Sink sink = engine::sinkTo(note);
            const engine::PortId port = program->plan.lanes()[program->plan.parts[0].lane].port;
            engine.portConnected(port, engine::Engine::Again::no, sink);
            QCOMPARE(controls, wish == OnConnect::rest ? QList<int>{11} : QList<int>{});
        }
    }

    /// A value that nobody knows is taken at once; one that is known is waited for, or met half way.
    void anUnknownValueIsTakenAtOnce() {
        for (const Handover handover : {Handover::meet, Handover::glide}) {
            Ensemble e = ensemble({instrument()});
            e.instruments[0].chains = {chain("c", ccSource(1), {}, {branch("expression", 0, 127)})};
            e.instruments[0].chains[0].handover = handover;
            Feeder feeder(e);
            QCOMPARE(lines(feeder.feed({"0 first B0 01 40"})), (QStringList{"0 one B0 0B 40"}));
            QCOMPARE(lines(feeder.feed({"1 second B0 01 20"})), QStringList{});
            QCOMPARE(lines(feeder.feed({"2 second B0 01 30"})),
                     handover == Handover::meet ? QStringList{} : QStringList{"2 one B0 0B 4B"});
        }
    }

    /// There is room for so many controls that one chain is handed over to; the next one begins unknown, and
    /// is no other control's heir.
    void theFirstControlIsForgottenWhereThereAreMoreThanFit() {
        Ensemble e = ensemble({instrument()});
        e.instruments[0].chains = {chain("c", ccSource(1), {}, {branch("expression", 0, 127)})};
        e.instruments[0].chains[0].handover = Handover::meet;
        Feeder feeder(e);
        QCOMPARE(lines(feeder.feed({"0 first B0 01 00", "1 first B0 01 64"})),
                 (QStringList{"0 one B0 0B 00", "1 one B0 0B 64"}));
        std::vector<std::string> others;
        for (std::uint32_t i = 1; i < engine::handsPerEar; ++i)
            others.push_back("2 p" + std::to_string(i) + " B0 01 0A");
        QCOMPARE(lines(feeder.feed(others)), QStringList{});
        QCOMPARE(lines(feeder.feed({"3 late B0 01 7F"})), QStringList{});
        QCOMPARE(lines(feeder.feed({"4 late B0 01 50"})), (QStringList{"4 one B0 0B 50"}));
    }

    void playingAllocatesNothing() {
        RandomWorld world(7);
        auto program = engine::compile(world.ensemble());
        auto next = engine::compile(world.ensemble(), &program->plan);
        engine::Engine engine(program.get());
        std::vector<std::vector<std::uint8_t>> messages;
        for (int i = 0; i < 5000; ++i) messages.push_back(world.message());
        std::size_t sent = 0;
        auto count = [&](const engine::Output&) { ++sent; };
        const engine::Sink sink = engine::sinkTo(count);
        const std::size_t before = allocations;
        engine::Time time = 0;
        for (const auto& message : messages) engine.process({time += 300, engine::everyPort, message}, sink);
        engine.adopt(next.get(), sink);
        for (const auto& message : messages) engine.process({time += 300, engine::everyPort, message}, sink);
        engine.advance(time + 1000000, sink);
        engine.silenceAll(sink);
        const std::size_t after = allocations;
        QCOMPARE(after, before);
        QVERIFY(sent > 1000);
    }
};

QTEST_APPLESS_MAIN(EngineTest)
#include "engine.moc"
