// The engine against a loop that a programmer would write by hand for one ensemble and no other.
//
// One control through a window and a bend to eight branches: the loop has eight tables, remembers what it
// sent last, and hands messages to the same kind of sink. The engine does the same by way of a plan, and must
// not take more than twice as long.
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
    state.counters["messages"] =
        benchmark::Counter(static_cast<double>(counted.messages), benchmark::Counter::kAvgIterations);
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

void engineProcess(benchmark::State& state) {
    const auto program = engine::compile(fan());
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
BENCHMARK(engineProcess);

}  // namespace

BENCHMARK_MAIN();
