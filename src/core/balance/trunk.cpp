#include "core/balance/trunk.h"

#include <algorithm>

#include "core/engine/compiling/compile.h"
#include "core/model/resolve.h"
#include "core/takes/playback.h"

namespace mellow::balance {

namespace {

constexpr const char* probeId = "balance-probe";
constexpr const char* probeAddress = "/balance/probe";

Message probeMessage() {
    Message message;
    message.kind = MessageKind::osc;
    message.address = probeAddress;
    return message;
}

/// Adds a parameter that hears where a chain's trunk stands.
void addProbe(Instrument& instrument, std::string_view chain) {
    Parameter probe;
    probe.id = probeId;
    probe.message = probeMessage();
    probe.display.low = 0;
    probe.display.high = 1;
    instrument.parameters.push_back(probe);
    Branch branch;
    branch.target = probeId;
    branch.low = 0.0;
    branch.high = 1.0;
    if (Chain* each = findById(instrument.chains, chain)) each->branches.push_back(branch);
}

}  // namespace

Result<std::vector<double>> trunkOver(const Ensemble& ensemble, std::string_view chain,
                                      const SweepPlan& plan) {
    Ensemble probed = ensemble;
    if (Instrument* each = findById(probed.instruments, plan.instrument)) addProbe(*each, chain);
    const auto sweep = sweepOf(probed, plan);
    if (!sweep) return sweep.problem();
    const auto program = engine::compile(sweep->ensemble);
    Playback playback(*program, sweep->take);
    double stands = 0;
    auto hear = [&stands](const engine::Output& out) {
        if (out.address == probeAddress) stands = static_cast<double>(out.number);
    };
    const engine::Sink sink = engine::sinkTo(hear);
    std::vector<double> found;
    for (const Segment& each : sweep->segments) {
        playback.playUntil((each.from + each.to) / 2, sink);
        found.push_back(clampPosition(stands));
    }
    return found;
}

std::string chainMovedBy(const Ensemble& ensemble, const Instrument& instrument, const SweepPlan& plan) {
    const Directory directory(ensemble);
    const auto words = [&](const Source& source) {
        return printMotion(motionOf(resolved(directory, source)));
    };
    const std::string wanted = words(plan.motion.source);
    for (const Chain& each : instrument.chains) {
        if (each.on && words(each.source) == wanted) return each.id;
    }
    // Through tie lines.
    for (const Chain& each : instrument.chains) {
        if (!each.on || each.source.kind != SourceKind::tieLine) continue;
        const auto trunk = trunkOver(ensemble, each.id, plan);
        if (trunk && !trunk->empty() &&
            *std::max_element(trunk->begin(), trunk->end()) > *std::min_element(trunk->begin(), trunk->end()))
            return each.id;
    }
    return {};
}

}  // namespace mellow::balance
