// The way that nearly all messages take: from the list of those that want them, through a table, to the sink.
//
// What a hand on a control sends comes in runs of a hundred messages and more a second, and means nothing but
// its value. So when the lists of listeners are made it is noted where all of them merely look up, and where
// only one chain is concerned, which (Route). Everything here is inline from end to end.
#include <array>

#include "core/engine/playing/engine.h"

namespace mellow::engine {

/// Looking up: what almost every event comes to. What the loop needs is fetched before it, and what all
/// results of a chain have in common is filled in once.
[[gnu::always_inline]] inline void Engine::sendTabulated(const PlanChain& chain, std::uint32_t index, int raw,
                                                         const Sink& sink) {
    const std::uint32_t count = chain.branchCount;
    const std::uint32_t first = chain.firstBranch;
    const Payload* payloads = chain.table + static_cast<std::size_t>(raw) * count;
    const Outlet* outlets = plan().outlets.data() + first;
    Payload* sent = state().sent.data();
    const Sink sinkHere = sink;
    std::array<std::uint8_t, 3> message{};
    Output output{now_, outlets->port, outlets->instrument, static_cast<std::int32_t>(index), -1, {}};
    for (std::uint32_t b = 0; b < count; ++b) {
        const Payload payload = payloads[b];
        const Outlet& outlet = outlets[b];
        if (sent[outlet.slot] == payload) continue;
        sent[outlet.slot] = payload;
        message = {outlet.status, static_cast<std::uint8_t>(payload),
                   static_cast<std::uint8_t>(payload >> 8)};
        output.branch = static_cast<std::int32_t>(first + b);
        output.bytes = {message.data(), outlet.size};
        sinkHere(output);
    }
}

/// Where the source of a chain that looks up stands now.
[[gnu::always_inline]] inline void Engine::noteRaw(std::uint32_t index, int raw) {
    ChainState& chainState = state().chains[index];
    chainState.raw = raw;
    chainState.spoken = true;
    state().chainLive[index].raw.store(raw, std::memory_order_relaxed);
}

[[gnu::always_inline]] inline void Engine::lookUpHere(std::uint32_t index, int raw, const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    noteRaw(index, raw);
    if (chain.way == Way::tabulated && !defers_) [[likely]] {
        sendTabulated(chain, index, raw, sink);
    } else {
        sendCarefully(chain, raw, sink);
    }
}

void Engine::lookUp(std::uint32_t chain, int raw, const Sink& sink) {
    lookUpHere(chain, raw, sink);
}

/// Runs the listeners at the front of the list that belong to one instrument, and takes them off it. All of
/// them look up.
Engine::Matched Engine::runListeners(std::span<const Listener>& listeners, PortId port, int raw,
                                     const Sink& sink) {
    Matched matched;
    const Listener* at = listeners.data();
    const Listener* end = at + listeners.size();
    const std::uint32_t part = at->part;
    for (; at != end && at->part == part; ++at) {
        if (!portFits(at->partPort, port) || !portFits(at->port, port)) continue;
        lookUpHere(at->chain, raw, sink);
        matched.any = true;
        matched.keep = matched.keep || at->keep;
    }
    listeners = {at, end};
    return matched;
}

/// The same, of those that it reaches: who is out of hand merely knows where the source stands.
Engine::Matched Engine::runReached(std::span<const Listener>& listeners, const Event& event, int raw,
                                   const Sink& sink) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    Matched matched;
    const Listener* at = listeners.data();
    const Listener* end = at + listeners.size();
    const std::uint32_t part = at->part;
    const bool comes = !plan().zoned || comesTo(plan().parts[part], event.port, channel);
    for (; at != end && at->part == part; ++at) {
        if (!comes || !portFits(at->partPort, event.port) || !portFits(at->port, event.port)) continue;
        if (isAsleep(plan().chains[at->chain])) {
            speakRaw(at->ear, raw, event.port, channel);
            continue;
        }
        EarState& ear = state().ears[at->ear];
        ear.raw = raw;
        ear.position = placeOf(plan().ears[at->ear], raw);
        ear.spoken = true;
        lookUpHere(at->chain, raw, sink);
        matched.any = true;
        matched.keep = matched.keep || at->keep;
    }
    listeners = {at, end};
    return matched;
}

/// Two lists in document order, walked side by side: chains that want the message, and instruments that pass
/// what no chain takes (channel-mode messages always pass).
/// run(listeners): runs the first instrument's and takes them off; reaches(part): whether that passes at all.
template<class Run, class Reaches>
[[gnu::always_inline]] inline void Engine::walkLists(const Event& event, std::size_t key, Run&& run,
                                                     Reaches&& reaches, const Sink& sink) {
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    const bool always = midi::isChannelMode(static_cast<int>(key));
    auto listeners = plan().listenersTo(channel, key);
    const auto& passing = always ? plan().receivers[channel] : plan().passers[channel];
    const std::uint32_t* passer = passing.data();
    const std::uint32_t* const lastPasser = passer + passing.size();
    const auto passNext = [&] {
        const std::uint32_t part = *passer++;
        if (reaches(part)) pass(event, part, sink);
    };
    while (!listeners.empty()) {
        const std::uint32_t part = listeners.front().part;
        while (passer != lastPasser && *passer < part) passNext();
        const bool listed = passer != lastPasser && *passer == part;
        if (listed) ++passer;
        const Matched matched = run(listeners);
        const bool passes = matched.any ? matched.keep || always : listed;
        if (passes && reaches(part)) pass(event, part, sink);
    }
    while (passer != lastPasser) passNext();
}

void Engine::playPlainly(const Event& event, std::size_t key, int raw, const Sink& sink) {
    // Who is out of hand is on neither list, but for chains that speak always.
    walkLists(
        event, key, [&](auto& listeners) { return runListeners(listeners, event.port, raw, sink); },
        [this](std::uint32_t part) { return plan().parts[part].inHand; }, sink);
}

void Engine::playGuarded(const Event& event, std::size_t key, int raw, const Sink& sink) {
    walkLists(
        event, key, [&](auto& listeners) { return runReached(listeners, event, raw, sink); },
        [this](std::uint32_t part) { return isInHand(part); }, sink);
}

/// A value that one chain alone takes, which runs at once, without being marked and without a walk.
[[gnu::always_inline]] inline void Engine::takeAlone(std::uint32_t index, int raw, const Sink& sink) {
    const PlanChain& chain = plan().chains[index];
    if (chain.way == Way::tabulated) [[likely]] {
        noteRaw(index, raw);
        sendTabulated(chain, index, raw, sink);
    } else if (!chain.isEvaluated()) {
        lookUp(index, raw, sink);
    } else {
        runAlone(index, raw, sink);
    }
}

namespace {

/// A message whose kind is a number and that carries a value.
struct Reading {
    std::size_t key = 0;
    int raw = 0;
};

/// What hands on a control send; of all other messages the key is messageKeys.
inline Reading readingOf(midi::Bytes message) {
    const std::uint8_t kind = message[0] & 0xF0;
    if (kind == midi::controlChange) [[likely]]
        return {message[1], message[2]};
    if (kind == midi::pitchBend) return {midi::bendKey, midi::bendOf(message)};
    if (kind == midi::channelPressure) return {midi::pressureKey, message[1]};
    return {midi::messageKeys, 0};
}

}  // namespace

void Engine::process(const Event& event, const Sink& sink) {
    advance(event.time, sink);
    if (event.bytes.empty()) {
        if (!event.address.empty()) oscMessage(event, sink);
        return;
    }
    // Hands send little else than what is looked up, so that is asked for first.
    const auto [key, raw] = readingOf(event.bytes);
    if (key < midi::messageKeys) [[likely]] {
        if (key >= midi::slideControl)
            if (zones_.take(event.port, static_cast<std::size_t>(midi::channelOf(event.bytes)), key, raw) &&
                zones_.someExist())
                chooseFingers();
        const Route& route = plan().routes[(event.bytes[0] & 0x0FU) * midi::messageKeys + key];
        if (route.kind == Route::Kind::alone && portFits(route.port, event.port)) [[likely]]
            return takeAlone(route.chain, raw, sink);
        if (route.kind == Route::Kind::lookedUp) return playPlainly(event, key, raw, sink);
        if (route.kind == Route::Kind::guarded) return playGuarded(event, key, raw, sink);
        channelMessage(event, sink);
    } else if (midi::isChannelStatus(event.bytes[0])) {
        channelMessage(event, sink);
    } else {
        systemMessage(event, sink);
    }
}

}  // namespace mellow::engine
