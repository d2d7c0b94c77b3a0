#include "support/random_ensemble.h"

#include <algorithm>
#include <array>

#include "core/model/law.h"

namespace mellow::test {

namespace {
// Few numbers, so that chains, parameters and messages meet.
constexpr std::array<int, 7> numbers{1, 2, 10, 11, 64, 74, 121};
constexpr std::array<const char*, 3> ports{"keys", "pads", "wind"};
}  // namespace

std::string RandomWorld::port() {
    return oneIn(10) ? std::string(anyPort) : ports[static_cast<std::size_t>(below(3))];
}

std::int64_t RandomWorld::gap() {
    if (oneIn(3)) return 0;
    return oneIn(20) ? below(400000) : below(4000);
}

Source RandomWorld::source() {
    static constexpr std::array kinds{SourceKind::cc,   SourceKind::cc,       SourceKind::cc,
                                      SourceKind::bend, SourceKind::pressure, SourceKind::velocity};
    Source source;
    source.kind = oneIn(40) ? SourceKind::lfo : kinds[static_cast<std::size_t>(below(kinds.size()))];
    if (row(source.kind).numbered) source.number = numbers[static_cast<std::size_t>(below(6))];
    if (oneIn(4)) source.channel = 1 + below(2);
    if (oneIn(5)) source.controller = "controller";
    if (oneIn(5)) source.rest = oneIn(2) ? Rest::middle : Rest::low;
    return source;
}

Step RandomWorld::step() {
    static constexpr std::array names{"window", "reverse", "bend",   "points",   "smooth",
                                      "smooth", "sCurve",  "restAt", "deadZone", "levels",
                                      "gate",   "latch",   "scale",  "thin",     "hold"};
    Step step =
        makeStep(*findStepKind(oneIn(60) ? "formula" : names[static_cast<std::size_t>(below(names.size()))]));
    step.on = !oneIn(10);
    if (step.kind->name == "window") step.values = {unit(), oneIn(8) ? 0.5 : unit()};
    if (step.kind->name == "bend") step.values = {unit() * 2 - 1};
    if (step.kind->name == "smooth") {
        step.values = {oneIn(4) ? 0.0 : static_cast<double>(below(60)),
                       oneIn(4) ? 0.0 : static_cast<double>(below(60)), below(2)};
    }
    if (step.kind->name == "hold") step.values = {below(2)};
    if (step.kind->name == "sCurve") step.values = {unit() * 2 - 1};
    if (step.kind->name == "restAt") step.values = {0.01 + unit() * 0.98, 0.01 + unit() * 0.98};
    if (step.kind->name == "deadZone") step.values = {unit(), unit() * (oneIn(4) ? 1.0 : 0.3)};
    if (step.kind->name == "levels")
        step.values = {static_cast<double>(2 + below(6)), unit() * 0.6, std::vector<std::string>{}};
    if (step.kind->name == "gate") step.values = {unit(), unit() * 0.2};
    if (step.kind->name == "scale") step.values = {unit() * 4 - 2, unit() * 2 - 1};
    if (step.kind->name == "thin")
        step.values = {oneIn(3) ? 0.0 : unit() * 0.2, oneIn(3) ? 0.0 : static_cast<double>(below(30))};
    if (step.kind->name == "points") {
        std::vector<Point> points{{0, unit()}};
        for (int i = 1; i < 2 + below(4); ++i) points.push_back({i / 6.0, unit()});
        points.push_back({1, unit()});
        step.values = {points, below(2)};
    }
    return step;
}

Parameter RandomWorld::parameter(int index) {
    static constexpr std::array kinds{MessageKind::cc, MessageKind::cc, MessageKind::bend,
                                      MessageKind::pressure};
    Parameter parameter;
    parameter.id = "p" + std::to_string(index);
    parameter.message.kind =
        oneIn(40) ? MessageKind::nrpn : kinds[static_cast<std::size_t>(below(kinds.size()))];
    parameter.message.number =
        row(parameter.message.kind).numbered ? numbers[static_cast<std::size_t>(below(numbers.size()))] : 0;
    switch (below(6)) {
        case 0:
            parameter.display = {20.0, 20000.0, "Hz", Law::log, {}, {}};
            break;
        case 1:
            parameter.display = {{}, {}, "dB", Law::decibel, {}, {}};
            break;
        case 2:
            parameter.display = {-100.0, 100.0, "%", {}, {}, {}};
            break;
        case 3:
            parameter.display = {{}, {}, "", Law::choices, {"off", "half", "full"}, {}};
            break;
        default:
            break;
    }
    if (oneIn(5)) parameter.centred = oneIn(2);
    if (oneIn(3)) parameter.rest = level(parameter);
    parameter.repeats = oneIn(6);
    return parameter;
}

Level RandomWorld::level(const Parameter& parameter) {
    if (parameter.display.law == Law::decibel && oneIn(4)) return std::string("-inf");
    const double q = oneIn(20) ? 1.3 : unit();
    if (parameter.display.law == Law::choices)
        return parameter.display.choices[static_cast<std::size_t>(below(3))];
    const double value = displayValue(rangeOf(parameter), q);
    return std::isfinite(value) ? Level(value) : Level(std::string("-inf"));
}

Branch RandomWorld::branch(const Instrument& instrument) {
    Branch branch;
    const Parameter& target =
        instrument
            .parameters[static_cast<std::size_t>(below(static_cast<int>(instrument.parameters.size())))];
    branch.target = oneIn(60) ? "nowhere" : target.id;
    branch.low = level(target);
    branch.high = level(target);
    branch.on = !oneIn(10);
    if (oneIn(4)) branch.window = BranchWindow{unit(), unit(), static_cast<Outside>(below(3)), {}};
    for (int i = 0; i < below(3); ++i) branch.steps.push_back(step());
    return branch;
}

Chain RandomWorld::chain(const Instrument& instrument, int index) {
    Chain chain;
    chain.id = "c" + std::to_string(index);
    chain.on = !oneIn(8);
    chain.source = source();
    chain.keepOriginal = oneIn(5);
    for (int i = 0; i < below(4); ++i) chain.steps.push_back(step());
    for (int i = 0; i < below(4); ++i) chain.branches.push_back(branch(instrument));
    return chain;
}

Instrument RandomWorld::instrument(int index) {
    Instrument instrument;
    instrument.id = "i" + std::to_string(index);
    instrument.on = !oneIn(10);
    if (oneIn(3)) instrument.input.port = ports[static_cast<std::size_t>(below(3))];
    if (oneIn(3)) instrument.input.channel = 1 + below(2);
    if (oneIn(3)) {
        instrument.input.lowKey = below(70);
        instrument.input.highKey = 60 + below(68);
        instrument.input.transpose = below(49) - 24;
    }
    instrument.output = {oneIn(2) ? "rack" : "hall", 1 + below(3), {}};
    instrument.pass = {!oneIn(6), !oneIn(4), oneIn(2), oneIn(2), {}};
    for (int i = 0; i < 1 + below(4); ++i) instrument.parameters.push_back(parameter(i));
    for (int i = 0; i < below(5); ++i) instrument.chains.push_back(chain(instrument, i));
    return instrument;
}

Ensemble RandomWorld::ensemble() {
    Ensemble ensemble;
    ensemble.title = "Random";
    ensemble.controllers.push_back({"controller", "", ports[static_cast<std::size_t>(below(3))], {}, {}});
    for (int i = 0; i < 1 + below(4); ++i) ensemble.instruments.push_back(instrument(i));
    return ensemble;
}

void RandomWorld::edit(Ensemble& ensemble) {
    if (ensemble.instruments.empty() || oneIn(10)) {
        ensemble.instruments.push_back(instrument(100 + below(1000)));
        return;
    }
    const auto at = static_cast<std::size_t>(below(static_cast<int>(ensemble.instruments.size())));
    Instrument& chosen = ensemble.instruments[at];
    switch (below(8)) {
        case 5:
            chosen.on = !chosen.on;
            break;
        case 0:
            chosen.output.channel = 1 + below(3);
            break;
        case 1:
            chosen.input.transpose = below(25) - 12;
            break;
        case 2:
            chosen.pass.notes = !chosen.pass.notes;
            break;
        case 3:
            ensemble.instruments.erase(ensemble.instruments.begin() + static_cast<std::ptrdiff_t>(at));
            break;
        case 4:
            std::swap(ensemble.instruments.front(), ensemble.instruments.back());
            break;
        default:
            if (chosen.chains.empty()) {
                chosen.chains.push_back(chain(chosen, below(3)));
            } else {
                Chain& edited = chosen.chains.front();
                if (oneIn(3)) edited.on = !edited.on;
                if (oneIn(3) && !edited.steps.empty()) edited.steps.front() = step();
                if (oneIn(3) && !edited.branches.empty()) edited.branches.back() = branch(chosen);
                if (oneIn(4)) edited.steps.push_back(step());
                if (oneIn(4) && !edited.steps.empty()) edited.steps.back().on = !edited.steps.back().on;
                if (oneIn(4) && !edited.branches.empty()) edited.branches[0].on = !edited.branches[0].on;
            }
    }
}

std::vector<std::uint8_t> RandomWorld::message() {
    const auto data = [this] {
        return static_cast<std::uint8_t>(oneIn(6) ? (oneIn(2) ? 0 : 127) : below(128));
    };
    const auto channel = below(3);
    const auto status = [&](int kind) { return static_cast<std::uint8_t>(kind + channel); };
    const auto key = static_cast<std::uint8_t>(oneIn(10) ? below(128) : 58 + below(6));
    switch (below(16)) {
        case 0:
        case 1:
            return {status(0x90), key, static_cast<std::uint8_t>(1 + below(127))};
        case 2:
            return {status(0x80), key, data()};
        case 3:
            return {status(0x90), key, 0};
        case 4:
            return {status(0xA0), key, data()};
        case 5:
        case 6:
            return {status(0xE0), data(), data()};
        case 7:
            return {status(0xD0), data()};
        case 8:
            return {status(0xC0), data()};
        case 9:
            if (oneIn(4)) return {0xF0, 0x7D, data(), 0xF7};
            return {static_cast<std::uint8_t>(oneIn(3) ? 0xF6 : 0xF8)};
        case 10:
            if (oneIn(3)) return {status(0xB0), static_cast<std::uint8_t>(120 + below(8)), 0};
            [[fallthrough]];
        default:
            return {status(0xB0),
                    static_cast<std::uint8_t>(oneIn(12) ? below(128)
                                                        : numbers[static_cast<std::size_t>(below(6))]),
                    data()};
    }
}

}  // namespace mellow::test
