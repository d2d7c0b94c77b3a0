#include "core/engine/reference/interpreter.h"

#include <algorithm>
#include <cmath>

#include "core/checks/check.h"
#include "core/model/law.h"

namespace mellow::reference {

namespace {

using Bytes = std::vector<std::uint8_t>;

bool fits(const std::string& filter, const std::string& port) {
    return filter == anyPort || port == anyPort || filter == port;
}

int kind(const Bytes& bytes) {
    return bytes[0] >= 0xF0 ? bytes[0] : bytes[0] & 0xF0;
}
int channel(const Bytes& bytes) {
    return (bytes[0] & 0x0F) + 1;
}

/// The name under which the memory of what was sent keeps a message; empty for messages it does not keep.
std::string messageName(const Bytes& bytes) {
    if (kind(bytes) == 0xB0) return "cc" + std::to_string(bytes[1]);
    if (kind(bytes) == 0xE0) return "bend";
    if (kind(bytes) == 0xD0) return "pressure";
    return {};
}

int messageValue(const Bytes& bytes) {
    if (kind(bytes) == 0xE0) return bytes[1] + 128 * bytes[2];
    return kind(bytes) == 0xD0 ? bytes[1] : bytes[2];
}

bool sourceHears(const Source& source, const Bytes& bytes) {
    switch (source.kind) {
        case SourceKind::cc:
            return kind(bytes) == 0xB0 && bytes[1] == source.number;
        case SourceKind::bend:
            return kind(bytes) == 0xE0;
        case SourceKind::pressure:
            return kind(bytes) == 0xD0;
        case SourceKind::velocity:
            return kind(bytes) == 0x90 && bytes[2] > 0;
        default:
            return false;
    }
}

int sourceValue(const Source& source, const Bytes& bytes) {
    return source.kind == SourceKind::velocity ? bytes[2] : messageValue(bytes);
}

Bytes messageFor(const Parameter& parameter, int outputChannel, int value) {
    const auto status = [&](int kind) { return static_cast<std::uint8_t>(kind + outputChannel - 1); };
    const auto low = static_cast<std::uint8_t>(value % 128);
    const auto high = static_cast<std::uint8_t>(value / 128);
    switch (parameter.message.kind) {
        case MessageKind::bend:
            return {status(0xE0), low, high};
        case MessageKind::pressure:
            return {status(0xD0), low};
        default:
            return {status(0xB0), static_cast<std::uint8_t>(parameter.message.number), low};
    }
}

double clamped(double p) {
    return p >= 0 ? std::min(p, 1.0) : 0.0;
}

bool anyMoving(const std::vector<StepState>& states) {
    return std::any_of(states.begin(), states.end(), [](const StepState& s) { return s.moving; });
}

/// Walks steps from the first. `moved` says whether a value has come from above; at a grid point a step whose
/// output changes starts one.
void walk(const std::vector<Step>& steps, std::vector<StepState>& memory, double& p, bool& moved, bool tick,
          std::int64_t now, Cue cue) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const Step& step = steps[i];
        StepState& state = memory[i];
        if (!step.kind->remembers()) {
            if (moved) p = clamped(step.kind->shape(step, p));
            continue;
        }
        const double before = state.output;
        if (moved) step.kind->take(step, state, p, now);
        if (cue != Cue::none && state.started && step.kind->hear != nullptr)
            step.kind->hear(step, state, cue);
        if (tick && state.started && step.kind->tick != nullptr) step.kind->tick(step, state, now);
        if (state.output != before) moved = true;
        if (moved) p = clamped(state.output);
    }
}

/// An off step is as if it were not there, and so are the steps of an off branch.
Ensemble withoutOffSteps(Ensemble ensemble) {
    const auto isOff = [](const Step& step) { return !step.on; };
    for (Instrument& instrument : ensemble.instruments) {
        for (Chain& chain : instrument.chains) {
            std::erase_if(chain.steps, isOff);
            for (Branch& branch : chain.branches) {
                std::erase_if(branch.steps, [&](const Step& step) { return !branch.on || isOff(step); });
            }
        }
    }
    return ensemble;
}

}  // namespace

Interpreter::Interpreter(Ensemble ensemble) : ensemble_(withoutOffSteps(std::move(ensemble))) {
    prepare();
}

void Interpreter::prepare() {
    const Stopped stopped = stoppedBy(ensemble_);
    instrumentRuns_.clear();
    chainRuns_.clear();
    for (std::size_t i = 0; i < ensemble_.instruments.size(); ++i) {
        const Instrument& instrument = ensemble_.instruments[i];
        instrumentRuns_.try_emplace(instrument.id, !stopped.instruments[i]);
        if (stopped.instruments[i]) continue;
        const auto sameLane = [&](const auto& lane) {
            return std::get<0>(lane) == instrument.output.port &&
                   std::get<1>(lane) == instrument.output.channel;
        };
        if (std::none_of(lanes_.begin(), lanes_.end(), sameLane)) {
            lanes_.emplace_back(instrument.output.port, instrument.output.channel, instrument.id);
        }
        for (std::size_t c = 0; c < instrument.chains.size(); ++c) {
            const Chain& chain = instrument.chains[c];
            chainRuns_.try_emplace({instrument.id, chain.id}, !stopped.chains[i][c]);
            ChainMemory& memory = memory_[{instrument.id, chain.id}];
            memory.trunk.resize(chain.steps.size());
            memory.branches.resize(chain.branches.size());
            for (std::size_t b = 0; b < chain.branches.size(); ++b) {
                memory.branches[b].resize(chain.branches[b].steps.size());
            }
        }
    }
}

bool Interpreter::runs(const Instrument& instrument) const {
    return instrumentRuns_.at(instrument.id);
}
bool Interpreter::runs(const Instrument& instrument, const Chain& chain) const {
    return chainRuns_.at({instrument.id, chain.id});
}

void Interpreter::deliver(const std::string& instrument, const std::string& port, Bytes bytes) {
    out_.push_back({now_, instrument, port, std::move(bytes)});
}

std::vector<Sent> Interpreter::advance(std::int64_t until) {
    for (std::int64_t grid = 0; grid <= until; grid += 1000) {
        if (grid <= now_) {
            grid = now_ / 1000 * 1000;
            continue;
        }
        const bool nothingMoves = std::none_of(memory_.begin(), memory_.end(), [](const auto& entry) {
            const ChainMemory& memory = entry.second;
            return anyMoving(memory.trunk) ||
                   std::any_of(memory.branches.begin(), memory.branches.end(), anyMoving);
        });
        if (nothingMoves) break;
        now_ = grid;
        for (const Instrument& instrument : ensemble_.instruments) {
            if (!runs(instrument)) continue;
            for (const Chain& chain : instrument.chains) {
                if (runs(instrument, chain)) goOn(instrument, chain, nullptr, true, Cue::none);
            }
        }
    }
    now_ = std::max(now_, until);
    return std::exchange(out_, {});
}

std::vector<Sent> Interpreter::process(std::int64_t time, const std::string& port, const Bytes& bytes) {
    out_ = advance(time);
    const bool isOff = kind(bytes) == 0x80 || (kind(bytes) == 0x90 && bytes[2] == 0);
    if (isOff) {
        noteOff(port, bytes);
        return std::exchange(out_, {});
    }
    Cue cue = kind(bytes) == 0x90 ? Cue::noteOn : Cue::none;
    if (kind(bytes) == 0xB0 && bytes[1] == 64) {
        int& pedal = pedals_[{port, channel(bytes)}];
        if (pedal < 64 && bytes[2] >= 64) cue = Cue::pedalDown;
        pedal = bytes[2];
    }
    for (const Instrument& instrument : ensemble_.instruments) {
        if (runs(instrument) && fits(instrument.input.port, port))
            playInstrument(instrument, port, bytes, cue);
    }
    return std::exchange(out_, {});
}

void Interpreter::playInstrument(const Instrument& instrument, const std::string& port, const Bytes& bytes,
                                 Cue cue) {
    if (bytes[0] >= 0xF0) {
        const bool passes = bytes[0] == 0xF0   ? instrument.pass.sysex
                            : bytes[0] >= 0xF8 ? instrument.pass.clock
                                               : instrument.pass.unmatched;
        if (passes) deliver(instrument.id, instrument.output.port, bytes);
        return;
    }
    if (instrument.input.channel && *instrument.input.channel != channel(bytes)) return;

    const bool isNote = kind(bytes) == 0x90;
    const bool isKeyPressure = kind(bytes) == 0xA0;
    const int key = bytes[1] + instrument.input.transpose;
    const bool keyFits =
        bytes[1] >= instrument.input.lowKey && bytes[1] <= instrument.input.highKey && key >= 0 && key <= 127;
    const InputKey input{port, channel(bytes), bytes[1]};

    if (isKeyPressure) {
        if (!instrument.pass.unmatched) return;
        bool follows = false;
        for (const Held& held : held_) {
            if (held.input != input || held.instrument != instrument.id) continue;
            follows = true;
            deliver(held.instrument, held.port,
                    {static_cast<std::uint8_t>(0xA0 + held.channel - 1), static_cast<std::uint8_t>(held.key),
                     bytes[2]});
        }
        if (follows || !keyFits || !instrument.pass.notes) return;
    }
    if (isNote && !keyFits) return;

    bool matched = false;
    bool keep = false;
    for (const Chain& chain : instrument.chains) {
        if (!runs(instrument, chain)) continue;
        ChainMemory& memory = memory_[{instrument.id, chain.id}];
        const Controller* controller = findById(ensemble_.controllers, chain.source.controller);
        const bool hears = sourceHears(chain.source, bytes) &&
                           (!chain.source.channel || *chain.source.channel == channel(bytes)) &&
                           (controller == nullptr || fits(controller->port, port));
        if (hears) {
            matched = true;
            keep = keep || chain.keepOriginal;
            memory.spoken = true;
            memory.raw = sourceValue(chain.source, bytes);
            runChain(instrument, chain, cue);
        } else if (cue != Cue::none) {
            goOn(instrument, chain, nullptr, false, cue);
        }
    }

    Bytes passed = bytes;
    passed[0] = static_cast<std::uint8_t>((bytes[0] & 0xF0) + instrument.output.channel - 1);
    if (isNote || isKeyPressure) passed[1] = static_cast<std::uint8_t>(key);
    if (isNote) {
        if (!instrument.pass.notes) return;
        const auto same = std::find_if(held_.begin(), held_.end(), [&](const Held& held) {
            return held.input == input && held.instrument == instrument.id &&
                   held.port == instrument.output.port && held.channel == instrument.output.channel &&
                   held.key == key;
        });
        if (same != held_.end()) {
            ++same->count;
        } else {
            held_.push_back(
                {input, instrument.id, instrument.output.port, instrument.output.channel, key, 1});
        }
        deliver(instrument.id, instrument.output.port, passed);
        return;
    }
    const bool channelMode = kind(bytes) == 0xB0 && bytes[1] >= 120;
    if (channelMode || (matched ? keep : instrument.pass.unmatched)) passOn(instrument, passed);
}

void Interpreter::passOn(const Instrument& instrument, Bytes bytes) {
    const std::string& port = instrument.output.port;
    const int out = instrument.output.channel;
    if (!messageName(bytes).empty()) lastSent_[{port, out, messageName(bytes)}] = messageValue(bytes);
    if (kind(bytes) == 0xB0 && bytes[1] == 121) {
        std::erase_if(lastSent_, [&](const auto& e) {
            return std::get<0>(e.first) == port && std::get<1>(e.first) == out;
        });
    }
    if (kind(bytes) == 0xB0 && (bytes[1] == 120 || bytes[1] >= 123)) {
        std::erase_if(held_, [&](const Held& held) { return held.port == port && held.channel == out; });
    }
    deliver(instrument.id, port, std::move(bytes));
}

void Interpreter::runChain(const Instrument& instrument, const Chain& chain, Cue cue) {
    const ChainMemory& memory = memory_[{instrument.id, chain.id}];
    const double p = decode(scaleOf(chain.source), memory.raw, maxOf(chain.source));
    goOn(instrument, chain, &p, false, cue);
}

void Interpreter::goOn(const Instrument& instrument, const Chain& chain, const double* position, bool tick,
                       Cue cue) {
    ChainMemory& memory = memory_[{instrument.id, chain.id}];
    double p = position != nullptr ? *position : 0;
    bool moved = position != nullptr;
    walk(chain.steps, memory.trunk, p, moved, tick, now_, cue);
    for (std::size_t b = 0; b < chain.branches.size(); ++b) {
        runBranch(instrument, chain.branches[b], memory.branches[b], moved ? &p : nullptr, tick, cue);
    }
}

void Interpreter::runBranch(const Instrument& instrument, const Branch& branch,
                            std::vector<StepState>& memory, const double* position, bool tick, Cue cue) {
    if (!branch.on) return;
    const Parameter& parameter = *findById(instrument.parameters, branch.target);
    const Range range = rangeOf(parameter);
    bool moved = position != nullptr;
    double p = moved ? *position : 0;
    bool resting = false;
    if (moved && branch.window) {
        const BranchWindow& window = *branch.window;
        const bool inside = p >= std::min(window.low, window.high) && p <= std::max(window.low, window.high);
        if (!inside && window.outside != Outside::clamp) {
            moved = false;
            resting = window.outside == Outside::rest;
        } else if (window.low == window.high) {
            p = p >= window.low ? 1 : 0;
        } else {
            p = clamped((p - window.low) / (window.high - window.low));
        }
    }
    walk(branch.steps, memory, p, moved, tick, now_, cue);
    if (resting)
        return sendTo(instrument, parameter,
                      encode(scaleOf(parameter), restPosition(parameter), maxOf(parameter)));
    if (!moved) return;
    const double low = *rawPosition(range, branch.low);
    const double high = *rawPosition(range, branch.high);
    double q = clamped(low + p * (high - low));
    if (range.law == Law::choices) {
        const auto steps = static_cast<double>(range.choices.size() - 1);
        q = std::floor(q * steps + 0.5) / steps;
    }
    sendTo(instrument, parameter, encode(scaleOf(parameter), q, maxOf(parameter)));
}

void Interpreter::sendTo(const Instrument& instrument, const Parameter& parameter, int value) {
    const Bytes bytes = messageFor(parameter, instrument.output.channel, value);
    const std::string& port = instrument.output.port;
    const auto key = std::tuple(port, instrument.output.channel, messageName(bytes));
    const auto last = lastSent_.find(key);
    if (last != lastSent_.end() && last->second == value && !parameter.repeats) return;
    lastSent_[key] = value;
    if (kind(bytes) == 0xB0 && bytes[1] == 121) {
        std::erase_if(lastSent_, [&](const auto& e) {
            return std::get<0>(e.first) == port && std::get<1>(e.first) == instrument.output.channel;
        });
    }
    deliver(instrument.id, port, bytes);
}

void Interpreter::release(Held& held, const Bytes& bytes) {
    --held.count;
    int still = 0;
    for (const Held& other : held_) {
        if (other.port == held.port && other.channel == held.channel && other.key == held.key)
            still += other.count;
    }
    if (still > 0) return;
    Bytes off = bytes;
    off[0] = static_cast<std::uint8_t>((bytes[0] & 0xF0) + held.channel - 1);
    off[1] = static_cast<std::uint8_t>(held.key);
    deliver(held.instrument, held.port, off);
}

void Interpreter::noteOff(const std::string& port, const Bytes& bytes) {
    const InputKey input{port, channel(bytes), bytes[1]};
    const auto ofInstrument = [&](const std::string& id) {
        for (Held& held : held_) {
            if (held.input == input && held.instrument == id && held.count > 0) release(held, bytes);
        }
    };
    for (const Instrument& instrument : ensemble_.instruments) {
        if (runs(instrument)) ofInstrument(instrument.id);
    }
    for (Held& held : held_) {
        const Instrument* instrument = findById(ensemble_.instruments, held.instrument);
        const bool gone = instrument == nullptr || !runs(*instrument);
        if (gone && held.input == input && held.count > 0) release(held, bytes);
    }
    std::erase_if(held_, [](const Held& held) { return held.count == 0; });
}

std::vector<Sent> Interpreter::silenceAll() {
    std::vector<std::tuple<std::string, int, int>> ended;
    for (const Held& held : held_) {
        const std::tuple place{held.port, held.channel, held.key};
        if (std::find(ended.begin(), ended.end(), place) != ended.end()) continue;
        ended.push_back(place);
        deliver(
            held.instrument, held.port,
            {static_cast<std::uint8_t>(0x80 + held.channel - 1), static_cast<std::uint8_t>(held.key), 64});
    }
    held_.clear();
    for (const auto& [port, out, instrument] : lanes_) {
        for (const int control : {64, 123, 120}) {
            deliver(instrument, port,
                    {static_cast<std::uint8_t>(0xB0 + out - 1), static_cast<std::uint8_t>(control), 0});
        }
    }
    lastSent_.clear();
    return std::exchange(out_, {});
}

std::vector<Sent> Interpreter::edit(Ensemble ensemble) {
    const Ensemble before = std::exchange(ensemble_, withoutOffSteps(std::move(ensemble)));
    const auto ranBefore = chainRuns_;
    auto oldMemory = std::exchange(memory_, {});
    prepare();
    std::vector<std::pair<const Instrument*, const Chain*>> edited;
    for (const Instrument& instrument : ensemble_.instruments) {
        const Instrument* old = findById(before.instruments, instrument.id);
        if (old == nullptr || !runs(instrument)) continue;
        for (const Chain& chain : instrument.chains) {
            const Chain* oldChain = findById(old->chains, chain.id);
            const ChainId id{instrument.id, chain.id};
            const auto ran = ranBefore.find(id);
            const bool carries = oldChain != nullptr && ran != ranBefore.end() && ran->second &&
                                 runs(instrument, chain) && oldChain->source == chain.source &&
                                 oldMemory[id].spoken;
            if (!carries) continue;
            ChainMemory& memory = memory_[id];
            const ChainMemory& was = oldMemory[id];
            memory.spoken = true;
            memory.raw = was.raw;
            const auto carry = [](const auto& now, auto& states, const auto& then, const auto& from) {
                for (std::size_t i = 0; i < std::min(now.size(), then.size()) && now[i].kind == then[i].kind;
                     ++i) {
                    states[i] = from[i];
                }
            };
            carry(chain.steps, memory.trunk, oldChain->steps, was.trunk);
            for (std::size_t b = 0; b < std::min(chain.branches.size(), oldChain->branches.size()); ++b) {
                carry(chain.branches[b].steps, memory.branches[b], oldChain->branches[b].steps,
                      was.branches[b]);
            }
            bool same = *oldChain == chain && old->output == instrument.output;
            for (const Branch& branch : chain.branches) {
                const Parameter* then = findById(old->parameters, branch.target);
                same = same && then != nullptr && *then == *findById(instrument.parameters, branch.target);
            }
            if (!same) edited.emplace_back(&instrument, &chain);
        }
    }
    for (const auto& [instrument, chain] : edited) runChain(*instrument, *chain, Cue::none);
    return std::exchange(out_, {});
}

}  // namespace mellow::reference
