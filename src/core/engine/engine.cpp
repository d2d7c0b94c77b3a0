#include "core/engine/engine.h"

#include <algorithm>

namespace mellow::engine {

namespace {

bool portFits(PortId filter, PortId port) {
    return filter == everyPort || port == everyPort || filter == port;
}

/// Takes a value through steps, memory and all. Without an input the steps keep still but for the clock and a
/// cue; the result is then nothing unless one of them moved (signal rules, section 3).
std::optional<double> through(std::span<const Step> steps, StepState* states, std::optional<double> p,
                              Moment moment) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const StepKind& kind = *steps[i].kind;
        if (!kind.remembers()) {
            if (p) p = shapePosition(steps[i], *p);
            continue;
        }
        StepState& state = states[i];
        const double before = state.output;
        if (p) kind.take(steps[i], state, *p, moment.time);
        if (moment.cue != Cue::none && state.started && kind.hear != nullptr)
            kind.hear(steps[i], state, moment.cue);
        if (moment.tick && state.moving) kind.tick(steps[i], state, moment.time);
        if (p || state.output != before) p = clampPosition(state.output);
    }
    return p;
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

// From an event to its results: the way that nearly all of them take, inline from end to end.

/// Sends what an outlet is to send now. Filling in what is there, rather than making an Output each time, is
/// a third of the cost of an event.
[[gnu::always_inline]] inline void emitPayload(const Outlet& outlet, std::uint32_t branch, Payload payload,
                                               Output& output, const Sink& sink) {
    const std::array<std::uint8_t, 3> message{outlet.status, static_cast<std::uint8_t>(payload),
                                              static_cast<std::uint8_t>(payload >> 8)};
    output.port = outlet.port;
    output.instrument = outlet.instrument;
    output.branch = static_cast<std::int32_t>(branch);
    output.bytes = {message.data(), outlet.size};
    sink(output);
}

/// As sendTabulated, for chains that have something to be careful about.
[[gnu::noinline]] void Engine::sendCarefully(std::uint32_t index, int raw, const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    const std::size_t row = chain.table + static_cast<std::size_t>(raw) * chain.branchCount;
    for (std::uint32_t b = 0; b < chain.branchCount; ++b) {
        const Payload payload = plan().tables[row + b];
        if (payload != noPayload) sendPayload(index, chain.firstBranch + b, payload, sink);
    }
}

void Engine::sendPayload(std::uint32_t chain, std::uint32_t branch, Payload payload, const Sink& sink) {
    const Outlet& outlet = plan().outlets[branch];
    Payload& sent = state().sent[outlet.slot];
    if (sent == payload && !outlet.repeats) return;
    sent = payload;
    if (outlet.clears) forgetLane(outlet.slot / slotsPerLane);
    Output output{now_, everyPort, 0, static_cast<std::int32_t>(chain), -1, {}};
    emitPayload(outlet, branch, payload, output, sink);
}

/// Looking up: what almost every event comes to. What the loop needs is fetched before it.
[[gnu::always_inline]] inline void Engine::sendTabulated(const PlanChain& chain, std::uint32_t index, int raw,
                                                         const Sink& sink) {
    const std::uint32_t count = chain.branchCount;
    const std::uint32_t first = chain.firstBranch;
    const Payload* payloads = plan().tables.data() + chain.table + static_cast<std::size_t>(raw) * count;
    const Outlet* outlets = plan().outlets.data() + first;
    Payload* sent = state().sent.data();
    const Sink sinkHere = sink;
    Output output{now_, everyPort, 0, static_cast<std::int32_t>(index), -1, {}};
    for (std::uint32_t b = 0; b < count; ++b) {
        const Payload payload = payloads[b];
        if (sent[outlets[b].slot] == payload) continue;
        sent[outlets[b].slot] = payload;
        emitPayload(outlets[b], first + b, payload, output, sinkHere);
    }
}

[[gnu::always_inline]] inline void Engine::noteSpoken(std::uint32_t index, int raw) {
    ChainState& chainState = state().chains[index];
    chainState.raw = raw;
    chainState.spoken = true;
    state().chainLive[index].raw.store(raw, std::memory_order_relaxed);
}

[[gnu::always_inline]] inline void Engine::runFromSource(std::uint32_t index, int raw, const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    noteSpoken(index, raw);
    if (chain.way == Way::tabulated) [[likely]] {
        sendTabulated(chain, index, raw, sink);
    } else if (chain.way == Way::carefully) {
        sendCarefully(index, raw, sink);
    } else {
        runEvaluated(index, raw, Cue::none, sink);
    }
}

/// Runs the listeners at the front of the list that belong to one instrument, and takes them off it. cues:
/// the list may hold chains that wait for a note or the pedal.
template<bool cues>
[[gnu::always_inline]] inline Engine::Matched Engine::runListeners(std::span<const Listener>& listeners,
                                                                   PortId port, int raw, Cue cue,
                                                                   const Sink& sink) {
    Matched matched;
    const Listener* at = listeners.data();
    const Listener* end = at + listeners.size();
    const std::uint32_t part = at->part;
    for (; at != end && at->part == part; ++at) {
        if (!portFits(at->partPort, port)) continue;
        if (cues && at->hearsCue) {
            if (!runCued(*at, port, raw, cue, sink)) continue;
        } else {
            if (!portFits(at->port, port)) continue;
            runFromSource(at->chain, raw, sink);
        }
        matched.any = true;
        matched.keep = matched.keep || at->keep;
    }
    listeners = {at, end};
    return matched;
}

void Engine::sendEvaluated(std::uint32_t chain, std::uint32_t branch, Payload payload, const Sink& sink) {
    state().branchLive[branch].value.store(valueOf(plan().branches[branch], payload),
                                           std::memory_order_relaxed);
    sendPayload(chain, branch, payload, sink);
}

[[gnu::noinline]] void Engine::runEvaluated(std::uint32_t index, std::optional<int> raw, Cue cue,
                                            const Sink& sink) {
    std::optional<double> position;
    if (raw) position = plan().positions[plan().chains[index].positions + static_cast<std::size_t>(*raw)];
    goOn(index, position, {now_, false, cue}, sink);
}

/// Takes a chain on from the first step that remembers: with a value that came, with a cue, or by the clock.
void Engine::goOn(std::uint32_t index, std::optional<double> position, Moment moment, const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    const auto rest = std::span(chain.steps).subspan(chain.firstMemory);
    position = through(rest, state().steps.data() + chain.firstState + chain.firstMemory, position, moment);
    if (position)
        state().chainLive[index].result.store(static_cast<float>(*position), std::memory_order_relaxed);
    runBranches(index, position, moment, sink);
    updateMoving(index);
}

/// A listener that a cue concerns, whether its source spoke as well or not.
[[gnu::noinline]] bool Engine::runCued(const Listener& listener, PortId port, int raw, Cue cue,
                                       const Sink& sink) {
    const bool spoke = listener.hearsSource && portFits(listener.port, port);
    if (spoke) noteSpoken(listener.chain, raw);
    if (spoke || cue != Cue::none)
        runEvaluated(listener.chain, spoke ? std::optional(raw) : std::nullopt, cue, sink);
    return spoke;
}

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
        if (edited) runFromSource(chain, state().chains[chain].raw, sink);
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

void Engine::runClock(Time until, const Sink& sink) {
    Time grid = (now_ < 0 ? 0 : now_ / gridStep + 1) * gridStep;
    while (grid <= until && movingChains_ > 0) {
        now_ = grid;
        for (const std::uint32_t chain : plan().timedChains) {
            if (state().chains[chain].moving) goOn(chain, std::nullopt, {now_, true, Cue::none}, sink);
        }
        grid += gridStep;
    }
}

/// Two lists in document order, walked side by side: chains that want the message, and instruments that pass
/// what no chain takes (channel-mode messages always pass).
template<bool cues>
void Engine::controlMessage(const Event& event, std::size_t key, int raw, Cue cue, const Sink& sink) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    const bool always = key >= midi::firstChannelMode && key < bendKey;
    auto listeners = plan().listenersTo(channel, key);
    std::span<const std::uint32_t> passers = always ? plan().byChannel[channel] : plan().passers[channel];
    const std::uint32_t* passer = passers.data();
    const std::uint32_t* const lastPasser = passer + passers.size();
    while (!listeners.empty()) {
        const std::uint32_t part = listeners.front().part;
        while (passer != lastPasser && *passer < part) pass(event, *passer++, sink);
        const bool passes = passer != lastPasser && *passer == part;
        if (passes) ++passer;
        const Matched matched = runListeners<cues>(listeners, event.port, raw, cue, sink);
        if (matched.any ? matched.keep || always : passes) pass(event, part, sink);
    }
    while (passer != lastPasser) pass(event, *passer++, sink);
}

void Engine::process(const Event& event, const Sink& sink) {
    advance(event.time, sink);
    if (event.bytes.empty()) return;
    // Hands send little else, so it is asked for first.
    if ((event.bytes[0] & 0xF0) == midi::controlChange && event.bytes[1] != midi::sustain) {
        controlMessage<false>(event, event.bytes[1], event.bytes[2], Cue::none, sink);
    } else if (midi::isChannelStatus(event.bytes[0])) {
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
    switch (midi::kindOf(event.bytes)) {
        case midi::controlChange:
            return sustain(event, sink);
        case midi::pitchBend:
            return controlMessage<false>(event, bendKey, midi::bendOf(event.bytes), Cue::none, sink);
        case midi::channelPressure:
            return controlMessage<false>(event, pressureKey, event.bytes[1], Cue::none, sink);
        case midi::noteOff:
            return endNote(event, sink);
        case midi::noteOn:
            return event.bytes[2] == 0 ? endNote(event, sink) : noteOn(event, sink);
        case midi::keyPressure:
            return keyPressure(event, sink);
        default:
            return passUnmatched(event, sink);
    }
}

void Engine::sustain(const Event& event, const Sink& sink) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    const bool treads = pedals_.treads(event.port, channel, event.bytes[2]);
    controlMessage<true>(event, midi::sustain, event.bytes[2], treads ? Cue::pedalDown : Cue::none, sink);
}

void Engine::noteOn(const Event& event, const Sink& sink) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    auto listeners = plan().listenersTo(channel, velocityKey);
    for (const std::uint32_t place : plan().byChannel[channel]) {
        const Part& part = plan().parts[place];
        const bool hears = transposed(part, event.bytes[1]) && portFits(part.inputPort, event.port);
        while (!hears && !listeners.empty() && listeners.front().part == place)
            listeners = listeners.subspan(1);
        if (!hears) continue;
        if (!listeners.empty() && listeners.front().part == place)
            (void)runListeners<true>(listeners, event.port, event.bytes[2], Cue::noteOn, sink);
        if (part.pass.notes) beginNote(event, part, sink);
    }
}

void Engine::keyPressure(const Event& event, const Sink& sink) {
    for (const std::uint32_t place : plan().passers[static_cast<std::size_t>(midi::channelOf(event.bytes))]) {
        const Part& part = plan().parts[place];
        if (portFits(part.inputPort, event.port)) followNote(event, part, sink);
    }
}

void Engine::passUnmatched(const Event& event, const Sink& sink) {
    for (const std::uint32_t part : plan().passers[static_cast<std::size_t>(midi::channelOf(event.bytes))])
        pass(event, part, sink);
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

void Engine::followNote(const Event& event, const Part& part, const Sink& sink) {
    const InputKey input = inputKey(event);
    bool held = false;
    for (const HeldNote& note : notes_.held()) {
        if (note.input != input || note.instrument != part.name) continue;
        held = true;
        midi::Short message = onChannel(event.bytes, note.output.channel);
        message.data[1] = note.output.key;
        sink({now_, note.output.port, note.instrument, noChain, -1, message.bytes()});
    }
    const auto key = transposed(part, event.bytes[1]);
    if (held || !key || !part.pass.notes) return;
    const Lane& lane = plan().lanes[part.lane];
    midi::Short message = onChannel(event.bytes, lane.channel);
    message.data[1] = static_cast<std::uint8_t>(*key);
    sink({now_, lane.port, part.name, noChain, -1, message.bytes()});
}

void Engine::runBranches(std::uint32_t index, std::optional<double> position, Moment moment,
                         const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    for (std::uint32_t b = chain.firstBranch; b < chain.firstBranch + chain.branchCount; ++b) {
        const PlanBranch& branch = plan().branches[b];
        if (!branch.on) continue;
        std::optional<double> p;
        bool rests = false;
        if (position) {
            p = throughWindow(branch, *position);
            rests = !p && branch.window->outside == Outside::rest;
        }
        p = through(branch.steps, state().steps.data() + branch.firstState, p, moment);
        if (rests) {
            sendEvaluated(index, b, branch.restPayload, sink);
        } else if (p) {
            sendEvaluated(index, b, payloadOf(branch, encodeAtTarget(branch, *p)), sink);
        }
    }
}

void Engine::updateMoving(std::uint32_t index) {
    const PlanChain& chain = plan().chains[index];
    const auto anyMoves = [this](std::uint32_t first, std::size_t count) {
        const auto* states = state().steps.data() + first;
        return std::any_of(states, states + count, [](const StepState& s) { return s.moving; });
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

/// Passes a message on, if it comes from a port that the instrument listens to.
[[gnu::noinline]] void Engine::pass(const Event& event, std::uint32_t place, const Sink& sink) {
    const Part& part = plan().parts[place];
    if (!portFits(part.inputPort, event.port)) return;
    const Lane& lane = plan().lanes[part.lane];
    const midi::Short message = onChannel(event.bytes, lane.channel);
    rememberSent(lane, part.lane, message.bytes());
    sink({now_, lane.port, part.name, noChain, -1, message.bytes()});
}

void Engine::rememberSent(const Lane& lane, std::uint32_t laneIndex, midi::Bytes message) {
    Payload* sent = state().sent.data() + static_cast<std::size_t>(laneIndex) * slotsPerLane;
    const int first = message[1];
    switch (midi::kindOf(message)) {
        case midi::controlChange:
            sent[first] = payload(first, message[2]);
            if (first == midi::resetAllControllers) forgetLane(laneIndex);
            if (first == midi::allSoundOff || first >= midi::firstNoteClearing)
                notes_.clearChannel(lane.port, lane.channel);
            break;
        case midi::pitchBend:
            sent[bendSlot] = payload(first, message[2]);
            break;
        case midi::channelPressure:
            sent[pressureSlot] = payload(first, 0);
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
    std::fill(state().sent.begin(), state().sent.end(), noPayload);
}

void Engine::portConnected(PortId port) {
    for (std::uint32_t lane = 0; lane < plan().lanes.size(); ++lane) {
        if (plan().lanes[lane].port == port) forgetLane(lane);
    }
}

void Engine::forgetLane(std::uint32_t lane) {
    std::fill_n(state().sent.begin() + static_cast<std::ptrdiff_t>(lane) * slotsPerLane, slotsPerLane,
                noPayload);
}

}  // namespace mellow::engine
