// Playing the take in hand: where it stands, in which rounds it goes, and whose start and stop it follows.
//
// What is recorded over plays on whatever is looked at meanwhile. Where another file takes the place of the
// one that plays, as after an edit of the take, playing goes on in it where it is.
#pragma once

#include <QObject>
#include <memory>
#include <optional>

#include "app/live/live.h"
#include "app/takes/take_choice.h"

namespace mellow::app {

class TakePlaying : public QObject {
    Q_OBJECT

 public:
    TakePlaying(TakeChoice& choice, Live& live, QObject* parent = nullptr);

    [[nodiscard]] bool isPlaying() const { return playing_ && live_.readings().takePosition() >= 0; }
    /// Where the take stands: where it plays, or would begin to.
    [[nodiscard]] std::int64_t position() const;
    void play();
    void stop();
    void toggle() { isPlaying() ? stop() : play(); }
    void locate(std::int64_t time);
    /// Another document: nothing of the one before plays.
    void forget();

    [[nodiscard]] bool loops() const { return loops_; }
    void setLoops(bool loops);

    /// Whose start, stop and place the take follows: nobody's but the page's, the JACK transport's (which the
    /// page then leads), or a MIDI clock's (start, continue, stop and song position).
    enum class Leader { page, transport, clock };
    void setLeader(Leader leader);
    [[nodiscard]] Leader leader() const { return leader_; }

    // Recording over it.

    /// What is recorded over, from the beginning on: another take may be looked at meanwhile.
    struct Over {
        std::string id;
        QString name;
        std::shared_ptr<const Take> take;
        TimeSpan span;  ///< that was chosen of it last
    };
    /// Whether one records over the selected span alone.
    [[nodiscard]] bool punches() const { return punches_; }
    void setPunches(bool punches);
    [[nodiscard]] const std::optional<Over>& over() const { return over_; }
    /// It plays from now on, until endOver(), with room for what is recorded.
    void beginOver(Over over);
    /// Stops where it is, and is recorded over still.
    void halt();
    void endOver();
    /// Rounds and what is recorded over, in times of the take that plays.
    [[nodiscard]] io::TakeRun run() const { return runFrom(0); }
    /// What was recorded in the rounds before is laid under what plays.
    void layUnder(std::shared_ptr<const Take> made);

 signals:
    /// It stands elsewhere; while it plays at the pace of pictures.
    void moved();
    /// Playing, recording, looping, or how, is other than before.
    void runChanged();
    /// A person stops what is recorded over, or it has come to its end.
    void overStopped();
    /// It has begun its next round while it is recorded over.
    void wentRound();

 private:
    void follow(bool isAnother);
    void followSpan();
    void look();
    void followTransport();
    void hear(const io::Happening& happening);
    void begin(const io::TakeRun& run);
    void tellRun();
    [[nodiscard]] io::TakeRun runFrom(std::int64_t from) const;
    [[nodiscard]] bool showsOther() const { return over_ && choice_.shown().id != over_->id; }
    [[nodiscard]] const std::shared_ptr<const Take>& played() const;
    [[nodiscard]] const TimeSpan& spanInForce() const;

    TakeChoice& choice_;
    Live& live_;
    std::int64_t cursor_ = 0;
    bool playing_ = false;
    std::int64_t lastPosition_ = 0;  ///< at the picture before
    bool loops_ = false;
    bool punches_ = false;
    Leader leader_ = Leader::page;
    std::int64_t songPosition_ = 0;  ///< of the clock, microseconds of the take
    std::optional<Over> over_;
};

}  // namespace mellow::app
