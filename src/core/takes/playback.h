// A take played into an engine without a clock: as fast as it goes, from its start.
//
// What a player does live while time passes, this does for whoever wants to know what comes of a take: the
// lanes of the page, a bounce, and jumping into the middle. Messages, lines of OSC and tempo changes go in at
// their times, and the engine's clock runs between them.
#pragma once

#include <vector>

#include "core/engine/playing/engine.h"
#include "core/takes/take_cursor.h"

namespace mellow {

class Playback {
 public:
    /// start: the engine's time at which the take is at 0. Ports that the plan does not name get numbers of
    /// `ports`, if given, which must be those that the plan was compiled with.
    Playback(engine::Program& program, const Take& take, engine::Time start = 0,
             const engine::Names* ports = nullptr);

    /// Goes on with an engine that has played a take up to a position, without what lies there.
    Playback(engine::Engine engine, const Take& take, engine::Time start, engine::Time position,
             const engine::Names* ports = nullptr);

    /// Plays everything up to and including a position in the take, in microseconds; never earlier than the
    /// call before.
    void playUntil(engine::Time position, const engine::Sink& sink);
    /// Whether all of its events have been played.
    [[nodiscard]] bool isOver() const { return cursor_.isOver(take_); }
    /// Plays on until nothing moves any more, for ten seconds at most. The position at which that was.
    engine::Time settle(const engine::Sink& sink);
    engine::Engine& engine() { return engine_; }
    [[nodiscard]] const engine::Engine& engine() const { return engine_; }

 private:
    const Take& take_;
    engine::Time start_;
    engine::Engine engine_;
    std::vector<engine::PortId> ports_;  ///< by the take's ports
    TakeCursor cursor_;
};

}  // namespace mellow
