#include "core/engine/compile.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/checks/check.h"
#include "core/midi/message.h"
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

Payload payloadOf(const PlanBranch& branch, int value) {
    if (branch.kind == MessageKind::cc) return payload(branch.control, value);
    return payload(value & midi::max7, value >> 7);
}

int valueOf(const PlanBranch& branch, Payload payload) {
    return branch.kind == MessageKind::cc ? payload >> 8 : (payload & midi::max7) | payload >> 8 << 7;
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

int presentValue(const Program& program, const PlanChain& chain, std::uint32_t branch, int raw) {
    if (raw < 0) return -1;
    if (chain.isEvaluated())
        return program.state.branchLive[chain.firstBranch + branch].value.load(std::memory_order_relaxed);
    const std::size_t place = chain.table + static_cast<std::size_t>(raw) * chain.branchCount + branch;
    const Payload payload = program.plan.tables[place];
    return payload == noPayload ? -1 : valueOf(program.plan.branches[chain.firstBranch + branch], payload);
}

Payload settledPayload(const PlanBranch& branch, double position) {
    if (!branch.on) return noPayload;
    const auto p = throughWindow(branch, position);
    if (!p) return branch.window->outside == Outside::rest ? branch.restPayload : noPayload;
    return payloadOf(branch, encodeAtTarget(branch, settledPosition(branch.steps, *p)));
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
    prepared.restPayload = payloadOf(prepared, encode(prepared.scale, restPosition(parameter), prepared.max));
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
        indexListeners();
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
        for (std::size_t c = 0; c < instrument.chains.size(); ++c) {
            const Chain& chain = instrument.chains[c];
            if (!stoppedChains[c]) addChain(instrument, chain, part, place);
        }
        for (std::size_t channel = 0; channel < 16; ++channel) {
            if ((part.inputChannels >> channel & 1) == 0) continue;
            plan().byChannel[channel].push_back(place);
            if (part.pass.unmatched) plan().passers[channel].push_back(place);
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

    /// Calls visit(list, listener) for each list of listeners that a chain belongs to.
    template<class Visit>
    void forEachListOf(std::uint32_t index, Visit&& visit) {
        const PlanChain& chain = plan().chains[index];
        const PlanInstrument& part = plan().parts[chain.instrument];
        const Listener plain{index, chain.instrument, part.inputPort, chain.port, chain.keepOriginal};
        const std::size_t own = listenKey(chain.definition.source);
        for (std::size_t channel = 0; channel < 16; ++channel) {
            if ((part.inputChannels >> channel & 1) == 0) continue;
            const bool hearsSource = chain.channel < 0 || chain.channel == static_cast<int>(channel);
            const auto visitKey = [&](std::size_t key, bool cue) {
                Listener listener = plain;
                listener.hearsSource = hearsSource && key == own;
                listener.hearsCue = cue;
                if (listener.hearsSource || cue) visit(channel * listenKeys + key, listener);
            };
            const bool ownHasCue = own == velocityKey || own == midi::sustain;
            visitKey(own, chain.hearsCues && ownHasCue);
            if (!chain.hearsCues) continue;
            if (own != velocityKey) visitKey(velocityKey, true);
            if (own != midi::sustain) visitKey(midi::sustain, true);
        }
    }

    /// Sorts chains by what they listen to, by counting, so that each list stays in document order.
    void indexListeners() {
        auto& first = plan().firstListener;
        const auto chains = static_cast<std::uint32_t>(plan().chains.size());
        for (std::uint32_t c = 0; c < chains; ++c)
            forEachListOf(c, [&](std::size_t list, const Listener&) { ++first[list + 1]; });
        std::partial_sum(first.begin(), first.end(), first.begin());
        plan().listeners.resize(first.back());
        std::vector<std::uint32_t> next(first.begin(), first.end() - 1);
        for (std::uint32_t c = 0; c < chains; ++c) {
            forEachListOf(c, [&](std::size_t list, const Listener& listener) {
                plan().listeners[next[list]++] = listener;
            });
        }
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

    void addChain(const Instrument& instrument, const Chain& chain, const PlanInstrument& part,
                  std::uint32_t place) {
        PlanChain compiled;
        compiled.key = plan().chainKeys.intern(instrument.id + "/" + chain.id);
        compiled.instrument = place;
        compiled.port = sourcePort(chain.source);
        compiled.channel = chain.source.channel ? *chain.source.channel - 1 : -1;
        compiled.scale = scaleOf(chain.source);
        compiled.max = maxOf(chain.source);
        compiled.keepOriginal = chain.keepOriginal;
        compiled.steps = stepsThatAreOn(chain.steps);
        compiled.firstState = reserveStates(compiled.steps.size());
        compiled.definition = definitionOf(chain);
        compiled.lane = part.lane;
        const auto remembers = [](const StepKind& kind) { return kind.remembers(); };
        compiled.firstMemory =
            static_cast<std::size_t>(std::find_if(compiled.steps.begin(), compiled.steps.end(),
                                                  [&](const Step& step) { return remembers(*step.kind); }) -
                                     compiled.steps.begin());
        tabulateTrunk(compiled);
        compiled.firstBranch = static_cast<std::uint32_t>(plan().branches.size());
        compiled.branchCount = static_cast<std::uint32_t>(chain.branches.size());
        for (const Branch& branch : chain.branches) {
            compiled.targets.push_back(*findById(instrument.parameters, branch.target));
            addBranch(compiled.targets.back(), branch, part);
        }
        compiled.hearsCues = anyStep(compiled, [](const StepKind& kind) { return kind.hear != nullptr; });
        if (anyStep(compiled, remembers)) {
            compiled.way = Way::evaluated;
            const bool ticks = anyStep(compiled, [](const StepKind& kind) { return kind.tick != nullptr; });
            if (ticks) plan().timedChains.push_back(static_cast<std::uint32_t>(plan().chains.size()));
        } else {
            tabulateBranches(compiled);
        }
        plan().chains.push_back(std::move(compiled));
    }

    /// True when a step of the trunk or of a branch is of a kind for which has(kind) holds.
    template<class Has>
    bool anyStep(const PlanChain& chain, Has&& has) {
        const auto any = [&has](const std::vector<Step>& steps) {
            return std::any_of(steps.begin(), steps.end(),
                               [&has](const Step& step) { return has(*step.kind); });
        };
        const auto branches = std::span(plan().branches).subspan(chain.firstBranch, chain.branchCount);
        return any(chain.steps) ||
               std::any_of(branches.begin(), branches.end(),
                           [&any](const PlanBranch& branch) { return any(branch.steps); });
    }

    void tabulateTrunk(PlanChain& chain) {
        chain.positions = plan().positions.size();
        for (int raw = 0; raw <= chain.max; ++raw) {
            double p = decode(chain.scale, raw, chain.max);
            for (std::size_t i = 0; i < chain.firstMemory; ++i) p = shapePosition(chain.steps[i], p);
            plan().positions.push_back(p);
        }
    }

    void addBranch(const Parameter& parameter, const Branch& branch, const PlanInstrument& part) {
        PlanBranch compiled = prepareBranch(parameter, branch);
        const std::uint32_t place = compiled.kind == MessageKind::bend       ? bendSlot
                                    : compiled.kind == MessageKind::pressure ? pressureSlot
                                                                             : compiled.control;
        compiled.firstState = reserveStates(compiled.steps.size());
        plan().outlets.push_back(outlet(compiled, part, place));
        plan().branches.push_back(std::move(compiled));
    }

    Outlet outlet(const PlanBranch& branch, const PlanInstrument& part, std::uint32_t place) {
        const Lane& where = plan().lanes[part.lane];
        Outlet made;
        made.slot = part.lane * slotsPerLane + place;
        made.instrument = part.name;
        made.port = where.port;
        made.repeats = branch.repeats;
        made.clears = branch.kind == MessageKind::cc && branch.control == midi::resetAllControllers;
        int status = midi::controlChange;
        if (branch.kind == MessageKind::bend) status = midi::pitchBend;
        if (branch.kind == MessageKind::pressure) status = midi::channelPressure;
        made.size = static_cast<std::uint8_t>(midi::dataLength(static_cast<std::uint8_t>(status)) + 1);
        made.status = static_cast<std::uint8_t>(status | where.channel);
        return made;
    }

    /// Values lie by raw value, then branch, so that one event reads one short run of them.
    void tabulateBranches(PlanChain& chain) {
        chain.table = plan().tables.size();
        for (int raw = 0; raw <= chain.max; ++raw) {
            const double p = plan().positions[chain.positions + static_cast<std::size_t>(raw)];
            for (std::uint32_t b = 0; b < chain.branchCount; ++b) {
                plan().tables.push_back(settledPayload(plan().branches[chain.firstBranch + b], p));
            }
        }
        const auto payloads = std::span(plan().tables).subspan(chain.table);
        const auto outlets = std::span(plan().outlets).subspan(chain.firstBranch);
        const bool careful =
            std::find(payloads.begin(), payloads.end(), noPayload) != payloads.end() ||
            std::any_of(outlets.begin(), outlets.end(), [](auto& o) { return o.repeats || o.clears; });
        if (careful) chain.way = Way::carefully;
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
        state.sent.assign(plan().lanes.size() * slotsPerLane, noPayload);
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
