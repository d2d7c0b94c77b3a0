// A take that plays, and all that playing it needs: made on the editing side, so that playing allocates
// nothing, and freed there when it comes back.
#pragma once

#include <memory>
#include <vector>

#include "core/takes/chased.h"
#include "core/takes/take_cursor.h"
#include "io/playing/player_now.h"
#include "io/playing/programs.h"
#include "io/playing/take_hands.h"
#include "io/playing/take_run.h"

namespace mellow::io {

struct PlayingTake {
    std::shared_ptr<const Take> take;
    TakeRun run;
    std::vector<engine::PortId> ports;       ///< by the take's ports
    std::vector<std::uint32_t> chase;        ///< events to be played again at its start
    std::vector<std::uint32_t> chaseInLoop;  ///< and where it goes round
    engine::Time start = 0;                  ///< the engine's time at which it was at 0
    std::unique_ptr<Chased> chased;          ///< an engine that has played it up to where it begins
    engine::Program* program = nullptr;      ///< what that plays
    std::uint64_t madeFor = 0;  ///< the number of the program that has to be playing when it takes over
    TakeHands hands;
    TakeCursor cursor;

    void goTo(std::int64_t position) { cursor.goTo(*take, position); }
};

/// The editing side's takes: one for each that may still be playing.
class PlayingTakes {
 public:
    PlayingTakes(Programs& programs, const PlayerNow& now) : programs_(programs), now_(now) {}

    PlayingTake* make(std::shared_ptr<const Take> take, const TakeRun& run);
    /// Has an engine of its own play it up to a moment just ahead, in an ensemble; wake: has the clock run.
    /// Nothing, where the moment would lie before the engine's time began.
    template<class Wake>
    void chase(PlayingTake& take, const Ensemble& played, Wake&& wake) {
        const engine::Time before = now_.time();
        wake();
        awaitClockAfter(before);
        chase(take, played);
    }
    /// The newest was not taken by the playing side.
    void dropNewest();
    /// Frees what is played out.
    void collect();

    // Playing side.
    void done(PlayingTake* take) { played_.push(take); }

 private:
    void awaitClockAfter(engine::Time before) const;
    void chase(PlayingTake& take, const Ensemble& played);

    Programs& programs_;
    const PlayerNow& now_;
    double chaseCost_ = 0.02;  ///< microseconds that chasing took for one of the take
    std::vector<std::unique_ptr<PlayingTake>> takes_;
    SpscRing<PlayingTake*> played_{64};
};

}  // namespace mellow::io
