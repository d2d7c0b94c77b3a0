// What a take said before it begins, or where it goes round, is said again, so that its hands stand where
// they stood there.
#include "io/playing/take_player.h"

#include <algorithm>
#include <utility>

namespace mellow::io {

void TakePlayer::start(PlayingTake* take, const engine::Sink& sink) {
    awaitNoMore();
    if (take->chased == nullptr) return begin(take, sink);
    arriving_ = take;
}

void TakePlayer::stop(const engine::Sink& sink) {
    awaitNoMore();
    end(sink);
}

void TakePlayer::awaitNoMore() {
    if (arriving_ == nullptr) return;
    giveUpOn(arriving_);
    takes_.done(std::exchange(arriving_, nullptr));
}

/// What was edited meanwhile is played, and not what it was when the take was chased.
void TakePlayer::giveUpOn(PlayingTake* take) {
    if (take->program != nullptr) programs_.done(std::exchange(take->program, nullptr));
}

/// The engine that has played the take up to here goes on in place of the one that plays.
void TakePlayer::arrive(engine::Time time, const engine::Sink& sink) {
    if (arriving_ == nullptr || arriving_->run.at > time) return;
    PlayingTake* take = std::exchange(arriving_, nullptr);
    if (take->madeFor != playing_->number) {
        giveUpOn(take);
        take->run.at = -1;
        return begin(take, sink);
    }
    eventsUntil(take->run.at - 1, sink);
    engine_.advance(std::max(take->run.at - 1, engine_.now()), sink);
    end(sink);
    takeOver(engine_, *take->chased, sink);
    take->program->feedback.carry(playing_->feedback);
    programs_.done(playing_);
    playing_ = std::exchange(take->program, nullptr);
    take_ = take;
    take_->start = take->run.at - take->run.from;
    take_->goTo(take->run.from);
    // What the engine has heard already is what these hands hold.
    for (const std::uint32_t place : take_->chase) {
        const TakeEvent& event = take_->take->events[place];
        take_->hands.follow(event.port, take_->take->bodyOf(event));
    }
}

void TakePlayer::begin(PlayingTake* take, const engine::Sink& sink) {
    end(sink);
    take_ = take;
    const engine::Time now = first_ >= 0 ? first_ : std::max<engine::Time>(engine_.now(), 0);
    take_->start = (take->run.at >= 0 ? take->run.at : now) - take_->run.from;
    take_->goTo(take_->run.from);
    chase(take_->chase, sink);
}

void TakePlayer::change(PlayingTake* take) {
    if (take_ == nullptr) {
        takes_.done(take);
        return;
    }
    PlayingTake* before = std::exchange(take_, take);
    const bool samePorts = before->ports.size() <= take->ports.size() &&
                           std::equal(before->ports.begin(), before->ports.end(), take->ports.begin());
    if (samePorts) take->hands.goOnFrom(before->hands);
    take->start = before->start;
    take->goTo(std::max<engine::Time>(engine_.now(), 0) + 1 - take->start);
    takes_.done(before);
}

/// What a take said before now is said again.
void TakePlayer::chase(const std::vector<std::uint32_t>& events, const engine::Sink& sink) {
    for (const std::uint32_t place : events) event(place, engine_.now(), sink);
}

void TakePlayer::playUntil(engine::Time time, const engine::Sink& sink) {
    arrive(time, sink);
    while (take_ != nullptr) {
        const TakeRun& run = take_->run;
        const bool goesRound = run.loops() && time - take_->start >= run.loopTo;
        // What stands where it goes round is not played: it is where the next round begins.
        eventsUntil(goesRound ? take_->start + run.loopTo - 1 : time, sink);
        if (goesRound) {
            goRound(sink);
        } else {
            const bool isOver = !run.loops() && take_->cursor.isOver(*take_->take) &&
                                take_->start + take_->take->length <= time;
            if (isOver) end(sink);
            break;
        }
    }
}

void TakePlayer::eventsUntil(engine::Time time, const engine::Sink& sink) {
    if (take_ == nullptr) return;
    take_->cursor.passUntil(*take_->take, time - take_->start, take_->start, engine_, sink,
                            [&](std::size_t place, engine::Time at) { event(place, at, sink); });
}

/// The hands go back to where the loop begins, and stand as they stood there.
void TakePlayer::goRound(const engine::Sink& sink) {
    // Where the loop was moved behind what plays, it goes round now and not many times over.
    const engine::Time at = std::max(take_->start + take_->run.loopTo, engine_.now());
    engine_.advance(at, sink);
    liftHands(sink);
    take_->hands.forgetTouched();
    take_->start = at - take_->run.loopFrom;
    take_->goTo(take_->run.loopFrom);
    chase(take_->chaseInLoop, sink);
}

/// One event of the take, unless hands have taken over what it is about.
void TakePlayer::event(std::size_t place, engine::Time time, const engine::Sink& sink) {
    const Take& take = *take_->take;
    const TakeEvent& event = take.events[place];
    const midi::Bytes body = take.bodyOf(event);
    const engine::PortId port = take_->ports[event.port];
    if (const auto line = text::oscLineOf(body)) {
        engine_.advance(std::max(time, engine_.now()), sink);
        if (const auto number = OscMessage::of(port, line->address, line->number))
            listener_.hearTake(*number, sink);
        return;
    }
    const bool isPlayedOver = take_->run.overdubsAt(positionAt(engine_.now()));
    if (isPlayedOver && take_->hands.isTouched(event.port, body)) return;
    take_->hands.follow(event.port, body);
    listener_.hearTake(port, time, body, sink);
}

void TakePlayer::touch(engine::PortId port, midi::Bytes bytes) {
    if (take_ == nullptr || !take_->run.overdubsAt(positionAt(engine_.now()))) return;
    const auto found = std::find(take_->ports.begin(), take_->ports.end(), port);
    if (found != take_->ports.end())
        take_->hands.touch(static_cast<std::size_t>(found - take_->ports.begin()), bytes);
}

/// The take plays no more, and its hands are lifted.
void TakePlayer::end(const engine::Sink& sink) {
    if (take_ == nullptr) return;
    engine_.setTempo(0);
    liftHands(sink);
    takes_.done(std::exchange(take_, nullptr));
}

void TakePlayer::liftHands(const engine::Sink& sink) {
    take_->hands.lift([&](std::size_t port, const midi::Short& message) {
        listener_.hearTake(take_->ports[port], engine_.now(), message.bytes(), sink);
    });
}

}  // namespace mellow::io
