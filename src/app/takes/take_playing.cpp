#include "app/takes/take_playing.h"

#include <algorithm>
#include <utility>

namespace mellow::app {

TakePlaying::TakePlaying(TakeChoice& choice, Live& live, QObject* parent)
    : QObject(parent), choice_(choice), live_(live) {
    connect(&choice_, &TakeChoice::followed, this, &TakePlaying::follow);
    connect(&choice_, &TakeChoice::spanChanged, this, &TakePlaying::followSpan);
    connect(&live_, &Live::moved, this, &TakePlaying::look);
    connect(&live_, &Live::takeEnded, this, &TakePlaying::look);
    connect(&live_, &Live::transportMoved, this, &TakePlaying::followTransport);
    connect(&live_, &Live::cameIn, this, &TakePlaying::hear);
}

void TakePlaying::follow(bool isAnother) {
    if (isAnother) {
        if (isPlaying() && !over_) stop();
        cursor_ = 0;
    } else if (!showsOther() && isPlaying()) {
        live_.changeTake(choice_.stored(), runFrom(position()));
    }
}

void TakePlaying::followSpan() {
    if (over_ && !showsOther()) over_->span = choice_.span();
    if (isPlaying() && (loops_ || over_)) live_.changeTake(played(), runFrom(position()));
}

void TakePlaying::forget() {
    stop();
    cursor_ = 0;
}

/// The take that plays: what is recorded over plays on whatever is looked at.
const std::shared_ptr<const Take>& TakePlaying::played() const {
    return showsOther() && over_->take != nullptr ? over_->take : choice_.stored();
}

const TimeSpan& TakePlaying::spanInForce() const {
    return showsOther() ? over_->span : choice_.span();
}

std::int64_t TakePlaying::position() const {
    if (choice_.isLive() && !over_) return live_.recorder().progress().first;
    return isPlaying() ? live_.readings().takePosition() : cursor_;
}

/// Loops and punches are over the selected span, or all of the take where nothing is selected.
io::TakeRun TakePlaying::runFrom(std::int64_t from) const {
    io::TakeRun run;
    run.from = from;
    const TimeSpan all{0, played()->length};
    const TimeSpan& chosen = spanInForce();
    if (loops_) {
        const TimeSpan& span = chosen.empty() ? all : chosen;
        run.loopFrom = span.from;
        run.loopTo = span.to;
        if (run.from >= run.loopTo) run.from = run.loopFrom;
    }
    if (over_) {
        const TimeSpan& span = punches_ && !chosen.empty() ? chosen : all;
        run.overdubFrom = span.from;
        run.overdubTo = run.loops() ? std::min(span.to, run.loopTo) : span.to;
    }
    return run;
}

void TakePlaying::play() {
    const Take& take = *choice_.stored();
    if (take.events.empty() && take.length == 0) return;
    if (cursor_ >= take.length) cursor_ = 0;
    if (leader_ == Leader::transport &&
        live_.leadTransport(io::JackClient::Lead::locate, choice_.shown().startUs + cursor_)) {
        live_.leadTransport(io::JackClient::Lead::start);
        return;
    }
    begin(runFrom(cursor_));
}

void TakePlaying::begin(const io::TakeRun& run) {
    playing_ = true;
    live_.startTake(choice_.stored(), run);
    emit runChanged();
}

void TakePlaying::stop() {
    if (!playing_) return;
    if (over_) return emit overStopped();
    if (leader_ == Leader::transport) live_.leadTransport(io::JackClient::Lead::stop);
    halt();
    emit runChanged();
    emit moved();
}

void TakePlaying::halt() {
    cursor_ = position();
    playing_ = false;
    live_.stopTake();
}

void TakePlaying::locate(std::int64_t time) {
    cursor_ = std::clamp<std::int64_t>(time, 0, choice_.stored()->length);
    const bool led = leader_ == Leader::transport &&
                     live_.leadTransport(io::JackClient::Lead::locate, choice_.shown().startUs + cursor_);
    if (isPlaying() && !led) live_.startTake(choice_.stored(), runFrom(cursor_));
    emit moved();
}

void TakePlaying::setLeader(Leader leader) {
    if (std::exchange(leader_, leader) == leader) return;
    stop();
    followTransport();
    emit runChanged();
}

/// What passed while this was noticed is played at once, and all else at its very frame.
void TakePlaying::followTransport() {
    if (leader_ != Leader::transport) return;
    const io::Transport now = live_.readings().transport();
    if (now.position < 0) return;
    const std::int64_t startUs = choice_.shown().startUs;
    const std::int64_t at = now.position - startUs;
    if (!now.rolling) {
        if (playing_) {
            playing_ = false;
            live_.stopTake();
            emit runChanged();
        }
        cursor_ = std::clamp<std::int64_t>(at, 0, choice_.stored()->length);
        emit moved();
        return;
    }
    if (at > choice_.stored()->length || choice_.kept() == nullptr) return;
    io::TakeRun run = runFrom(std::max<std::int64_t>(at, 0));
    run.loopFrom = run.loopTo = 0;
    run.at = now.origin + startUs + run.from;
    begin(run);
}

/// Start, continue, stop and song position (MIDI 1.0, "System real time" and "Song position pointer").
void TakePlaying::hear(const io::Happening& happening) {
    if (leader_ != Leader::clock || happening.played || happening.message.size == 0) return;
    const auto& data = happening.message.data;
    constexpr std::uint8_t songPosition = 0xF2;
    constexpr std::uint8_t clockStop = 0xFC;
    constexpr double sixteenthsAQuarter = 4;
    const std::int64_t length = choice_.stored()->length;
    io::TakeRun run;
    switch (data[0]) {
        case songPosition:
            songPosition_ = timeOfQuarters(*choice_.stored(), (data[1] + 128 * data[2]) / sixteenthsAQuarter);
            cursor_ = std::clamp<std::int64_t>(songPosition_, 0, length);
            emit moved();
            return;
        case midi::clockStart:
            songPosition_ = 0;
            [[fallthrough]];
        case midi::clockContinue:
            if (choice_.kept() == nullptr) return;
            run = runFrom(std::min(songPosition_, length));
            run.at = happening.time;
            return begin(run);
        case clockStop:
            if (!playing_) return;
            songPosition_ = position();
            return stop();
        default:
            return;
    }
}

void TakePlaying::setLoops(bool loops) {
    if (std::exchange(loops_, loops) != loops) tellRun();
}

void TakePlaying::setPunches(bool punches) {
    if (std::exchange(punches_, punches) != punches) tellRun();
}

void TakePlaying::tellRun() {
    if (isPlaying()) live_.changeTake(played(), runFrom(position()));
    emit runChanged();
}

void TakePlaying::beginOver(Over over) {
    over_ = std::move(over);
    isPlaying() ? tellRun() : play();
}

void TakePlaying::endOver() {
    over_.reset();
}

void TakePlaying::layUnder(std::shared_ptr<const Take> made) {
    live_.changeTake(std::move(made), runFrom(position()));
}

/// At the pace of pictures.
void TakePlaying::look() {
    if (playing_ && live_.readings().takePosition() < 0) {
        playing_ = false;
        cursor_ = played()->length;
        if (over_) emit overStopped();
        emit runChanged();
    }
    const std::int64_t now = position();
    if (over_ && isPlaying() && now < lastPosition_) emit wentRound();
    lastPosition_ = now;
    if (playing_) emit moved();
}

}  // namespace mellow::app
