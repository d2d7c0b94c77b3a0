// The way through a take: which of its events and tempo changes come next.
//
// Whoever plays a take goes this way: the player live, while hands may take events over and loops go round,
// and Playback as fast as it goes, for lanes, bounces and jumps. A tempo holds from its own time on, so it
// goes before the events of that time.
#pragma once

#include <algorithm>
#include <cstddef>

#include "core/engine/playing/engine.h"
#include "core/takes/take.h"

namespace mellow {

class TakeCursor {
 public:
    /// Whether all events have been passed.
    [[nodiscard]] bool isOver(const Take& take) const { return event_ == take.events.size(); }

    /// Stands before what lies at a position, in microseconds from the take's start; the tempo that holds
    /// there is said again.
    void goTo(const Take& take, std::int64_t position) {
        event_ = take.placeAt(position);
        tempo_ = placeOf(take, [position](const TempoChange& each) { return each.time <= position; });
        if (tempo_ > 0) --tempo_;
    }
    /// The same for an engine that has heard all tempo changes before the position.
    void goOnFrom(const Take& take, std::int64_t position) {
        event_ = take.placeAt(position);
        tempo_ = placeOf(take, [position](const TempoChange& each) { return each.time < position; });
    }

    /// Passes all up to and including a position. start: the engine's time at which the take is at 0.
    /// play(place, time): plays one of the take's events at a time of the engine's.
    template<class Play>
    void passUntil(const Take& take, std::int64_t position, engine::Time start, engine::Engine& engine,
                   const engine::Sink& sink, Play&& play) {
        while (true) {
            const bool isEvent = !isOver(take) && take.events[event_].time <= position;
            const std::int64_t until = isEvent ? take.events[event_].time : position;
            for (; tempo_ < take.tempos.size() && take.tempos[tempo_].time <= until; ++tempo_) {
                engine.advance(start + take.tempos[tempo_].time, sink);
                engine.setTempo(take.tempos[tempo_].tempo);
            }
            if (!isEvent) return;
            const std::size_t place = event_++;
            play(place, start + take.events[place].time);
        }
    }

 private:
    template<class Before>
    static std::size_t placeOf(const Take& take, Before&& isBefore) {
        const auto found = std::partition_point(take.tempos.begin(), take.tempos.end(), isBefore);
        return static_cast<std::size_t>(found - take.tempos.begin());
    }

    std::size_t event_ = 0;
    std::size_t tempo_ = 0;
};

}  // namespace mellow
