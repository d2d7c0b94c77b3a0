// Playing a take live: its events at their times, while loops go round, hands take things over, and an engine
// that has chased it may take the place of the one that plays.
//
// Playing side alone; PlayingTakes makes what it plays. Who plays a take without a clock is Playback
// (core/takes/playback.h); both go through it with the same TakeCursor.
#pragma once

#include "io/playing/happenings.h"
#include "io/playing/playing_take.h"

namespace mellow::io {

/// What the take's hands play into.
class TakeListener {
 public:
    virtual ~TakeListener() = default;
    virtual void hearTake(engine::PortId port, engine::Time time, midi::Bytes message,
                          const engine::Sink& sink) = 0;
    virtual void hearTake(const OscMessage& message, const engine::Sink& sink) = 0;
};

class TakePlayer {
 public:
    /// playing: the program that the engine plays, which the take may change.
    TakePlayer(engine::Engine& engine, engine::Program*& playing, Programs& programs, PlayingTakes& takes,
               TakeListener& listener)
        : engine_(engine), playing_(playing), programs_(programs), takes_(takes), listener_(listener) {}

    /// A take is to be played: at once, or, with an engine of its own, when that is due.
    void start(PlayingTake* take, const engine::Sink& sink);
    /// The take that plays goes on where it is, with other contents or in another way. What is held stays
    /// held, and what was touched stays touched, as far as the ports are the same.
    void change(PlayingTake* take);
    /// Lifts the hands: what the take holds is let go.
    void stop(const engine::Sink& sink);
    /// Plays what lies up to and including a time.
    void playUntil(engine::Time time, const engine::Sink& sink);
    /// Hands touch something while they play over the take: it is theirs until the take goes round or ends.
    void touch(engine::PortId port, midi::Bytes bytes);
    /// What a take that starts now starts at: the first of the cycle's times; −1: the clock has not said it.
    void cycleBegins(engine::Time first) { first_ = first; }

    [[nodiscard]] bool plays() const { return take_ != nullptr; }
    /// One has been started, and is not due yet.
    [[nodiscard]] bool awaitsOne() const { return arriving_ != nullptr; }
    /// Microseconds into the take at a time of the engine's; −1: none plays.
    [[nodiscard]] std::int64_t positionAt(engine::Time time) const {
        return take_ == nullptr ? -1 : time - take_->start;
    }

 private:
    void begin(PlayingTake* take, const engine::Sink& sink);
    void awaitNoMore();
    void arrive(engine::Time time, const engine::Sink& sink);
    void giveUpOn(PlayingTake* take);
    void end(const engine::Sink& sink);
    void chase(const std::vector<std::uint32_t>& events, const engine::Sink& sink);
    void goRound(const engine::Sink& sink);
    void eventsUntil(engine::Time time, const engine::Sink& sink);
    void event(std::size_t place, engine::Time time, const engine::Sink& sink);
    void liftHands(const engine::Sink& sink);

    engine::Engine& engine_;
    engine::Program*& playing_;
    Programs& programs_;
    PlayingTakes& takes_;
    TakeListener& listener_;
    PlayingTake* take_ = nullptr;
    PlayingTake* arriving_ = nullptr;  ///< takes over when it is time
    engine::Time first_ = -1;
};

}  // namespace mellow::io
