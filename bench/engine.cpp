// The engine against a loop that a programmer would write by hand for one ensemble and no other.
//
// One control through a window and a bend to eight branches: the loop has eight tables, remembers what it
// sent last, and hands messages to the same kind of sink. The engine does the same by way of a plan, and is
// to take no more than one and a half times as long.
#include <benchmark/benchmark.h>

#include <array>
#include <cmath>

#include "core/checks/checker.h"
#include "core/engine/compiling/compile.h"
#include "core/engine/playing/engine.h"
#include "core/model/law.h"
#include "orchestra.h"

using namespace mellow;
using namespace mellow::bench;

namespace {

/// A wheel that goes up and down.
std::uint8_t wheel(std::uint32_t tick) {
    const std::uint32_t place = tick % 254;
    return static_cast<std::uint8_t>(place < 127 ? place : 254 - place);
}

struct Counted {
    std::uint64_t messages = 0;
    std::uint64_t sum = 0;
    void operator()(const engine::Output& output) {
        ++messages;
        sum += output.bytes[2];
    }
};

void report(benchmark::State& state, Counted& counted) {
    benchmark::DoNotOptimize(counted.sum);
    // A label, since in a CSV file every benchmark must have the same counters.
    state.SetLabel(
        std::to_string(static_cast<double>(counted.messages) / static_cast<double>(state.iterations())) +
        " messages an event");
}

void handWritten(benchmark::State& state) {
    const Ensemble ensemble = fan();
    const Chain& chain = ensemble.instruments[0].chains[0];
    std::array<std::array<std::uint8_t, 128>, branches> tables{};
    for (int b = 0; b < branches; ++b) {
        const auto& branch = chain.branches[static_cast<std::size_t>(b)];
        for (int raw = 0; raw < 128; ++raw) {
            const double p = settledPosition(chain.steps, raw / 127.0);
            const double q = (std::get<double>(branch.low) +
                              p * (std::get<double>(branch.high) - std::get<double>(branch.low))) /
                             127;
            tables[static_cast<std::size_t>(b)][static_cast<std::size_t>(raw)] =
                static_cast<std::uint8_t>(encode(Scale::edge, clampPosition(q), 127));
        }
    }
    std::array<int, branches> last{};
    last.fill(-1);
    Counted counted;
    engine::Sink sink = engine::sinkTo(counted);
    benchmark::DoNotOptimize(sink);
    std::uint32_t tick = 0;
    for (auto _ : state) {
        const std::array<std::uint8_t, 3> in{0xB0, 1, wheel(tick++)};
        for (std::size_t b = 0; b < branches; ++b) {
            const int value = tables[b][in[2]];
            if (value == last[b]) continue;
            last[b] = value;
            const std::array<std::uint8_t, 3> out{0xB0, static_cast<std::uint8_t>(20 + b),
                                                  static_cast<std::uint8_t>(value)};
            sink({tick, 1, 0, 0, static_cast<std::int32_t>(b), out});
        }
    }
    report(state, counted);
}
BENCHMARK(handWritten);

void play(benchmark::State& state, const Ensemble& ensemble) {
    const auto program = engine::compile(ensemble);
    engine::Engine engine(program.get());
    Counted counted;
    engine::Sink sink = engine::sinkTo(counted);
    benchmark::DoNotOptimize(sink);
    std::uint32_t tick = 0;
    for (auto _ : state) {
        const std::array<std::uint8_t, 3> in{0xB0, 1, wheel(tick++)};
        engine.process({tick, 1, in}, sink);
    }
    report(state, counted);
}

void engineProcess(benchmark::State& state) {
    play(state, fan());
}
BENCHMARK(engineProcess);

void engineProcessInOrchestra(benchmark::State& state) {
    play(state, orchestra());
}
BENCHMARK(engineProcessInOrchestra);

/// The same where the hand may change with any event, and where zones decide what passes: both hear each
/// route.
void inOrchestraWithSections(benchmark::State& state) {
    Ensemble ensemble = orchestra();
    ensemble.sections.push_back({"all", "", {ensemble.instruments[0].id}, {}});
    play(state, ensemble);
}
BENCHMARK(inOrchestraWithSections);
void inOrchestraWithZones(benchmark::State& state) {
    Ensemble ensemble = orchestra();
    ensemble.instruments[0].output.keepChannels = true;
    play(state, ensemble);
}
BENCHMARK(inOrchestraWithZones);

/// One event that all of a section answer, in an ensemble whose hand a chain chooses; and what a single
/// player costs there.
void onePlayer(benchmark::State& state) {
    play(state, section(1));
}
BENCHMARK(onePlayer);
void sectionOfForty(benchmark::State& state) {
    play(state, section(40));
}
BENCHMARK(sectionOfForty);

void advanceIdle(benchmark::State& state) {
    const auto program = engine::compile(orchestra());
    engine::Engine engine(program.get());
    Counted counted;
    const engine::Sink sink = engine::sinkTo(counted);
    engine::Time now = 0;
    for (auto _ : state) engine.advance(now += 1000, sink);
    benchmark::DoNotOptimize(counted.sum);
}
BENCHMARK(advanceIdle);

void compileWhole(benchmark::State& state) {
    const Ensemble ensemble = orchestra();
    for (auto _ : state) benchmark::DoNotOptimize(engine::compile(ensemble));
}
BENCHMARK(compileWhole)->Unit(benchmark::kMillisecond);

void compileWholeUnalike(benchmark::State& state) {
    const Ensemble ensemble = unalikeOrchestra();
    for (auto _ : state) benchmark::DoNotOptimize(engine::compile(ensemble));
}
BENCHMARK(compileWholeUnalike)->Unit(benchmark::kMillisecond);

/// What an edit costs until the new plan plays: compiling on the editing side, and taking over on the playing
/// side.
void compileAfterAnEdit(benchmark::State& state) {
    Ensemble ensemble = orchestra();
    auto program = engine::compile(ensemble);
    double amount = 0;
    for (auto _ : state) {
        ensemble.instruments[100].chains[7].steps[1].values = {amount = amount > 0.5 ? 0 : amount + 0.01};
        program = engine::compile(ensemble, &program->plan);
    }
}
BENCHMARK(compileAfterAnEdit)->Unit(benchmark::kMillisecond);

void adoptAfterAnEdit(benchmark::State& state) {
    const Ensemble ensemble = orchestra();
    auto program = engine::compile(ensemble);
    auto other = engine::compile(ensemble, &program->plan);
    engine::Engine engine(program.get());
    Counted counted;
    const engine::Sink sink = engine::sinkTo(counted);
    engine::Program* next = other.get();
    for (auto _ : state) next = engine.adopt(next, sink);
}
BENCHMARK(adoptAfterAnEdit)->Unit(benchmark::kMillisecond);

/// Every finding of the orchestra after one branch of one chain was moved.
void checkAfterAnEdit(benchmark::State& state) {
    auto ensemble = std::make_shared<const Ensemble>(orchestra());
    Checker checker;
    benchmark::DoNotOptimize(checker.check(ensemble).size());
    double high = 60;
    for (auto _ : state) {
        state.PauseTiming();
        auto edited = std::make_shared<Ensemble>(*ensemble);
        edited->instruments[100].chains[7].branches[1].high = high = high < 120 ? high + 1 : 60;
        ensemble = edited;
        state.ResumeTiming();
        benchmark::DoNotOptimize(checker.check(ensemble).size());
    }
}
BENCHMARK(checkAfterAnEdit)->Unit(benchmark::kMillisecond);

/// One control through something that remembers, to one branch.
void playRemembering(benchmark::State& state, const char* kind) {
    Ensemble ensemble = fan();
    Chain& chain = ensemble.instruments[0].chains[0];
    chain.branches.resize(1);
    if (*kind != '\0') chain.steps.push_back(makeStep(*findStepKind(kind)));
    if (!chain.steps.empty() && chain.steps.back().with) chain.steps.back().with->number = 2;
    play(state, ensemble);
}
void toOneBranch(benchmark::State& state) {
    playRemembering(state, "");
}
BENCHMARK(toOneBranch);
void throughSmooth(benchmark::State& state) {
    playRemembering(state, "smooth");
}
BENCHMARK(throughSmooth);
void throughGate(benchmark::State& state) {
    playRemembering(state, "gate");
}
BENCHMARK(throughGate);
void throughCombine(benchmark::State& state) {
    playRemembering(state, "combine");
}
BENCHMARK(throughCombine);
void intoAMix(benchmark::State& state) {
    Ensemble ensemble = fan();
    ensemble.instruments[0].chains[0].branches.resize(1);
    ensemble.instruments[0].parameters[0].mix = Mix::highest;
    play(state, ensemble);
}
BENCHMARK(intoAMix);
void intoARegister(benchmark::State& state) {
    Ensemble ensemble = fan();
    ensemble.instruments[0].chains[0].branches.resize(1);
    ensemble.instruments[0].parameters[0].message.kind = MessageKind::nrpn;
    ensemble.instruments[0].chains[0].branches[0].high = 16383.0;
    play(state, ensemble);
}
BENCHMARK(intoARegister);

}  // namespace

BENCHMARK_MAIN();
