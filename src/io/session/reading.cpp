// A chain is found by its key in the plan's own numbering, so that nothing has to be made for another
// program.
#include "io/session/reading.h"

#include "core/steps/step.h"

namespace mellow::io {

InstrumentReading readingOf(const engine::Program& program, const std::string& instrument) {
    const auto number = program.plan.numbering.instruments.find(instrument);
    if (!number) return {};
    const auto& parts = program.plan.parts;
    for (std::size_t p = 0; p < parts.size(); ++p) {
        if (parts[p].name != *number) continue;
        const engine::PartLive& live = program.state.partLive[p];
        return {true, live.inHand.load(std::memory_order_relaxed),
                live.articulation.load(std::memory_order_relaxed)};
    }
    return {};
}

std::optional<double> deskPositionOf(const engine::Program& program, std::string_view address) {
    const engine::DeskListener* listener = program.plan.deskAt(address);
    if (listener == nullptr) return std::nullopt;
    const auto place = static_cast<std::size_t>(listener - program.plan.desk.data());
    const float position = program.state.deskLive[place].load(std::memory_order_relaxed);
    return position < 0 ? std::nullopt : std::optional<double>(position);
}

ChainReading readingOf(const engine::Program& program, const std::string& instrument,
                       const std::string& chain) {
    ChainReading reading;
    const auto key = program.plan.numbering.chainKeys->find(instrument + "/" + chain);
    const engine::PlanChain* compiled = key ? program.plan.chainWithKey(*key) : nullptr;
    if (compiled == nullptr) return reading;
    const engine::ChainLive& live =
        program.state.chainLive[static_cast<std::size_t>(compiled - program.plan.chains.data())];
    const engine::Ear& ear = program.plan.ears[compiled->firstEar];
    reading.runs = true;
    const int raw = live.raw.load(std::memory_order_relaxed);
    const float source = live.source.load(std::memory_order_relaxed);
    reading.spoken = raw >= 0 || source >= 0;
    reading.control = live.control.load(std::memory_order_relaxed);
    reading.fed = live.fed.load(std::memory_order_relaxed);
    if (ear.max > 0) {
        reading.position = raw >= 0 ? decode(ear.scale, raw, ear.max) : ear.rest;
        reading.raw = raw >= 0 ? raw : encode(ear.scale, ear.rest, ear.max);
    } else {
        reading.position = reading.spoken ? source : ear.rest;
    }
    reading.stepsUp = live.stepsUp.load(std::memory_order_relaxed);
    for (std::uint32_t e = 0; e < compiled->earCount && reading.other < 0; ++e) {
        const engine::Ear& second = program.plan.ears[compiled->firstEar + e];
        if (second.role != engine::Role::combine) continue;
        const float stands = live.other.load(std::memory_order_relaxed);
        reading.other = stands < 0 ? second.rest : stands;
    }
    // Steps that the player may be evaluating have memory of their own; the written ones are nobody's.
    const std::span<const Step> settling =
        compiled->isEvaluated() ? compiled->body->written->steps : compiled->steps();
    reading.result = reading.spoken && compiled->isEvaluated()
                         ? live.result.load(std::memory_order_relaxed)
                         : settledPosition(settling, reading.position, reading.other);
    for (std::uint32_t b = 0; b < compiled->branchCount; ++b)
        reading.values.push_back(engine::presentPosition(program, *compiled, b, raw));
    return reading;
}

}  // namespace mellow::io
