// The player: an engine that plays live, and the seam between the two sides of the program.
//
// On the editing side a session, or a test, hands over ensembles, presses practice keys, starts a take, and
// watches; threads of its own may lend it names and wake its clock, under locks that the playing side never
// takes. On the playing side one thread (JACK's, or the clock's) calls cycle() again and again. Between
// them stand the programs (programs.h), a ring of commands one way, and a ring of what happened the other
// way. The playing side takes no lock and allocates nothing.
//
// All editing-side calls belong to one thread; cycle() belongs to one other, and may move to another thread
// only while no clock runs.
#pragma once

#include <atomic>
#include <functional>
#include <memory>
#include <mutex>
#include <semaphore>
#include <vector>

#include "core/engine/playing/engine.h"
#include "io/clocks/loop_watch.h"
#include "io/playing/happenings.h"
#include "io/playing/player_now.h"
#include "io/playing/playing_take.h"
#include "io/playing/port_filter.h"
#include "io/playing/programs.h"
#include "io/playing/spsc_ring.h"
#include "io/playing/take_player.h"
#include "io/playing/tap.h"

namespace mellow::io {

class Player : private TakeListener {
 public:
    /// begins: the engine's time at the start, microseconds. A take can be jumped into exactly as far from
    /// its start as that; −1: not at all.
    explicit Player(engine::Time begins = -1);
    ~Player() override;
    Player(const Player&) = delete;
    Player& operator=(const Player&) = delete;

    // Editing side.

    /// Compiles an ensemble and has it played from the next cycle on. placements: what targets are put to
    /// then, once.
    void play(const Ensemble& ensemble, const Placements& placements = {});
    [[nodiscard]] const Programs& programs() const { return programs_; }
    [[nodiscard]] PortNumbers& ports() { return programs_.ports(); }
    [[nodiscard]] const PortNumbers& ports() const { return programs_.ports(); }
    /// What its playing side says of itself; any thread.
    [[nodiscard]] const PlayerNow& now() const { return now_; }

    /// Plays a message as if it came in through a port. False when the queue is full.
    bool send(engine::PortId port, const midi::Short& message);
    /// A number came to an OSC address; called by one thread, which need not be the editing side's. False
    /// when the queue is full or the address too long.
    bool receiveOsc(engine::PortId port, std::string_view address, double number);
    /// Waits until something is to be sent by OSC or endOsc() was called, and takes it; called by one thread.
    /// False when there was nothing, as after endOsc().
    bool awaitOsc(OscMessage& message) {
        oscWaits_.acquire();
        return oscOut_.pop(message);
    }
    /// Wakes who waits for OSC.
    void endOsc() { oscWaits_.release(); }
    /// What of an input port is heard from now on. What was held there is let go where less is.
    void setFilter(engine::PortId port, const PortFilter& filter);
    /// Moves an element of the desk, by its address ("/ID", of a pad "/ID/x"), to a position. False when the
    /// queue is full or the address too long.
    bool moveDesk(std::string_view address, double position);
    /// Has an instrument, by its number, play one of its articulations, by place.
    void choose(std::uint32_t instrument, std::uint32_t articulation);
    void silenceAll();
    /// Has the next cycle run soon, whatever the clock.
    void nudge() { wake(); }
    /// Lets go of what is held on an input port, since whoever played there is gone.
    void letGo(engine::PortId port);
    /// Plays a take as if its messages came in through its ports. Where it does not begin at the take's
    /// start, and where it goes round, the hands begin where they stood (takes/chase.h).
    /// played: the ensemble that is played; with it what remembers more than its control (a latch, a
    /// smoothing) stands, too, where playing from the start would have brought it (takes/chased.h), unless it
    /// is edited meanwhile.
    void startTake(std::shared_ptr<const Take> take, const TakeRun& run = {},
                   const Ensemble* played = nullptr);
    /// The take that plays goes on where it is, with other contents or in another way.
    void changeTake(std::shared_ptr<const Take> take, const TakeRun& run);
    /// Lifts the hands: what the take holds is let go.
    void stopTake();
    /// Microseconds into the take, or −1 when none plays.
    [[nodiscard]] std::int64_t takePosition() const { return takePosition_.load(std::memory_order_relaxed); }
    /// Has the tap say, in order with what comes in, when it is now: something seen without bytes and
    /// address. number: from 1, given back with it.
    bool mark(int number);

    /// Calls see(const Happening&) for everything since the last call, and frees what is played out.
    template<class See>
    void watch(See&& see) {
        programs_.collect();
        takes_.collect();
        for (Happening happening; happenings_.pop(happening);) see(happening);
    }
    /// Calls see(const OscHappening&) for everything since the last call.
    template<class See>
    void watchOsc(See&& see) {
        for (OscHappening happening; oscHappenings_.pop(happening);) see(happening);
    }
    /// Calls see(const LoopWatch::Loop&) for every loop that was cut since the last call.
    template<class See>
    void watchLoops(See&& see) {
        for (LoopWatch::Loop loop; loopsFound_.pop(loop);) see(loop);
    }
    /// Called on the editing side after each command, so that a clock that sleeps wakes up.
    void onWork(std::function<void()> wake) {
        const std::lock_guard lock(waking_);
        wake_ = std::move(wake);
    }
    /// Everything that comes in, from ports, practice keys, OSC and takes; one thread drains it.
    Tap& tap() { return tap_; }

    // Playing side.

    /// Plays everything up to and including `until`: commands at once, incoming messages and the take at
    /// their times. out: where messages that leave go, but those by OSC.
    void cycle(std::span<const Incoming> incoming, engine::Time until, const engine::Sink& out);
    /// What the transport says at the beginning of the next cycle.
    void transport(const TransportNow& now);
    /// Something was connected to an output port; the next cycle deals with it. again: not for the first
    /// time.
    void portConnected(engine::PortId port, engine::Engine::Again again) {
        if (connected_.size() < connected_.capacity()) connected_.push_back({port, again});
    }
    /// Whoever played into an input port is gone; the next cycle lets go of what was held there.
    void portLeft(engine::PortId port) {
        if (left_.size() < left_.capacity()) left_.push_back(port);
    }
    /// True while the next cycle would do something without a command.
    [[nodiscard]] bool busy() const {
        return engine_.moving() || take_.plays() || take_.awaitsOne() || playing_->feedback.waits();
    }
    [[nodiscard]] engine::Time time() const { return engine_.now(); }

 private:
    struct Command {
        enum class Kind {
            message,
            move,
            choose,
            silence,
            letGo,
            start,
            change,
            stop,
            mark
        } kind = Kind::message;
        engine::PortId port = 0;
        midi::Short message = {};
        PlayingTake* take = nullptr;
        OscMessage move = {};
        std::uint32_t instrument = 0;  ///< of `choose`, by its number
        std::uint32_t articulation = 0;
    };

    bool order(const Command& command);
    bool orderTake(Command::Kind kind, PlayingTake* take);
    void wake();
    [[nodiscard]] bool isHeard(engine::PortId port, midi::Bytes message) const;
    void obey(const Command& command, const engine::Sink& sink);
    void letGoOf(engine::PortId port, const engine::Sink& sink);
    enum class From : std::uint8_t { hands, take };
    void playEvent(engine::PortId port, engine::Time time, midi::Bytes bytes, From from,
                   const engine::Sink& sink);
    void playNumber(const OscMessage& message, From from, const engine::Sink& sink);
    void hearTake(engine::PortId port, engine::Time time, midi::Bytes message,
                  const engine::Sink& sink) override {
        playEvent(port, time, message, From::take, sink);
    }
    void hearTake(const OscMessage& message, const engine::Sink& sink) override {
        playNumber(message, From::take, sink);
    }
    void takeWhatChanged(const engine::Sink& sink);
    void playIncoming(std::span<const Incoming> incoming, const engine::Sink& sink);
    void cutLoop(const engine::Sink& sink);
    engine::Feedback& feedback() { return playing_->feedback; }
    void feedBack(const engine::Sink& out);
    void leaveByOsc(const engine::Output& output);
    void showNow(engine::Time until);

    // Shared.
    std::vector<std::atomic<std::uint32_t>> filters_;  ///< by input port
    SpscRing<Command> commands_{4096};
    SpscRing<Happening> happenings_{16384};
    SpscRing<OscHappening> oscHappenings_{1024};
    SpscRing<LoopWatch::Loop> loopsFound_{64};
    SpscRing<OscMessage> oscIn_{1024};
    SpscRing<OscMessage> oscOut_{4096};
    std::counting_semaphore<> oscWaits_{0};  ///< one for each of oscOut_, and for each endOsc()
    Tap tap_{std::size_t{1} << 22};          ///< ten seconds of ten thousand messages each
    std::atomic<std::int64_t> takePosition_{-1};
    std::atomic<int> startsWaiting_{0};  ///< takes that are to start, and have not been seen yet
    PlayerNow now_;
    Programs programs_;
    PlayingTakes takes_{programs_, now_};

    // Editing side.
    engine::PortId deskPort_ = 0;
    std::mutex waking_;  ///< never taken on the playing side
    std::function<void()> wake_;

    // Playing side.
    struct Connected {
        engine::PortId port = 0;
        engine::Engine::Again again = engine::Engine::Again::no;
    };
    std::vector<Connected> connected_;  ///< since the last cycle
    std::vector<engine::PortId> left_;
    LoopWatch loops_;
    engine::Engine engine_;
    engine::Program* playing_ = nullptr;  ///< what the engine plays
    bool rolling_ = false;                ///< the transport
    TakePlayer take_{engine_, playing_, programs_, takes_, *this};
};

}  // namespace mellow::io
