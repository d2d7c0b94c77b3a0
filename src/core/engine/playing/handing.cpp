// Who is in hand, and what changes hands with it (signal rules, sections 5, 6 and 10).
//
// An instrument that leaves lets go of what the hand held on every channel that it used: pedals, bend,
// pressure, the notes of parameters, key switches. One that comes gets the pedals that are down, and its
// chains that slept are handed over to the controls as they stand. A chain may choose the hand in the middle
// of an event; for the rest of that event the new hand counts, so those who come hear it too, and those who
// left do nothing more with it.
#include "core/engine/playing/engine.h"

#include "core/engine/playing/desk_place.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>

namespace mellow::engine {

void Engine::chooseHand(std::size_t entry, const Sink& sink) {
    if (entry >= plan().handOrder.size()) return;
    const auto& wanted = plan().handOrder[entry];
    const auto isWanted = [&wanted](std::uint32_t part) {
        return std::find(wanted.begin(), wanted.end(), part) != wanted.end();
    };
    for (std::uint32_t part = 0; part < plan().parts.size(); ++part) {
        if (isInHand(part) && !isWanted(part)) setInHand(part, false, sink);
    }
    for (const std::uint32_t part : wanted) {
        if (!isInHand(part)) setInHand(part, true, sink);
    }
}

/// In the middle of an event.
void Engine::setInHand(std::uint32_t p, bool inHand, const Sink& sink) {
    state().parts[p].inHand = inHand;
    state().partLive[p].inHand.store(inHand, std::memory_order_relaxed);
    const Extent& first = plan().records[p].from;
    const Extent& end = plan().records[p].to;
    for (std::uint32_t chain = first.chains; chain < end.chains; ++chain) {
        if (inHand && plan().chains[chain].onlyInHand) wake(chain);
        // The note that is under way reaches nobody who is out.
        if (!inHand && cue_ == Cue::noteOn) state().chains[chain].hears = false;
    }
    refreshMoving(p);
    if (inHand) {
        hearPedals(p);
        hearAgain(p);
    }
    const auto what = inHand ? Deferred::What::come : Deferred::What::leave;
    if (defers_) return defer({what, p, 0, 0}, sink);
    if (inHand) {
        passPedals(p, sink);
    } else {
        leaveHand(p, plan().parts[p].lane, state().parts[p].channelsUsed, sink);
    }
}

/// The clock moves what is awake.
void Engine::refreshMoving(std::uint32_t p) {
    const Extent& first = plan().records[p].from;
    const Extent& end = plan().records[p].to;
    for (std::uint32_t e = first.ears; e < end.ears; ++e) {
        const Ear& ear = plan().ears[e];
        if (!plan().chains[ear.chain].onlyInHand || row(ear.kind).origin != Origin::generator) continue;
        if (ear.kind == SourceKind::envelope && !isAsleep(plan().chains[ear.chain])) countKeys(e);
        refreshGenerator(e);
    }
    for (std::uint32_t chain = first.chains; chain < end.chains; ++chain) {
        if (plan().chains[chain].onlyInHand && plan().chains[chain].ticks) updateMoving(chain);
    }
}

/// A chain that slept is handed over, and its tie lines stand where they were written to meanwhile. Its next
/// run goes through all of it.
void Engine::wake(std::uint32_t index) {
    const PlanChain& chain = plan().chains[index];
    state().chains[index].back = true;
    if (plan().ears[chain.firstEar].hands != none) {
        for (HandState& hand : handsOf(chain.firstEar)) hand.caught = false;
    }
    for (std::uint32_t e = chain.firstEar; e < chain.firstEar + chain.earCount; ++e) {
        const Ear& ear = plan().ears[e];
        const double written = ear.tieLine == none ? std::nan("") : state().tieLines[ear.tieLine];
        if (std::isnan(written)) continue;
        state().ears[e].position = written;
        if (ear.role == Role::combine) state().steps[ear.step].other = written;
    }
}

/// The event under way reaches an instrument that came into hand with it: its chains that slept, and those
/// that wait for a note. What has had its turn stays as it is.
void Engine::hearAgain(std::uint32_t p) {
    if (event_ == nullptr) return;
    const auto slept = [&](std::uint32_t chain) {
        return plan().chains[chain].part == p && plan().chains[chain].onlyInHand &&
               plan().rankOf(chain) >= cursor_;
    };
    if (event_->bytes.empty()) {
        const bool isDesk = event_->port == plan().deskPort;
        const DeskListener* element = isDesk ? plan().deskAt(event_->address) : nullptr;
        if (element != nullptr) {
            for (const std::uint32_t ear : element->ears) {
                if (slept(plan().ears[ear].chain))
                    hearPlace(ear, deskPlace(*element, event_->number), event_->port, 0);
            }
        } else if (!isDesk) {
            for (const std::uint32_t ear : plan().oscEarsAt(event_->address)) {
                if (slept(plan().ears[ear].chain)) hearOsc(*event_, ear);
            }
        }
        return;
    }
    if (!midi::isChannelStatus(event_->bytes[0])) return;
    const auto channel = static_cast<std::size_t>(midi::channelOf(event_->bytes));
    const std::size_t key = midi::keyOf(event_->bytes);
    again_ = true;
    for (const Listener& listener : plan().listenersTo(channel, key)) {
        if (listener.part != p || plan().rankOf(listener.chain) < cursor_) continue;
        if (listener.ear == none || slept(listener.chain)) hearFor(listener, *event_, key);
    }
    again_ = false;
}

// Pedals.

/// Calls each(event) for each pedal that is down behind an instrument's input filter.
template<class Each>
void Engine::forEachPedalDown(const Part& part, Each&& each) {
    for (std::size_t port = 0; port < hands_.portsUsed(); ++port) {
        const auto id = static_cast<PortId>(port);
        for (std::size_t channel = 0; channel < 16; ++channel) {
            if ((part.inputChannels >> channel & 1) == 0 || !comesTo(part, id, channel)) continue;
            for (std::size_t pedal = 0; pedal < midi::holdingPedals.size(); ++pedal) {
                const int value = hands_.pedal(id, channel, pedal);
                if (value == 0) continue;
                const auto message = midi::make(midi::controlChange, static_cast<int>(channel),
                                                midi::holdingPedals.at(pedal), value);
                each(Event{now_, id, message.bytes()}, pedal);
            }
        }
    }
}

/// Pedals that are down come to the chains of an instrument that slept.
void Engine::hearPedals(std::uint32_t p) {
    forEachPedalDown(plan().parts[p], [&](const Event& event, std::size_t) {
        const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
        for (const Listener& listener : plan().listenersTo(channel, event.bytes[1])) {
            if (listener.part != p || listener.ear == none || !portFits(listener.port, event.port)) continue;
            const PlanChain& chain = plan().chains[listener.chain];
            if (chain.onlyInHand && plan().rankOf(listener.chain) >= cursor_)
                hearWith(listener.ear, event, event.bytes[1]);
        }
    });
}

/// And are passed on, unless a chain takes them: on each member's channel as they stand there, to an
/// instrument that keeps channels; then of all others. The highest counts where ports and channels differ.
void Engine::passPedals(std::uint32_t p, const Sink& sink) {
    struct Pedal {
        midi::Short message;
        PortId port = everyPort;
    };
    constexpr std::size_t others = 16;
    std::array<std::array<Pedal, midi::holdingPedals.size()>, others + 1> highest{};
    const bool keeps = !plan().parts[p].keptLanes.empty();
    forEachPedalDown(plan().parts[p], [&](const Event& event, std::size_t pedal) {
        const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
        const bool kept = keeps && zones_.sizes(event.port).isMember(channel);
        Pedal& before = highest.at(kept ? channel : others).at(pedal);
        const bool isHigher = before.message.size == 0 || event.bytes[2] > before.message.data[2];
        if (isHigher && passesPedal(event, p)) before = {midi::shortOf(event.bytes), event.port};
    });
    for (const auto& pedals : highest) {
        for (const auto& [message, port] : pedals) {
            if (message.size > 0) passOn({now_, port, message.bytes()}, p, sink);
        }
    }
}

bool Engine::passesPedal(const Event& event, std::uint32_t p) const {
    bool taken = false;
    bool keep = false;
    const auto channel = static_cast<std::size_t>(midi::channelOf(event.bytes));
    for (const Listener& listener : plan().listenersTo(channel, event.bytes[1])) {
        const bool own = listener.part == p || listener.part == none;
        if (!own || listener.ear == none || !portFits(listener.port, event.port)) continue;
        taken = true;
        keep = keep || listener.keep;
    }
    return taken ? keep : plan().parts[p].pass.unmatched;
}

void Engine::comeIntoHand(std::uint32_t p, const Sink& sink) {
    hearPedals(p);
    passPedals(p, sink);
}

// Letting go.

/// lane: its own, or the one that it had; channels: those that it used there, a bit each.
void Engine::leaveHand(std::uint32_t p, std::uint32_t lane, std::uint16_t channels, const Sink& sink) {
    const Sender sender{plan().parts[p].name};
    const PortId port = plan().lanes()[lane].port;
    for (std::uint32_t left = channels; left != 0; left &= left - 1)
        letGo(lanes(sink).at(port, static_cast<std::uint8_t>(std::countr_zero(left))), sender, sink);
    endHeldNotes([&](const NoteMemory::Place& place) { return place.instrument == sender.instrument; }, sink);
}

/// Pedals come up, bend is centred and pressure ends.
void Engine::letGo(std::uint32_t lane, const Sender& sender, const Sink& sink) {
    Lanes lanes = this->lanes(sink);
    const std::uint8_t channel = plan().lanes()[lane].channel;
    for (const std::uint8_t pedal : midi::holdingPedals) {
        const Payload last = lanes.sent(lane, pedal);
        if (last != noPayload && last >> 8 > 0) lanes.control(lane, sender, pedal, 0);
    }
    constexpr Payload centre = payload(0, midi::bendCentre >> 7);
    if (Payload& last = lanes.sent(lane, bendSlot); last != noPayload && last != centre) {
        last = centre;
        lanes.put(lane, sender, midi::makeBend(channel, midi::bendCentre));
    }
    if (Payload& last = lanes.sent(lane, pressureSlot); last != noPayload && last != 0) {
        last = 0;
        lanes.put(lane, sender, midi::make(midi::channelPressure, channel, 0));
    }
}

}  // namespace mellow::engine
