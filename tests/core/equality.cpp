// The engine against the reference interpreter: random ensembles, random streams, edits and silences in
// mid-stream, and the same bytes at the same times in the same order from both.
//
// MELLOW_EVENTS sets how many events are played (default 200,000); MELLOW_SEED plays one world alone.
#include <rapidcheck.h>
#include <QtTest>
#include <map>
#include <random>
#include <set>

#include "core/engine/compiling/compile.h"
#include "core/engine/playing/engine.h"
#include "core/store/ensemble_json.h"
#include "reference/interpreter.h"
#include "support/build.h"
#include "support/random_ensemble.h"

using namespace mellow;

namespace {

using Sents = std::vector<reference::Sent>;

/// The engine behind the reference's interface.
class Engine {
 public:
    explicit Engine(const Ensemble& ensemble)
        : program_(compiled(ensemble)), engine_(program_.get()), ports_(program_->plan.numbering.ports) {}

    Sents process(std::int64_t time, const std::string& port, const std::vector<std::uint8_t>& bytes) {
        const auto id = static_cast<engine::PortId>(ports_.intern(port));
        return collect([&](const engine::Sink& sink) { engine_.process({time, id, bytes}, sink); });
    }
    Sents advance(std::int64_t until) {
        return collect([&](const engine::Sink& sink) { engine_.advance(until, sink); });
    }
    Sents silenceAll() {
        return collect([&](const engine::Sink& sink) { engine_.silenceAll(sink); });
    }
    Sents edit(const Ensemble& ensemble) {
        // Ports that only the stream named so far must keep their numbers.
        auto next = engine::compile(ensemble, &program_->plan, &ports_);
        return collect([&](const engine::Sink& sink) {
            engine_.adopt(next.get(), sink);
            program_ = std::move(next);
            ports_ = program_->plan.numbering.ports;
        });
    }
    Sents processOsc(std::int64_t time, const std::string& port, const std::string& address, double number) {
        const auto id = static_cast<engine::PortId>(ports_.intern(port));
        return collect([&](const engine::Sink& sink) {
            engine_.process({time, id, {}, address, number}, sink);
        });
    }
    void setTempo(double bpm) { engine_.setTempo(bpm); }
    [[nodiscard]] bool notesHeld() const { return !engine_.notes().empty(); }

 private:
    /// Ports numbered by name, as the reference keeps them.
    static std::unique_ptr<engine::Program> compiled(const Ensemble& ensemble) {
        engine::Plan first;
        for (const char* name : {"any", "keys", "pads", "wind"}) first.numbering.ports.intern(name);
        return engine::compile(ensemble, &first);
    }

    template<class Act>
    Sents collect(Act&& act) {
        Sents sents;
        auto take = [&](const engine::Output& out) {
            const engine::Plan& plan = engine_.program().plan;
            sents.push_back({out.time,
                             plan.numbering.instruments.name(out.instrument),
                             plan.numbering.ports.name(out.port),
                             {out.bytes.begin(), out.bytes.end()},
                             std::string(out.address),
                             out.number});
        };
        act(engine::sinkTo(take));
        return sents;
    }

    std::unique_ptr<engine::Program> program_;
    engine::Engine engine_;
    engine::Names ports_;
};

/// Listens to what is sent, as an instrument would, and knows which keys sound.
class Listener {
 public:
    void hear(const Sents& sents) {
        for (const auto& sent : sents) {
            if (sent.bytes.empty()) continue;
            const int kind = sent.bytes[0] & 0xF0;
            const std::pair lane{sent.port, sent.bytes[0] & 0x0F};
            if (kind == 0x90 && sent.bytes[2] > 0) sounding_[lane].insert(sent.bytes[1]);
            if (kind == 0x80 || (kind == 0x90 && sent.bytes[2] == 0)) sounding_[lane].erase(sent.bytes[1]);
            if (kind == 0xB0 && (sent.bytes[1] == 120 || sent.bytes[1] >= 123)) sounding_[lane].clear();
        }
    }
    [[nodiscard]] bool silent() const {
        return std::all_of(sounding_.begin(), sounding_.end(),
                           [](const auto& lane) { return lane.second.empty(); });
    }
    [[nodiscard]] std::string text() const {
        std::string all;
        for (const auto& [lane, keys] : sounding_) {
            for (const int key : keys)
                all += lane.first + " channel " + std::to_string(lane.second + 1) + " key " +
                       std::to_string(key) + "\n";
        }
        return all;
    }

 private:
    std::map<std::pair<std::string, int>, std::set<int>> sounding_;
};

std::string text(const Sents& sents) {
    std::string all;
    for (const auto& sent : sents) {
        all += std::to_string(sent.time) + " " + sent.instrument + "@" + sent.port + " " +
               midi::toHex(sent.bytes) +
               (sent.address.empty() ? "" : sent.address + " " + std::to_string(sent.number)) + "\n";
    }
    return all;
}

int eventsWanted() {
    const int asked = qEnvironmentVariableIntValue("MELLOW_EVENTS");
    return asked > 0 ? asked : 200000;
}

/// Plays one random world; stops at the first difference.
void playWorld(std::uint32_t seed, int events) {
    test::RandomWorld world(seed);
    Ensemble ensemble = world.ensemble();
    Engine fast(ensemble);
    reference::Interpreter slow(ensemble);
    Listener listener;
    std::int64_t time = 0;
    const auto agree = [&](const Sents& one, const Sents& other, const std::string& what) {
        listener.hear(one);
        if (one == other) return;
        RC_FAIL("seed " + std::to_string(seed) + " at " + std::to_string(time) + " " + what + "\nengine:\n" +
                text(one) + "reference:\n" + text(other) + store::printEnsemble(ensemble));
    };
    std::map<std::tuple<std::string, int, int>, int> down;
    for (int i = 0; i < events; ++i) {
        time += world.gap();
        const auto message = world.message();
        const std::string port = world.port();
        const auto one = fast.process(time, port, message);
        agree(one, slow.process(time, port, message), port + " " + midi::toHex(message));
        if ((message[0] & 0xE0) == 0x80) {
            const bool on = (message[0] & 0xF0) == 0x90 && message[2] > 0;
            int& count = down[{port, message[0] & 0x0F, message[1]}];
            count = on ? count + 1 : std::max(0, count - 1);
        }
        if (world.oneIn(30)) {
            const std::string address = world.oneIn(2) ? "/wind" : "/tile/tilt";
            const double number = world.unit() * 1.2 - 0.1;
            const auto heard = fast.processOsc(time, port, address, number);
            agree(heard, slow.processOsc(time, port, address, number), address);
        }
        if (world.oneIn(15)) {
            const test::DeskMove move = world.deskMove();
            const auto moved = fast.processOsc(time, "desk", move.address, move.position);
            agree(moved, slow.processDesk(time, move.address, move.position), move.address);
        }
        if (world.oneIn(60)) {
            // Sixteen clocks in a row, which make a tempo; now and then at one time, or after a pause.
            const std::int64_t apart = world.oneIn(5) ? 0 : 1 + world.below(60000);
            for (int clock = 0; clock < 16; ++clock) {
                const std::uint8_t status = world.oneIn(20) ? (world.oneIn(2) ? 0xFA : 0xFB) : 0xF8;
                time += apart;
                const auto heard = fast.process(time, port, {status});
                agree(heard, slow.process(time, port, {status}), port + " clock");
            }
        }
        if (world.oneIn(100)) {
            const double bpm = world.oneIn(3) ? 0 : 20 + world.below(300);
            fast.setTempo(bpm);
            slow.setTempo(bpm);
        }
        if (world.oneIn(80)) {
            world.edit(ensemble);
            const auto edited = fast.edit(ensemble);
            agree(edited, slow.edit(ensemble), "edit");
        }
        if (world.oneIn(500)) {
            const auto silenced = fast.silenceAll();
            agree(silenced, slow.silenceAll(), "silence all");
        }
    }
    for (const auto& [key, count] : down) {
        for (int i = 0; i < count; ++i) {
            const std::vector<std::uint8_t> off{static_cast<std::uint8_t>(0x80 + std::get<1>(key)),
                                                static_cast<std::uint8_t>(std::get<2>(key)), 64};
            const auto one = fast.process(time, std::get<0>(key), off);
            agree(one, slow.process(time, std::get<0>(key), off), "keys up");
        }
    }
    time += 500000;
    const auto settled = fast.advance(time);
    agree(settled, slow.advance(time), "settling");
    // What parameters sound is let go when an instrument leaves the hand. A hand that a chain chose holds
    // until the document says something else, so that is said first.
    for (const bool inHand : {false, true, false}) {
        ensemble.inHand.reset();
        if (!inHand) ensemble.inHand.emplace();
        const auto edited = fast.edit(ensemble);
        agree(edited, slow.edit(ensemble), "all or nothing in hand");
    }
    if (!listener.silent())
        RC_FAIL("seed " + std::to_string(seed) + " notes hang\nengine:\n" + listener.text() +
                store::printEnsemble(ensemble));
    RC_ASSERT(!fast.notesHeld());
}

/// Chains of fourteen bits that are all bent differently, more than there is room for in tables.
Ensemble moreThanTablesTake() {
    Instrument one = test::instrument();
    Source pair = test::ccSource(1);
    pair.kind = SourceKind::cc14;
    for (int i = 0; i < 24; ++i) {
        Branch high = test::branch("tone", 0, 127);
        if (i % 3 == 1) high.window = BranchWindow{0.25, 0.75, Outside::rest, {}};
        if (i % 3 == 2) high.window = BranchWindow{0.25, 0.75, Outside::silent, {}};
        one.chains.push_back(test::chain("c" + std::to_string(i), pair,
                                         {test::step("bend", {0.02 * (i + 1)})},
                                         {test::branch("expression", 127, i), high}));
    }
    return test::ensemble({one});
}

}  // namespace

class EqualityTest : public QObject {
    Q_OBJECT

 private slots:
    void engineAndReferenceAgree() {
        constexpr int perWorld = 1000;
        constexpr std::uint32_t maxSeed = 4294967295U;
        if (qEnvironmentVariableIsSet("MELLOW_SEED")) {
            const auto seed = qEnvironmentVariable("MELLOW_SEED").toUInt();
            QVERIFY(rc::check("engine equals reference", [seed] { playWorld(seed, perWorld); }));
            return;
        }
        // Every check of one process draws the same numbers, so each round makes other worlds of them.
        std::uint32_t round = 0;
        for (int played = 0; played < eventsWanted(); played += 100 * perWorld, ++round) {
            QVERIFY(rc::check("engine equals reference", [round] {
                playWorld(
                    round * 0x9E3779B9U + *rc::gen::noShrink(rc::gen::resize(
                                              rc::kNominalSize, rc::gen::inRange<std::uint32_t>(0, maxSeed))),
                    perWorld);
            }));
        }
    }

    /// What tables have no room for is evaluated, to the same bytes.
    void beyondTheTablesNothingChanges() {
        const Ensemble ensemble = moreThanTablesTake();
        const auto program = engine::compile(ensemble);
        const auto evaluated = [](const engine::PlanChain& chain) { return chain.isEvaluated(); };
        const auto& chains = program->plan.chains;
        QVERIFY(!evaluated(chains.front()) && evaluated(chains.back()));
        Engine fast(ensemble);
        reference::Interpreter slow(ensemble);
        std::mt19937 random(5);
        for (int time = 0; time < 4000; ++time) {
            const std::vector<std::uint8_t> bytes{0xB0, static_cast<std::uint8_t>(random() % 2 ? 1 : 33),
                                                  static_cast<std::uint8_t>(random() % 128)};
            QCOMPARE(text(fast.process(time, "any", bytes)), text(slow.process(time, "any", bytes)));
        }
    }

    /// What a step remembers is there when its instrument is on again, also where nothing but the instrument
    /// kept the chain from being looked up.
    void whatIsOffStillRemembers() {
        Instrument one = test::instrument();
        Branch branch = test::branch("tone", 0, 127);
        branch.steps.push_back(test::step("formula", {}));
        branch.steps[0].values = {FieldValue{std::string("x>0.5 ? 1-x : 0/0")}};
        one.chains.push_back(test::chain("c", test::ccSource(1), {}, {branch}));
        Ensemble ensemble = test::ensemble({one});
        Engine fast(ensemble);
        reference::Interpreter slow(ensemble);
        const auto agree = [](const Sents& heard, const Sents& expected) {
            QCOMPARE(text(heard), text(expected));
        };
        const auto turn = [&](std::uint8_t value) {
            agree(fast.process(0, "any", {0xB0, 1, value}), slow.process(0, "any", {0xB0, 1, value}));
        };
        const auto setOn = [&](bool on) {
            ensemble.instruments[0].on = on;
            agree(fast.edit(ensemble), slow.edit(ensemble));
        };
        turn(100);
        setOn(false);
        turn(10);
        setOn(true);
    }
};

QTEST_APPLESS_MAIN(EqualityTest)
#include "equality.moc"
