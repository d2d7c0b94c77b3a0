// The engine against a loop that a programmer would write by hand for one ensemble and no other.
//
// One control through a window and a bend to eight branches: the loop has eight tables, remembers what it
// sent last, and hands messages to the same kind of sink. The engine does the same by way of a plan, and is
// to take no more than one and a half times as long.
#include <benchmark/benchmark.h>

#include <array>
#include <cmath>

#include "core/engine/compile.h"
#include "core/engine/engine.h"
#include "core/model/law.h"

using namespace mellow;

namespace {

constexpr int branches = 8;

Ensemble fan() {
    Instrument instrument;
    instrument.id = "one";
    instrument.output = {"out", 1, {}};
    Chain chain;
    chain.id = "swell";
    chain.source.number = 1;
    chain.steps = {makeStep(*findStepKind("window")), makeStep(*findStepKind("bend"))};
    chain.steps[0].values = {0.063, 0.945};
    chain.steps[1].values = {0.35};
    for (int i = 0; i < branches; ++i) {
        Parameter parameter;
        parameter.id = "p" + std::to_string(i);
        parameter.message.number = 20 + i;
        instrument.parameters.push_back(parameter);
        Branch branch;
        branch.target = parameter.id;
        branch.low = 5.0 * i;
        branch.high = 127.0 - 3.0 * i;
        chain.branches.push_back(branch);
    }
    instrument.chains.push_back(chain);
    Ensemble ensemble;
    ensemble.instruments.push_back(instrument);
    return ensemble;
}

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

/// 200 instruments of 20 chains of 4 branches, each chain on a control and channel of its own as far as there
/// are so many; the fan of above is chain 0 of the first.
Ensemble orchestra() {
    Ensemble ensemble = fan();
    for (int i = 0; i < 200; ++i) {
        Instrument instrument;
        instrument.id = "player" + std::to_string(i);
        instrument.output = {"hall" + std::to_string(i / 16), 1 + i % 16, {}};
        instrument.input.channel = 2 + i % 15;
        for (int p = 0; p < 8; ++p) {
            Parameter parameter;
            parameter.id = "p" + std::to_string(p);
            parameter.message.number = 70 + p;
            instrument.parameters.push_back(parameter);
        }
        for (int c = 0; c < 20; ++c) {
            Chain chain;
            chain.id = "c" + std::to_string(c);
            chain.source.number = 20 + (i * 20 + c) % 44;
            chain.steps = {makeStep(*findStepKind("window")), makeStep(*findStepKind("bend"))};
            chain.steps[1].values = {0.01 * c};
            for (int b = 0; b < 4; ++b) {
                Branch branch;
                branch.target = "p" + std::to_string((c + b) % 8);
                branch.low = 1.0 * b;
                branch.high = 127.0 - b;
                chain.branches.push_back(branch);
            }
            instrument.chains.push_back(chain);
        }
        ensemble.instruments.push_back(instrument);
    }
    // Only the first instrument passes what no chain takes, as in the small ensemble.
    for (std::size_t i = 1; i < ensemble.instruments.size(); ++i)
        ensemble.instruments[i].pass.unmatched = false;
    return ensemble;
}

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

/// The same where no two chains bend alike, so that no table can be shared.
void compileWholeUnalike(benchmark::State& state) {
    Ensemble ensemble = orchestra();
    double amount = -1;
    for (Instrument& instrument : ensemble.instruments) {
        for (Chain& chain : instrument.chains) chain.steps[1].values = {amount += 0.0004};
    }
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

}  // namespace

BENCHMARK_MAIN();
