#include "core/engine/engine.h"

#include <algorithm>
#include <optional>

namespace mellow::engine {

namespace {

bool portFits(PortId filter, PortId port) {
    return filter == everyPort || port == everyPort || filter == port;
}

/// Takes a value through steps, memory and all. Without an input the steps keep still but for the clock; the
/// result is then nothing unless one of them moved (signal rules, section 3).
std::optional<double> through(std::span<const Step> steps, StepState* states, std::optional<double> p,
                              bool tick) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const StepKind& kind = *steps[i].kind;
        if (!kind.remembers()) {
            if (p) p = shapePosition(steps[i], *p);
            continue;
        }
        StepState& state = states[i];
        const double before = state.output;
        if (p) kind.take(steps[i], state, *p);
        if (tick && state.started) kind.tick(steps[i], state);
        if (p || state.output != before) p = clampPosition(state.output);
    }
    return p;
}

midi::Short targetMessage(const PlanBranch& branch, int channel, int value) {
    switch (branch.kind) {
        case MessageKind::bend:
            return midi::makeBend(channel, value);
        case MessageKind::pressure:
            return midi::make(midi::channelPressure, channel, value);
        default:
            return midi::make(midi::controlChange, channel, branch.control, value);
    }
}

midi::Short onChannel(midi::Bytes message, int channel) {
    midi::Short moved;
    std::copy(message.begin(), message.end(), moved.data.begin());
    moved.size = static_cast<std::uint8_t>(message.size());
    moved.data[0] = static_cast<std::uint8_t>((message[0] & 0xF0) | channel);
    return moved;
}

/// The key a note leaves with, or nothing when the instrument does not take it.
std::optional<int> transposed(const PlanInstrument& part, int key) {
    if (key < part.lowKey || key > part.highKey) return std::nullopt;
    const int moved = key + part.transpose;
    if (moved < 0 || moved > 127) return std::nullopt;
    return moved;
}

InputKey inputKey(const Event& event) {
    return {event.port, static_cast<std::uint8_t>(midi::channelOf(event.bytes)), event.bytes[1]};
}

}  // namespace

Program* Engine::adopt(Program* next, const Sink& sink) {
    Program* old = program_;
    const auto lanes = std::min(old->state.sent.size(), next->state.sent.size());
    std::copy_n(old->state.sent.begin(), lanes, next->state.sent.begin());
    program_ = next;
    movingChains_ = 0;
    for (std::uint32_t chain = 0; chain < plan().chains.size(); ++chain) carryChain(*old, chain);
    for (std::uint32_t chain = 0; chain < plan().chains.size(); ++chain) {
        const bool edited =
            state().chains[chain].spoken && state().chainLive[chain].raw.load(std::memory_order_relaxed) < 0;
        if (edited) runFromSource(chain, sink);
    }
    return old;
}

void Engine::carryChain(const Program& old, std::uint32_t index) {
    const PlanChain& chain = plan().chains[index];
    const auto found = std::lower_bound(old.plan.chainsByKey.begin(), old.plan.chainsByKey.end(), chain.key,
                                        [&old](auto at, auto key) { return old.plan.chains[at].key < key; });
    if (found == old.plan.chainsByKey.end() || old.plan.chains[*found].key != chain.key) return;
    const PlanChain& before = old.plan.chains[*found];
    const ChainState& was = old.state.chains[*found];
    if (!was.spoken || before.definition.source != chain.definition.source) return;
    const bool same = chain.sameAs(before);
    state().chains[index].raw = was.raw;
    state().chains[index].spoken = true;
    const auto carrySteps = [&](const std::vector<Step>& now, std::uint32_t first,
                                const std::vector<Step>& then, std::uint32_t firstThen) {
        for (std::size_t i = 0; i < std::min(now.size(), then.size()); ++i) {
            if (now[i].kind != then[i].kind) break;
            state().steps[first + i] = old.state.steps[firstThen + i];
        }
    };
    carrySteps(chain.steps, chain.firstState, before.steps, before.firstState);
    for (std::uint32_t b = 0; b < std::min(chain.branchCount, before.branchCount); ++b) {
        const PlanBranch& now = plan().branches[chain.firstBranch + b];
        const PlanBranch& then = old.plan.branches[before.firstBranch + b];
        carrySteps(now.steps, now.firstState, then.steps, then.firstState);
        if (!same) continue;
        const int value = old.state.branchLive[before.firstBranch + b].value.load(std::memory_order_relaxed);
        state().branchLive[chain.firstBranch + b].value.store(value, std::memory_order_relaxed);
    }
    // A chain that is as it was shows its value at once; an edited one gets it when adopt() runs it.
    if (same) {
        ChainLive& live = state().chainLive[index];
        live.raw.store(was.raw, std::memory_order_relaxed);
        live.result.store(old.state.chainLive[*found].result.load(std::memory_order_relaxed),
                          std::memory_order_relaxed);
    }
    updateMoving(index);
}

void Engine::advance(Time until, const Sink& sink) {
    if (until <= now_) return;
    Time grid = (now_ < 0 ? 0 : now_ / gridStep + 1) * gridStep;
    while (grid <= until && movingChains_ > 0) {
        now_ = grid;
        for (const std::uint32_t chain : plan().timedChains) {
            if (state().chains[chain].moving) tickChain(chain, sink);
        }
        grid += gridStep;
    }
    now_ = until;
}

void Engine::process(const Event& event, const Sink& sink) {
    advance(event.time, sink);
    if (event.bytes.empty()) return;
    if (midi::isChannelStatus(event.bytes[0])) {
        channelMessage(event, sink);
    } else {
        systemMessage(event, sink);
    }
}

void Engine::systemMessage(const Event& event, const Sink& sink) {
    for (const Part& part : plan().parts) {
        if (!portFits(part.inputPort, event.port)) continue;
        const std::uint8_t status = event.bytes[0];
        const bool passes = status == midi::sysexStart ? part.pass.sysex
                            : midi::isRealTime(status) ? part.pass.clock
                                                       : part.pass.unmatched;
        if (passes) sink({now_, plan().lanes[part.lane].port, part.name, noChain, -1, event.bytes});
    }
}

void Engine::channelMessage(const Event& event, const Sink& sink) {
    if (midi::isNoteOff(event.bytes)) return endNote(event, sink);
    const std::uint8_t kind = midi::kindOf(event.bytes);
    for (const std::uint32_t place :
         plan().byChannel[static_cast<std::size_t>(midi::channelOf(event.bytes))]) {
        const Part& part = plan().parts[place];
        if (!portFits(part.inputPort, event.port)) continue;
        if (kind == midi::noteOn || kind == midi::keyPressure) {
            keyMessage(event, part, sink);
        } else {
            controlMessage(event, part, sink);
        }
    }
}

void Engine::keyMessage(const Event& event, const Part& part, const Sink& sink) {
    const auto key = transposed(part, event.bytes[1]);
    if (midi::kindOf(event.bytes) == midi::keyPressure)
        return followNote(event, part, key.value_or(-1), sink);
    if (!key) return;
    runListeners(event, part, velocityKey, event.bytes[2], sink);
    if (part.pass.notes) beginNote(event, part, sink);
}

void Engine::beginNote(const Event& event, const Part& part, const Sink& sink) {
    const Lane& lane = plan().lanes[part.lane];
    midi::Short message = onChannel(event.bytes, lane.channel);
    message.data[1] = static_cast<std::uint8_t>(event.bytes[1] + part.transpose);
    if (!notes_.begin(inputKey(event), {lane.port, lane.channel, message.data[1]}, part.name)) return;
    sink({now_, lane.port, part.name, noChain, -1, message.bytes()});
}

void Engine::endNote(const Event& event, const Sink& sink) {
    const InputKey input = inputKey(event);
    const auto release = [&](std::size_t index) {
        const HeldNote note = notes_.held()[index];
        if (!notes_.end(index)) return;
        midi::Short message = onChannel(event.bytes, note.output.channel);
        message.data[1] = note.output.key;
        sink({now_, note.output.port, note.instrument, noChain, -1, message.bytes()});
    };
    // Document order first; then what belongs to instruments that the document no longer has.
    const auto& held = notes_.held();
    const auto holds = [&](std::size_t i) { return held[i].input == input && held[i].count > 0; };
    std::size_t left = 0;
    for (std::size_t i = 0; i < held.size(); ++i) left += holds(i) ? 1 : 0;
    for (std::size_t p = 0; p < plan().parts.size() && left > 0; ++p) {
        for (std::size_t i = 0; i < held.size(); ++i) {
            if (!holds(i) || held[i].instrument != plan().parts[p].name) continue;
            release(i);
            --left;
        }
    }
    for (std::size_t i = 0; i < held.size() && left > 0; ++i) {
        const auto sameName = [&](const Part& part) { return part.name == held[i].instrument; };
        if (holds(i) && std::none_of(plan().parts.begin(), plan().parts.end(), sameName)) release(i);
    }
    notes_.sweep();
}

void Engine::followNote(const Event& event, const Part& part, int key, const Sink& sink) {
    if (!part.pass.unmatched) return;
    const InputKey input = inputKey(event);
    bool held = false;
    for (const HeldNote& note : notes_.held()) {
        if (note.input != input || note.instrument != part.name) continue;
        held = true;
        midi::Short message = onChannel(event.bytes, note.output.channel);
        message.data[1] = note.output.key;
        sink({now_, note.output.port, note.instrument, noChain, -1, message.bytes()});
    }
    if (held || key < 0 || !part.pass.notes) return;
    midi::Short message = onChannel(event.bytes, plan().lanes[part.lane].channel);
    message.data[1] = static_cast<std::uint8_t>(key);
    pass(part, message, sink);
}

void Engine::controlMessage(const Event& event, const Part& part, const Sink& sink) {
    Matched matched;
    bool always = false;
    switch (midi::kindOf(event.bytes)) {
        case midi::controlChange:
            matched = runListeners(event, part, event.bytes[1], event.bytes[2], sink);
            always = event.bytes[1] >= midi::firstChannelMode;
            break;
        case midi::pitchBend:
            matched = runListeners(event, part, bendKey, midi::bendOf(event.bytes), sink);
            break;
        case midi::channelPressure:
            matched = runListeners(event, part, pressureKey, event.bytes[1], sink);
            break;
        default:
            break;
    }
    const bool passes = always || (matched.any ? matched.keep : part.pass.unmatched);
    if (passes) pass(part, onChannel(event.bytes, plan().lanes[part.lane].channel), sink);
}

Engine::Matched Engine::runListeners(const Event& event, const Part& part, std::size_t key, int raw,
                                     const Sink& sink) {
    Matched matched;
    for (std::uint32_t i = part.listeners[key]; i < part.listeners[key + 1]; ++i) {
        const std::uint32_t index = plan().listeners[i];
        const PlanChain& chain = plan().chains[index];
        const bool fits = portFits(chain.port, event.port) &&
                          (chain.channel < 0 || chain.channel == midi::channelOf(event.bytes));
        if (!fits) continue;
        matched.any = true;
        matched.keep = matched.keep || chain.keepOriginal;
        state().chains[index].raw = raw;
        state().chains[index].spoken = true;
        runFromSource(index, sink);
    }
    return matched;
}

void Engine::runFromSource(std::uint32_t index, const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    const auto raw = static_cast<std::size_t>(state().chains[index].raw);
    double position = plan().positions[chain.positions + raw];
    if (chain.trunkRemembers()) {
        const auto rest = std::span(chain.steps).subspan(chain.firstMemory);
        position = *through(rest, &state().steps[chain.firstState + chain.firstMemory], position, false);
    }
    state().chainLive[index].raw.store(static_cast<int>(raw), std::memory_order_relaxed);
    state().chainLive[index].result.store(static_cast<float>(position), std::memory_order_relaxed);
    if (!chain.timed) {
        for (std::uint32_t b = chain.firstBranch; b < chain.firstBranch + chain.branchCount; ++b) {
            const int value = plan().tables[static_cast<std::size_t>(plan().branches[b].table) + raw];
            if (value != silentValue) sendValue(chain, b, value, sink);
        }
        return;
    }
    runBranches(chain, &position, false, sink);
    updateMoving(index);
}

void Engine::runBranches(const PlanChain& chain, const double* position, bool tick, const Sink& sink) {
    for (std::uint32_t b = chain.firstBranch; b < chain.firstBranch + chain.branchCount; ++b) {
        const PlanBranch& branch = plan().branches[b];
        if (!branch.on) continue;
        std::optional<double> p;
        bool rests = false;
        if (position != nullptr) {
            p = throughWindow(branch, *position);
            rests = !p && branch.window->outside == Outside::rest;
        }
        p = through(branch.steps, state().steps.data() + branch.firstState, p, tick);
        if (rests) {
            sendValue(chain, b, branch.restValue, sink);
        } else if (p) {
            sendValue(chain, b, encodeAtTarget(branch, *p), sink);
        }
    }
}

void Engine::tickChain(std::uint32_t index, const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    const auto rest = std::span(chain.steps).subspan(chain.firstMemory);
    const auto position =
        through(rest, state().steps.data() + chain.firstState + chain.firstMemory, std::nullopt, true);
    if (position)
        state().chainLive[index].result.store(static_cast<float>(*position), std::memory_order_relaxed);
    runBranches(chain, position ? &*position : nullptr, true, sink);
    updateMoving(index);
}

void Engine::updateMoving(std::uint32_t index) {
    const PlanChain& chain = plan().chains[index];
    const auto anyMoves = [this](std::uint32_t first, std::size_t count) {
        const auto* states = state().steps.data() + first;
        return std::any_of(states, states + count, [](const StepState& s) { return s.moving(); });
    };
    bool moving = anyMoves(chain.firstState, chain.steps.size());
    for (std::uint32_t b = chain.firstBranch; !moving && b < chain.firstBranch + chain.branchCount; ++b) {
        moving = anyMoves(plan().branches[b].firstState, plan().branches[b].steps.size());
    }
    ChainState& chainState = state().chains[index];
    if (moving && !chainState.moving) ++movingChains_;
    if (!moving && chainState.moving) --movingChains_;
    chainState.moving = moving;
}

void Engine::sendValue(const PlanChain& chain, std::uint32_t index, int value, const Sink& sink) {
    const PlanBranch& branch = plan().branches[index];
    state().branchLive[index].value.store(value, std::memory_order_relaxed);
    std::int32_t& sent = state().sent[branch.slot];
    if (sent == value && !branch.repeats) return;
    sent = value;
    const Lane& lane = plan().lanes[branch.lane];
    const midi::Short message = targetMessage(branch, lane.channel, value);
    if (branch.kind == MessageKind::cc && branch.control == midi::resetAllControllers) {
        rememberSent(lane, branch.lane, message.bytes());
    }
    const auto chainIndex = static_cast<std::int32_t>(&chain - plan().chains.data());
    sink({now_, lane.port, branch.instrument, chainIndex, static_cast<std::int32_t>(index), message.bytes()});
}

void Engine::pass(const Part& part, midi::Short message, const Sink& sink) {
    const Lane& lane = plan().lanes[part.lane];
    rememberSent(lane, part.lane, message.bytes());
    sink({now_, lane.port, part.name, noChain, -1, message.bytes()});
}

void Engine::rememberSent(const Lane& lane, std::uint32_t laneIndex, midi::Bytes message) {
    std::int32_t* sent = state().sent.data() + static_cast<std::size_t>(laneIndex) * slotsPerLane;
    switch (midi::kindOf(message)) {
        case midi::controlChange: {
            const std::uint8_t control = message[1];
            sent[control] = message[2];
            if (control == midi::resetAllControllers) std::fill_n(sent, slotsPerLane, -1);
            if (control == midi::allSoundOff || control >= midi::firstNoteClearing)
                notes_.clearChannel(lane.port, lane.channel);
            break;
        }
        case midi::pitchBend:
            sent[bendSlot] = midi::bendOf(message);
            break;
        case midi::channelPressure:
            sent[pressureSlot] = message[1];
            break;
        default:
            break;
    }
}

void Engine::silenceAll(const Sink& sink) {
    const auto& held = notes_.held();
    for (std::size_t i = 0; i < held.size(); ++i) {
        const auto sameKey = [&](const HeldNote& earlier) { return earlier.output == held[i].output; };
        if (std::any_of(held.begin(), held.begin() + static_cast<std::ptrdiff_t>(i), sameKey)) continue;
        const auto off = midi::make(midi::noteOff, held[i].output.channel, held[i].output.key, 64);
        sink({now_, held[i].output.port, held[i].instrument, noChain, -1, off.bytes()});
    }
    notes_.clear();
    for (const Lane& lane : plan().lanes) {
        for (const int control : {midi::sustain, midi::allNotesOff, midi::allSoundOff}) {
            const auto message = midi::make(midi::controlChange, lane.channel, control, 0);
            sink({now_, lane.port, lane.instrument, noChain, -1, message.bytes()});
        }
    }
    std::fill(state().sent.begin(), state().sent.end(), -1);
}

void Engine::portConnected(PortId port) {
    for (std::size_t lane = 0; lane < plan().lanes.size(); ++lane) {
        if (plan().lanes[lane].port != port) continue;
        std::fill_n(state().sent.begin() + static_cast<std::ptrdiff_t>(lane * slotsPerLane), slotsPerLane,
                    -1);
    }
}

}  // namespace mellow::engine
