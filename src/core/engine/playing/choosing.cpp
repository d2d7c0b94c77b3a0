// Choosing an articulation: what an instrument is sent so that it plays in another way (signal rules, section
// 10).
//
// Only a change sends. A key switch that is held is a note like any other, with a cause of its own, and so
// ends with the next choice, with the hand, or with silence. From a channel on everything that the instrument
// sends leaves there; notes that sound end where they began, which the memory knows.
#include "core/engine/playing/engine.h"

namespace mellow::engine {

void Engine::chooseArticulation(std::uint32_t p, std::uint32_t index, const Sender& sender,
                                const Sink& sink) {
    const Part& part = plan().parts[p];
    PartState& now = state().parts[p];
    if (now.articulation == static_cast<std::int32_t>(index) || index >= part.articulations.size()) return;
    endHeldNotes(
        [&](const NoteMemory::Place& place) {
            return place.instrument == part.name && notes_.inputOf(place).port == switchPort;
        },
        sink);
    for (const PlanSelect& select : part.articulations[index].select) sendSelect(p, select, sender, sink);
    now.articulation = static_cast<std::int32_t>(index);
    state().partLive[p].articulation.store(now.articulation, std::memory_order_relaxed);
}

void Engine::choose(std::uint32_t instrument, std::uint32_t articulation, const Sink& sink) {
    beginEvent(nullptr);
    for (std::uint32_t part = 0; part < plan().parts.size(); ++part) {
        if (plan().parts[part].name == instrument) chooseArticulation(part, articulation, {instrument}, sink);
    }
}

void Engine::sendSelect(std::uint32_t p, const PlanSelect& select, const Sender& sender, const Sink& sink) {
    PartState& now = state().parts[p];
    switch (select.kind) {
        case SelectKind::note:
            return sendSwitch(p, select, sender, sink);
        case SelectKind::cc:
            if (lanes(sink).sent(now.lane, select.number) != payload(select.number, select.value))
                lanes(sink).control(now.lane, sender, select.number, select.value);
            return;
        case SelectKind::program:
            return lanes(sink).program(now.lane, sender, {select.bank, select.value, false});
        case SelectKind::channel:
            for (const std::uint32_t lane : plan().parts[p].lanes) {
                if (plan().lanes()[lane].channel == select.value) now.lane = lane;
            }
            now.channel = select.value;
            now.channelsUsed |= static_cast<std::uint16_t>(1 << select.value);
            return;
    }
}

void Engine::sendSwitch(std::uint32_t p, const PlanSelect& select, const Sender& sender, const Sink& sink) {
    const std::uint32_t lane = state().parts[p].lane;
    const Lane& at = plan().lanes()[lane];
    const bool held = select.cause != none;
    const bool fits = !held || notes_.begin(causeKey(switchPort, select.cause), serial_,
                                            {at.port, at.channel, select.number}, sender.instrument);
    if (!fits) return;
    lanes(sink).put(lane, sender, midi::make(midi::noteOn, at.channel, select.number, select.value));
    if (!held)
        lanes(sink).put(lane, sender,
                        midi::make(midi::noteOff, at.channel, select.number, midi::middleVelocity));
}

}  // namespace mellow::engine
