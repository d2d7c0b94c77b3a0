// Compiling an edited ensemble: what the edit left alone is taken over, and plays as if all had been compiled
// anew.
#include <rapidcheck.h>
#include <QtTest>

#include "core/engine/compiling/compile.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;
using namespace mellow::test;

namespace {

/// Instruments "one", "two" and "three", each with a chain on the wheel and one on the breath control.
Ensemble trio() {
    std::vector<Instrument> instruments{instrument("one", 1), instrument("two", 2), instrument("three", 3)};
    for (Instrument& each : instruments) {
        each.chains = {chain("swell", ccSource(1), {step("bend", {0.3})}, {branch("expression", 10, 120)}),
                       chain("air", ccSource(2), {step("smooth", {20, 20})}, {branch("tone", 0, 127)})};
    }
    return ensemble(instruments);
}

const engine::PlanChain& chainOf(const engine::Plan& plan, const std::string& key) {
    const engine::PlanChain* found =
        plan.chainWithKey(plan.numbering.chainKeys->find(key).value_or(engine::none));
    if (found == nullptr) qFatal("no chain %s", key.c_str());
    return *found;
}

/// What a program sends for a stream, without what came before.
std::vector<std::string> played(engine::Program& program, std::uint32_t seed) {
    RandomWorld world(seed);
    engine::Engine engine(&program);
    engine::Names ports = program.plan.numbering.ports;
    std::vector<std::string> lines;
    auto take = [&](const engine::Output& output) {
        const auto& names = program.plan.numbering;
        lines.push_back(std::to_string(output.time) + " " + names.instruments.name(output.instrument) + " " +
                        names.ports.name(output.port) + " " + midi::toHex(output.bytes) +
                        std::string(output.address) + " " + std::to_string(output.number));
    };
    const engine::Sink sink = engine::sinkTo(take);
    std::int64_t time = 0;
    for (int i = 0; i < 60; ++i) {
        const auto message = world.message();
        const auto port = static_cast<engine::PortId>(ports.intern(world.port()));
        engine.process({time += world.gap(), port, message}, sink);
    }
    engine.advance(time + 50'000, sink);
    return lines;
}

}  // namespace

class CompilingTest : public QObject {
    Q_OBJECT

 private slots:
    void anEditRecompilesOnlyItsChain() {
        Ensemble e = trio();
        const auto before = engine::compile(e);
        e.instruments[1].chains[0].steps[0].values = {0.6};
        const auto after = engine::compile(e, &before->plan);
        for (const char* key : {"one/swell", "one/air", "two/air", "three/swell", "three/air"}) {
            QCOMPARE(chainOf(after->plan, key).body, chainOf(before->plan, key).body);
            QCOMPARE(chainOf(after->plan, key).version, chainOf(before->plan, key).version);
        }
        QVERIFY(chainOf(after->plan, "two/swell").body != chainOf(before->plan, "two/swell").body);
        QVERIFY(chainOf(after->plan, "two/swell").version != chainOf(before->plan, "two/swell").version);
    }

    void whatIsSwitchedOffCanBeEditedUnheard() {
        Ensemble e = trio();
        e.instruments[0].chains[0].steps[0].on = false;
        const auto before = engine::compile(e);
        e.instruments[0].chains[0].steps[0].values = {-0.5};
        const auto after = engine::compile(e, &before->plan);
        QCOMPARE(chainOf(after->plan, "one/swell").version, chainOf(before->plan, "one/swell").version);
    }

    void aParameterThatChangesRecompilesWhatLeadsToIt() {
        Ensemble e = trio();
        e.sharedChains = {chain("all", ccSource(3), {}, {branch("three/expression", 0, 127)})};
        const auto before = engine::compile(e);
        e.instruments[2].parameters[0].message.number = 7;
        const auto after = engine::compile(e, &before->plan);
        const std::string shared = sharedOwner + "/all";
        QVERIFY(chainOf(after->plan, shared).body != chainOf(before->plan, shared).body);
        QVERIFY(chainOf(after->plan, "three/swell").body != chainOf(before->plan, "three/swell").body);
        QCOMPARE(chainOf(after->plan, "three/air").body, chainOf(before->plan, "three/air").body);
    }

    void aControllerThatChangesReachesEveryChainThatRefersToIt() {
        Ensemble e = trio();
        Controller desk;
        desk.id = "desk";
        desk.port = anyPort;
        desk.controls = {{"knob", "Knob", {MessageKind::cc, 20, {}, 100, {}, {}, {}}, {}, {}}};
        e.controllers = {desk};
        Source& source = e.instruments[0].chains[0].source;
        source = makeSource(SourceKind::control);
        source.controller = "desk";
        source.control = "knob";
        Feeder feeder(e);
        QCOMPARE(feeder.feed({"0 keys B0 14 7F"}).front(), std::string("0 one B0 0B 78"));
        e.controllers[0].controls[0].message.number = 21;
        feeder.edit(e);
        QCOMPARE(feeder.feed({"1 keys B0 15 00"}).front(), std::string("1 one B0 0B 0A"));
    }

    void chainsThatComeToTheSameShareOneTable() {
        Ensemble e = trio();
        e.instruments[2].chains[0].branches[0].low = 11.0;
        const auto program = engine::compile(e);
        const auto table = [&](const char* key) { return chainOf(program->plan, key).table; };
        QVERIFY(table("one/swell") != nullptr);
        QCOMPARE(table("one/swell"), table("two/swell"));
        QVERIFY(table("one/swell") != table("three/swell"));
        Feeder feeder(e);
        QCOMPARE(feeder.feed({"0 keys B0 01 00"}),
                 (std::vector<std::string>{"0 one B0 0B 0A", "0 two B1 0B 0A", "0 three B2 0B 0B"}));
    }

    void aChainThatLeadsNowhereIsNoTrouble() {
        Ensemble e = trio();
        e.instruments[0].chains = {chain("nowhere", ccSource(1), {step("bend", {0.5})}, {})};
        Feeder feeder(e);
        QVERIFY(feeder.feed({"0 keys B0 01 40"}).size() == 2);
        e.instruments[2].name = "Third";
        QVERIFY(feeder.edit(e).empty());
        QCOMPARE(feeder.feed({"1 keys B0 01 41"}).size(), std::size_t{2});
    }

    void aSecondSourceOfASilentBranchHasAPlaceToStand() {
        Ensemble e = trio();
        e.instruments.resize(1);
        e.instruments[0].chains.clear();
        Instrument off = instrument("off", 2);
        off.on = false;
        e.instruments.push_back(off);
        Branch silent = branch("off/expression", 0, 127);
        silent.steps = {makeStep(*findStepKind("combine"))};
        silent.steps[0].with->number = 5;
        e.sharedChains = {chain("all", ccSource(3), {}, {silent})};
        const auto program = engine::compile(e);
        const engine::PlanChain& all = chainOf(program->plan, sharedOwner + "/all");
        QCOMPARE(all.earCount, 2U);
        QVERIFY(program->plan.ears[all.firstEar + 1].step < program->state.steps.size());
        Feeder feeder(e);
        QVERIFY(feeder.feed({"0 keys B0 03 40", "1 keys B0 05 40"}).empty());
    }

    void takingOverIsCompilingAnew() {
        QVERIFY(rc::check("a plan made from the one before plays as a plan made from nothing", [] {
            const auto seed = *rc::gen::arbitrary<std::uint32_t>();
            RandomWorld world(seed);
            Ensemble e = world.ensemble();
            auto program = engine::compile(e);
            for (int edits = 0; edits < 8; ++edits) {
                world.edit(e);
                if (world.oneIn(4) && e.instruments.size() > 1)
                    e.instruments.insert(e.instruments.begin(), instrument("new" + std::to_string(edits)));
                program = engine::compile(e, &program->plan);
                const auto anew = engine::compile(e);
                RC_ASSERT(played(*program, seed + 1) == played(*anew, seed + 1));
            }
        }));
    }
};

QTEST_GUILESS_MAIN(CompilingTest)
#include "compiling.moc"
