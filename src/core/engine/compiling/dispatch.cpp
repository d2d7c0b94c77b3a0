// Lists by counting sort: how many listeners each kind of message has on each channel, where each list
// begins, then the listeners in their places. Chains were added in order, so each list is in order. Where all
// that a list leads to is looking up, or one chain alone, its route says so; that is what makes playing
// quick.
#include "core/engine/compiling/dispatch.h"

#include <algorithm>
#include <bit>
#include <map>
#include <numeric>

namespace mellow::engine {

namespace {

/// Calls visit(key) for each kind of message that concerns a source.
template<class Visit>
void forEachListenKey(const Source& source, Visit&& visit) {
    const auto hears = row(source.kind).hears;
    if (hears == nullptr) return;
    const MessageKeys keys = hears(source);
    std::for_each(keys.begin(), keys.end(), visit);
}

/// True of controls that mean something beyond their value: pedals, and what selects and enters data.
bool meansMore(std::size_t key) {
    const int control = static_cast<int>(key);
    return midi::isHoldingPedal(control) || midi::isDataEntry(control) || midi::selectsRegister(control) ||
           key > midi::pressureKey;
}

/// True where a message of a list can only matter by its value, and what instruments pass on can be told
/// while the list is read. Halves of pairs are followed on every channel, so that a later edit finds them
/// known; and where chains wait for those of later instruments passing on does too.
bool isJustAValue(const Plan& plan, std::size_t list) {
    const std::size_t key = list % midi::messageKeys;
    const bool isHalf = key < 2 * midi::pairCount && plan.pairsHeard[key % midi::pairCount];
    return !meansMore(key) && !isHalf && plan.order.empty();
}

/// True where it is not settled beforehand whom a message reaches: the hand may be another by then, or zones
/// decide. Only shared chains choose the hand, so a message that comes to none leaves it as it is.
bool isGuarded(const Plan& plan) {
    return plan.handMoves || plan.zoned;
}

/// Calls visit(list, hearing) for each list of listeners that a hearing belongs to.
template<class Visit>
void forEachList(const Plan& plan, Visit&& visit) {
    for (const Hearing& hearing : plan.hearings) {
        for (std::uint32_t left = hearing.channels; left != 0; left &= left - 1)
            visit(static_cast<std::size_t>(std::countr_zero(left)) * midi::messageKeys + hearing.key,
                  hearing);
    }
}

/// Sorts hearings by channel and kind of message, by counting, so that each list stays in order.
void indexListeners(Plan& plan) {
    auto& first = plan.firstListener;
    forEachList(plan, [&](std::size_t list, const Hearing&) { ++first[list + 1]; });
    std::partial_sum(first.begin(), first.end(), first.begin());
    plan.listeners.resize(first.back());
    std::vector<std::uint32_t> next(first.begin(), first.end() - 1);
    for (std::size_t list = 0; list < plan.routes.size(); ++list) {
        if (isJustAValue(plan, list))
            plan.routes[list].kind = isGuarded(plan) ? Route::Kind::guarded : Route::Kind::lookedUp;
    }
    forEachList(plan, [&](std::size_t list, const Hearing& hearing) {
        const PlanChain& chain = plan.chains[hearing.chain];
        Listener listener{hearing.chain, chain.part,   hearing.ear,
                          everyPort,     hearing.port, chain.keepOriginal};
        if (chain.part != none) listener.partPort = plan.parts[chain.part].inputPort;
        plan.listeners[next[list]++] = listener;
        const bool looksUp = chain.part != none && !chain.isEvaluated() && hearing.ear != none &&
                             !isPair(plan.ears[hearing.ear].kind);
        if (!looksUp) plan.routes[list].kind = Route::Kind::heard;
    });
}

/// True of a chain that nothing outside its instrument waits for, and that is moved by an ear as soon as that
/// is.
bool runsAlone(const Plan& plan, const PlanChain& chain, const Ear& ear) {
    const auto branches = std::span(plan.branches).subspan(chain.firstBranch, chain.branchCount);
    const bool writes = std::any_of(branches.begin(), branches.end(),
                                    [](const PlanBranch& branch) { return branch.tieLine != none; });
    return !writes && !plan.staysAsleep(chain) && ear.role == Role::main && ear.hands == none &&
           row(ear.kind).value != nullptr && row(ear.kind).consumes;
}

/// Messages that one chain takes, and that mean nothing to anybody else.
void findSoleListeners(Plan& plan) {
    if (isGuarded(plan)) return;
    for (std::size_t list = 0; list < plan.routes.size(); ++list) {
        const std::size_t channel = list / midi::messageKeys;
        const std::size_t key = list % midi::messageKeys;
        const auto listeners = plan.listenersTo(channel, key);
        const bool passesAnyhow = midi::isChannelMode(static_cast<int>(key));
        if (listeners.size() != 1 || passesAnyhow || !isJustAValue(plan, list)) continue;
        const Listener& only = listeners.front();
        const auto& passers = plan.passers[channel];
        const auto isOwn = [&only](std::uint32_t part) { return part == only.part; };
        if (only.keep || only.part == none || !std::all_of(passers.begin(), passers.end(), isOwn)) continue;
        if (!portFits(only.partPort, only.port)) continue;
        const PlanChain& chain = plan.chains[only.chain];
        Route& route = plan.routes[list];
        const bool looksUp = route.kind == Route::Kind::lookedUp && !chain.isEvaluated();
        const bool runs =
            chain.isEvaluated() && only.ear != none && runsAlone(plan, chain, plan.ears[only.ear]);
        const PortId port = only.port == everyPort ? only.partPort : only.port;
        if (looksUp || runs) route = {Route::Kind::alone, port, only.chain};
    }
}

}  // namespace

void addHearings(Plan& plan, const PlanChain& chain) {
    const auto place = static_cast<std::uint32_t>(plan.chains.size());
    const std::uint16_t channels =
        chain.part == none ? std::uint16_t{0xFFFF} : plan.parts[chain.part].inputChannels;
    const auto add = [&](std::uint16_t heard, std::size_t key, PortId port, std::uint32_t ear) {
        if (heard != 0) plan.hearings.push_back({heard, static_cast<std::uint8_t>(key), port, place, ear});
    };
    for (std::uint32_t e = chain.firstEar; e < chain.firstEar + chain.earCount; ++e) {
        const Ear& ear = plan.ears[e];
        // One that sleeps still knows where the control stands that it will be handed over to.
        const bool isHandedOver = ear.handover != Handover::jump && row(ear.kind).origin == Origin::message;
        if (plan.staysAsleep(chain) && !isHandedOver) continue;
        const std::uint16_t own =
            ear.channel < 0 ? std::uint16_t{0xFFFF} : static_cast<std::uint16_t>(1 << ear.channel);
        forEachListenKey(*ear.source, [&](std::size_t key) { add(channels & own, key, ear.port, e); });
    }
    if (plan.staysAsleep(chain) || !chain.body->hearsCues) return;
    add(channels, midi::noteOnKey, everyPort, none);
    add(channels, midi::sustain, everyPort, none);
}

void indexDispatch(Plan& plan) {
    std::map<std::string, std::vector<std::uint32_t>> byAddress;
    plan.tieLines.resize(plan.numbering.tieLines.size());
    for (std::uint32_t e = 0; e < plan.ears.size(); ++e) {
        const Ear& ear = plan.ears[e];
        if (ear.kind == SourceKind::lfo) plan.cycles.push_back(e);
        const bool sleeps = plan.staysAsleep(plan.chains[ear.chain]);
        if (ear.kind == SourceKind::cc14 && (!sleeps || ear.handover != Handover::jump))
            plan.pairsHeard[static_cast<std::size_t>(ear.source->number)] = true;
        if (ear.kind == SourceKind::osc && sleeps && ear.handover != Handover::jump)
            byAddress[textOf(*ear.source, 0)].push_back(e);
        if (sleeps) continue;
        if (ear.tieLine != none) plan.tieLines[ear.tieLine].ears.push_back(e);
        if (ear.kind == SourceKind::osc) byAddress[textOf(*ear.source, 0)].push_back(e);
        if (ear.kind == SourceKind::zoneNote) plan.fingerEars.push_back(e);
        if (row(ear.kind).origin == Origin::generator) plan.generators.push_back(e);
        if (ear.kind == SourceKind::envelope) plan.notesCounted.push_back(e);
    }
    indexListeners(plan);
    findSoleListeners(plan);
    for (auto& [address, ears] : byAddress) plan.oscListeners.push_back({address, std::move(ears)});
    std::sort(plan.noteCauses.begin(), plan.noteCauses.end());
    plan.chainOfKey.assign(plan.numbering.chainKeys->size(), none);
    for (std::uint32_t c = 0; c < plan.chains.size(); ++c) plan.chainOfKey[plan.chains[c].key] = c;
}

}  // namespace mellow::engine
