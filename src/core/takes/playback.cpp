// Lines of OSC go in as numbers, everything else as it came.
#include "core/takes/playback.h"

#include <algorithm>
#include <utility>

namespace mellow {

Playback::Playback(engine::Program& program, const Take& take, engine::Time start, const engine::Names* ports)
    : Playback(engine::Engine(&program), take, start, 0, ports) {}

Playback::Playback(engine::Engine engine, const Take& take, engine::Time start, engine::Time position,
                   const engine::Names* ports)
    : take_(take), start_(start), engine_(std::move(engine)) {
    engine::Names names = ports != nullptr ? *ports : engine_.program().plan.numbering.ports;
    for (const std::string& port : take.ports)
        ports_.push_back(static_cast<engine::PortId>(names.intern(port)));
    cursor_.goOnFrom(take_, position);
}

void Playback::playUntil(engine::Time position, const engine::Sink& sink) {
    cursor_.passUntil(take_, position, start_, engine_, sink, [&](std::size_t place, engine::Time time) {
        const TakeEvent& event = take_.events[place];
        engine_.makeRoom();
        const midi::Bytes body = take_.bodyOf(event);
        if (const auto line = text::oscLineOf(body)) {
            engine_.process({time, ports_[event.port], {}, line->address, line->number}, sink);
        } else {
            engine_.process({time, ports_[event.port], body}, sink);
        }
    });
    engine_.advance(start_ + position, sink);
}

engine::Time Playback::settle(const engine::Sink& sink) {
    constexpr engine::Time longest = 10'000'000;
    const engine::Time from = engine_.now();
    while (engine_.moving() && engine_.now() < from + longest)
        engine_.advance((engine_.now() / engine::gridStep + 1) * engine::gridStep, sink);
    return engine_.now() - start_;
}

}  // namespace mellow
