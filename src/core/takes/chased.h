// Jumping into a take, exactly: an engine that has played it up to a moment takes over from the one that
// plays.
//
// Saying again where the hands stood (chase.h) brings a chain where a hand could bring it; a latch, a
// relative encoder, a smoothing that is under way or a random walk remember more than that. So the take is
// played from its start into a program of its own, without a clock, beginning at the time at which it would
// have had to begin to be now where it is wanted. Then that engine goes on in place of the one that played:
// notes of the old one end, what the new one has said last of everything is said where it differs, and its
// keys that are down are struck. From there on, every byte is what playing from the start would have sent.
#pragma once

#include <memory>
#include <vector>

#include "core/engine/playing/engine.h"
#include "core/midi/standing.h"
#include "core/takes/take.h"

namespace mellow {

struct Chased {
    std::unique_ptr<engine::Program> program;  ///< what `engine` plays; outlives the jump
    engine::Engine engine{nullptr};
    std::vector<Standing::Said> said;  ///< what left last; tags are interned instruments
};

/// Plays a take up to, and without, a position in it, at which the engine's time is to be `at`; at is not
/// below position. before and ports: of the program that plays.
Chased chased(const Ensemble& ensemble, const Take& take, engine::Time position, engine::Time at,
              const engine::Plan* before = nullptr, engine::Names* ports = nullptr);

/// The chased engine takes the place of one that plays, which is in `chased` afterwards, with its program.
/// Allocates nothing. Keys that hands hold down are let go.
void takeOver(engine::Engine& playing, Chased& chased, const engine::Sink& sink);

}  // namespace mellow
