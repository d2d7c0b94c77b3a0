// A tempo holds from its own time on, so it goes before the events of that time.
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
    next_ = take_.placeAt(position);
    const auto tempo = std::partition_point(take_.tempos.begin(), take_.tempos.end(),
                                            [&](const TempoChange& each) { return each.time < position; });
    nextTempo_ = static_cast<std::size_t>(tempo - take_.tempos.begin());
}

void Playback::followTempo(engine::Time position, const engine::Sink& sink) {
    for (; nextTempo_ < take_.tempos.size() && take_.tempos[nextTempo_].time <= position; ++nextTempo_) {
        engine_.advance(start_ + take_.tempos[nextTempo_].time, sink);
        engine_.setTempo(take_.tempos[nextTempo_].tempo);
    }
}

void Playback::playUntil(engine::Time position, const engine::Sink& sink) {
    for (; next_ < take_.events.size() && take_.events[next_].time <= position; ++next_) {
        const TakeEvent& event = take_.events[next_];
        followTempo(event.time, sink);
        engine_.makeRoom();
        const midi::Bytes body = take_.bodyOf(event);
        const engine::Time time = start_ + event.time;
        if (const auto line = text::oscLineOf(body)) {
            engine_.process({time, ports_[event.port], {}, line->address, line->number}, sink);
        } else {
            engine_.process({time, ports_[event.port], body}, sink);
        }
    }
    followTempo(position, sink);
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
