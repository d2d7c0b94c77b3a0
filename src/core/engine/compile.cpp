#include "core/engine/compile.h"

#include <algorithm>
#include <cmath>

#include "core/checks/check.h"
#include "core/model/law.h"

namespace mellow::engine {

std::uint32_t Names::intern(std::string_view name) {
    const auto [entry, isNew] =
        numbers_.try_emplace(std::string(name), static_cast<std::uint32_t>(names_.size()));
    if (isNew) names_.emplace_back(name);
    return entry->second;
}

std::optional<std::uint32_t> Names::find(std::string_view name) const {
    const auto found = numbers_.find(std::string(name));
    return found == numbers_.end() ? std::nullopt : std::optional(found->second);
}

int encodeAtTarget(const PlanBranch& branch, double p) {
    double q = clampPosition(branch.fromRaw + p * (branch.toRaw - branch.fromRaw));
    if (branch.choices > 1) {
        const double last = branch.choices - 1;
        q = std::floor(q * last + 0.5) / last;
    }
    return encode(branch.scale, q, branch.max);
}

std::optional<double> throughWindow(const PlanBranch& branch, double p) {
    if (!branch.window) return p;
    const double low = branch.window->low;
    const double high = branch.window->high;
    const bool inside = p >= std::min(low, high) && p <= std::max(low, high);
    if (!inside && branch.window->outside != Outside::clamp) return std::nullopt;
    if (low == high) return p >= low ? 1.0 : 0.0;
    return clampPosition((p - low) / (high - low));
}

PlanBranch prepareBranch(const Parameter& parameter, const Branch& branch) {
    const Range range = rangeOf(parameter);
    PlanBranch prepared;
    prepared.kind = parameter.message.kind;
    prepared.control = static_cast<std::uint8_t>(parameter.message.number);
    prepared.repeats = parameter.repeats;
    prepared.scale = scaleOf(parameter);
    prepared.max = maxOf(parameter);
    prepared.choices = range.law == Law::choices ? static_cast<int>(range.choices.size()) : 0;
    prepared.fromRaw = rawPosition(range, branch.low).value_or(0);
    prepared.toRaw = rawPosition(range, branch.high).value_or(0);
    prepared.window = branch.window;
    prepared.restValue =
        static_cast<std::uint16_t>(encode(prepared.scale, restPosition(parameter), prepared.max));
    prepared.on = branch.on;
    if (branch.on) prepared.steps = stepsThatAreOn(branch.steps);
    return prepared;
}

namespace {

/// A chain as far as it is played: what is switched off in it can be edited unheard.
Chain definitionOf(Chain chain) {
    chain.steps = stepsThatAreOn(chain.steps);
    for (Branch& branch : chain.branches) {
        branch.steps = branch.on ? stepsThatAreOn(branch.steps) : std::vector<Step>{};
    }
    return chain;
}

class Compiler {
 public:
    Compiler(const Ensemble& ensemble, const Plan* previous) : ensemble_(ensemble), program_(new Program) {
        if (previous != nullptr) {
            plan().ports = previous->ports;
            plan().instruments = previous->instruments;
            plan().chainKeys = previous->chainKeys;
            plan().lanes = previous->lanes;
        }
        plan().ports.intern(anyPort);
    }

    std::unique_ptr<Program> run() {
        const Stopped stopped = stoppedBy(ensemble_);
        for (std::size_t i = 0; i < ensemble_.instruments.size(); ++i) {
            if (!stopped.instruments[i]) addInstrument(ensemble_.instruments[i], stopped.chains[i]);
        }
        indexChains();
        allocateState();
        return std::move(program_);
    }

 private:
    Plan& plan() { return program_->plan; }

    PortId port(std::string_view name) { return static_cast<PortId>(plan().ports.intern(name)); }

    std::uint32_t lane(const Lane& wanted) {
        auto& lanes = plan().lanes;
        const auto found = std::find(lanes.begin(), lanes.end(), wanted);
        if (found != lanes.end()) return static_cast<std::uint32_t>(found - lanes.begin());
        lanes.push_back(wanted);
        return static_cast<std::uint32_t>(lanes.size() - 1);
    }

    void addInstrument(const Instrument& instrument, const std::vector<bool>& stoppedChains) {
        PlanInstrument part;
        part.name = plan().instruments.intern(instrument.id);
        part.inputPort = port(instrument.input.port);
        part.inputChannels = instrument.input.channel
                                 ? static_cast<std::uint16_t>(1 << (*instrument.input.channel - 1))
                                 : 0xFFFF;
        part.lowKey = instrument.input.lowKey;
        part.highKey = instrument.input.highKey;
        part.transpose = instrument.input.transpose;
        part.pass = instrument.pass;
        part.lane = lane({port(instrument.output.port),
                          static_cast<std::uint8_t>(instrument.output.channel - 1), part.name});
        const auto place = static_cast<std::uint32_t>(plan().parts.size());
        const auto firstChain = static_cast<std::uint32_t>(plan().chains.size());
        for (std::size_t c = 0; c < instrument.chains.size(); ++c) {
            const Chain& chain = instrument.chains[c];
            if (!stoppedChains[c])
                addChain(instrument, chain, static_cast<std::uint32_t>(c), part, place);
        }
        listen(part, firstChain);
        for (std::size_t channel = 0; channel < 16; ++channel) {
            if ((part.inputChannels >> channel & 1) != 0) plan().byChannel[channel].push_back(place);
        }
        plan().parts.push_back(part);
    }

    static std::size_t listenKey(const Source& source) {
        switch (source.kind) {
            case SourceKind::bend:
                return bendKey;
            case SourceKind::pressure:
                return pressureKey;
            case SourceKind::velocity:
                return velocityKey;
            default:
                return static_cast<std::size_t>(source.number);
        }
    }

    void listen(PlanInstrument& part, std::uint32_t firstChain) {
        for (std::size_t key = 0; key < listenKeys; ++key) {
            part.listeners[key] = static_cast<std::uint32_t>(plan().listeners.size());
            for (auto c = firstChain; c < plan().chains.size(); ++c) {
                if (listenKey(plan().chains[c].definition.source) == key) plan().listeners.push_back(c);
            }
        }
        part.listeners[listenKeys] = static_cast<std::uint32_t>(plan().listeners.size());
    }

    std::uint32_t reserveStates(std::size_t count) {
        const auto first = static_cast<std::uint32_t>(stateCount_);
        stateCount_ += count;
        return first;
    }

    PortId sourcePort(const Source& source) {
        const Controller* controller = findById(ensemble_.controllers, source.controller);
        return controller == nullptr ? everyPort : port(controller->port);
    }

    void addChain(const Instrument& instrument, const Chain& chain, std::uint32_t index,
                  const PlanInstrument& part, std::uint32_t place) {
        PlanChain compiled;
        compiled.key = plan().chainKeys.intern(instrument.id + "/" + chain.id);
        compiled.instrument = place;
        compiled.documentIndex = index;
        compiled.port = sourcePort(chain.source);
        compiled.channel = chain.source.channel ? *chain.source.channel - 1 : -1;
        compiled.scale = scaleOf(chain.source);
        compiled.max = maxOf(chain.source);
        compiled.keepOriginal = chain.keepOriginal;
        compiled.steps = stepsThatAreOn(chain.steps);
        compiled.firstState = reserveStates(compiled.steps.size());
        compiled.definition = definitionOf(chain);
        compiled.lane = part.lane;
        const auto remembers = [](const Step& step) { return step.kind->remembers(); };
        compiled.firstMemory = static_cast<std::size_t>(
            std::find_if(compiled.steps.begin(), compiled.steps.end(), remembers) - compiled.steps.begin());
        compiled.timed = compiled.trunkRemembers();
        tabulateTrunk(compiled);
        compiled.firstBranch = static_cast<std::uint32_t>(plan().branches.size());
        compiled.branchCount = static_cast<std::uint32_t>(chain.branches.size());
        for (const Branch& branch : chain.branches) {
            compiled.targets.push_back(*findById(instrument.parameters, branch.target));
            addBranch(compiled.targets.back(), branch, part, compiled);
            const std::vector<Step>& steps = plan().branches.back().steps;
            compiled.timed = compiled.timed || std::any_of(steps.begin(), steps.end(), remembers);
        }
        if (compiled.timed) plan().timedChains.push_back(static_cast<std::uint32_t>(plan().chains.size()));
        plan().chains.push_back(std::move(compiled));
    }

    void tabulateTrunk(PlanChain& chain) {
        chain.positions = plan().positions.size();
        for (int raw = 0; raw <= chain.max; ++raw) {
            double p = decode(chain.scale, raw, chain.max);
            for (std::size_t i = 0; i < chain.firstMemory; ++i) p = shapePosition(chain.steps[i], p);
            plan().positions.push_back(p);
        }
    }

    void addBranch(const Parameter& parameter, const Branch& branch, const PlanInstrument& part,
                   const PlanChain& chain) {
        PlanBranch compiled = prepareBranch(parameter, branch);
        compiled.number = static_cast<std::uint32_t>(plan().branches.size()) - chain.firstBranch;
        compiled.instrument = part.name;
        compiled.lane = part.lane;
        const std::uint32_t place = compiled.kind == MessageKind::bend       ? bendSlot
                                    : compiled.kind == MessageKind::pressure ? pressureSlot
                                                                             : compiled.control;
        compiled.slot = part.lane * slotsPerLane + place;
        compiled.firstState = reserveStates(compiled.steps.size());
        const bool stateless = std::none_of(compiled.steps.begin(), compiled.steps.end(),
                                            [](const Step& step) { return step.kind->remembers(); });
        if (stateless && !chain.trunkRemembers()) tabulateBranch(compiled, chain);
        plan().branches.push_back(std::move(compiled));
    }

    void tabulateBranch(PlanBranch& branch, const PlanChain& chain) {
        branch.table = static_cast<std::int64_t>(plan().tables.size());
        if (!branch.on) {
            plan().tables.insert(plan().tables.end(), static_cast<std::size_t>(chain.max) + 1, silentValue);
            return;
        }
        for (int raw = 0; raw <= chain.max; ++raw) {
            auto p = throughWindow(branch, plan().positions[chain.positions + static_cast<std::size_t>(raw)]);
            if (!p) {
                const bool rests = branch.window->outside == Outside::rest;
                plan().tables.push_back(rests ? branch.restValue : silentValue);
                continue;
            }
            for (const Step& step : branch.steps) p = shapePosition(step, *p);
            plan().tables.push_back(static_cast<std::uint16_t>(encodeAtTarget(branch, *p)));
        }
    }

    void indexChains() {
        auto& byKey = plan().chainsByKey;
        for (std::uint32_t c = 0; c < plan().chains.size(); ++c) byKey.push_back(c);
        std::sort(byKey.begin(), byKey.end(),
                  [this](auto a, auto b) { return plan().chains[a].key < plan().chains[b].key; });
    }

    void allocateState() {
        State& state = program_->state;
        state.steps.resize(stateCount_);
        state.chains.resize(plan().chains.size());
        state.sent.assign(plan().lanes.size() * slotsPerLane, -1);
        state.chainLive = std::make_unique<ChainLive[]>(plan().chains.size());
        state.branchLive = std::make_unique<BranchLive[]>(plan().branches.size());
    }

    const Ensemble& ensemble_;
    std::unique_ptr<Program> program_;
    std::size_t stateCount_ = 0;
};

}  // namespace

std::unique_ptr<Program> compile(const Ensemble& ensemble, const Plan* previous) {
    return Compiler(ensemble, previous).run();
}

}  // namespace mellow::engine
