// The player: an engine that plays live, and the seam between the two sides of the program.
//
// On the editing side a session, or a test, hands over ensembles, presses practice keys, starts a take, and
// watches; threads of its own may lend it names and wake its clock, under locks that the playing side never
// takes. On the playing side one thread (JACK's, or the clock's) calls cycle() again and again. Between
// them stand an atomic pointer for the program to play next, a ring of commands one way, and a ring of what
// happened the other way. The playing side takes no lock and allocates nothing.
//
// All editing-side calls belong to one thread; cycle() belongs to one other, and may move to another thread
// only while no clock runs.
#pragma once

#include <array>
#include <atomic>
#include <bitset>
#include <functional>
#include <memory>
#include <mutex>
#include <semaphore>
#include <string>
#include <vector>

#include "core/engine/playing/engine.h"
#include "core/placing/placing.h"
#include "core/takes/chased.h"
#include "core/takes/take_cursor.h"
#include "io/clocks/clock.h"
#include "io/clocks/loop_watch.h"
#include "io/playing/port_filter.h"
#include "io/playing/spsc_ring.h"
#include "io/playing/tap.h"

namespace mellow::io {

inline constexpr std::string_view practiceKeysPort = "practice-keys";
inline constexpr std::string_view practiceRackPort = "practice-rack";
/// An OSC address that begins with this moves an element of the desk: "/desk/ELEMENT", of a pad
/// "/desk/ELEMENT/x".
inline constexpr std::string_view deskAddress = "/desk";
/// What behind it says which element: "/ELEMENT"; nothing where an address does not begin so.
std::optional<std::string_view> elementAddress(std::string_view address);

/// One message that came in or went out.
struct Happening {
    engine::Time time = 0;
    bool out = false;
    engine::PortId port = 0;
    std::uint32_t instrument = 0;  ///< interned; of those that went out; engine::none: it is feedback
    midi::Short message;           ///< of a SysEx only its first byte
    bool played = false;           ///< by a take, not by hands
    bool made = false;             ///< of those that went out: by a chain, and not passed on
};

/// A number that came to an OSC address, or that leaves for one.
/// Of the desk, where port is that of the desk.
struct OscMessage {
    static constexpr std::size_t longest = 119;  ///< letters of an address
    engine::PortId port = 0;
    double number = 0;
    std::array<char, longest + 1> address{};  ///< ends with a 0
};

/// As Happening, by OSC.
struct OscHappening {
    bool out = false;
    std::uint32_t instrument = 0;  ///< interned; of those that went out
    OscMessage message;            ///< of those that went out, in display units
};

/// A message that came in through a port, at its time.
struct Incoming {
    engine::Time time = 0;
    engine::PortId port = 0;
    midi::Bytes bytes;
};

/// How a take is played.
struct TakeRun {
    std::int64_t from = 0;      ///< microseconds from the take's start: where playing begins
    engine::Time at = -1;       ///< the engine's time at which it is there, also one that is past; −1: now
    std::int64_t loopFrom = 0;  ///< played round and round up to loopTo, where that is 20 ms later or more
    std::int64_t loopTo = 0;
    /// What hands touch between these two, when that is later, is not played by the take any more.
    std::int64_t overdubFrom = 0;
    std::int64_t overdubTo = 0;

    static constexpr std::int64_t shortestLoop = 20'000;
    [[nodiscard]] bool loops() const { return loopTo - loopFrom >= shortestLoop; }
    [[nodiscard]] bool overdubsAt(std::int64_t position) const {
        return position >= overdubFrom && position < overdubTo;
    }
};

class Player {
 public:
    /// begins: the engine's time at the start, microseconds. A take can be jumped into exactly as far from
    /// its start as that; −1: not at all.
    explicit Player(engine::Time begins = -1);
    ~Player();
    Player(const Player&) = delete;
    Player& operator=(const Player&) = delete;

    // Editing side.

    /// Compiles an ensemble and has it played from the next cycle on. placements: what targets are put to
    /// then, once.
    void play(const Ensemble& ensemble, const Placements& placements = {});
    /// The number of a port, the same in every program of this player.
    engine::PortId portId(std::string_view name);
    [[nodiscard]] const std::string& portName(engine::PortId id) const { return ports_.name(id); }
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
    /// The name of a port; any thread.
    [[nodiscard]] std::string portNamed(engine::PortId id) const;
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
    /// Has the tap say, in order with what comes in, when it is now: something seen without bytes and
    /// address. number: from 1, given back with it.
    bool mark(int number);
    /// Microseconds into the take, or −1 when none plays.
    [[nodiscard]] std::int64_t takePosition() const { return takePosition_.load(std::memory_order_relaxed); }

    /// Calls see(const Happening&) for everything since the last call, and frees programs played out.
    template<class See>
    void watch(See&& see) {
        collectRetired();
        for (Happening happening; happenings_.pop(happening);) see(happening);
    }
    /// Calls see(const OscHappening&) for everything since the last call.
    template<class See>
    void watchOsc(See&& see) {
        for (OscHappening happening; oscHappenings_.pop(happening);) see(happening);
    }
    /// The program that is being played, or will be once the next cycle has run.
    [[nodiscard]] const engine::Program& shown() const { return *programs_.front(); }
    [[nodiscard]] bool showsNewest() const { return programs_.size() == 1; }
    /// Whether some chain of the newest program listens to OSC.
    [[nodiscard]] bool hearsOsc() const;
    /// Names of the newest program; numbers from happenings stay valid in it.
    [[nodiscard]] const engine::Numbering& names() const { return programs_.back()->plan.numbering; }

    /// Calls see(const LoopWatch::Loop&) for every loop that was cut since the last call.
    template<class See>
    void watchLoops(See&& see) {
        for (LoopWatch::Loop loop; loopsFound_.pop(loop);) see(loop);
    }
    /// The transport as it was in the last cycle: whether it rolls, where it is (−1: there is none), and the
    /// engine's time at which it was, or would have been, at 0. Any thread.
    struct Transport {
        bool rolling = false;
        engine::Time position = -1;
        engine::Time origin = 0;
    };
    [[nodiscard]] Transport transportNow() const {
        return {transportRolls_.load(std::memory_order_relaxed), transportAt_.load(std::memory_order_relaxed),
                transportOrigin_.load(std::memory_order_relaxed)};
    }
    /// The tempo in force, beats a minute; any thread.
    [[nodiscard]] double tempo() const { return tempo_.load(std::memory_order_relaxed); }
    [[nodiscard]] engine::TempoFrom tempoFrom() const { return tempoFrom_.load(std::memory_order_relaxed); }
    /// How many notes were not started since more keys were held than can be remembered.
    [[nodiscard]] std::uint64_t notesRefused() const { return notesRefused_.load(std::memory_order_relaxed); }

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
        return engine_.moving() || take_ != nullptr || arriving_ != nullptr || playing_->feedback.waits();
    }
    [[nodiscard]] engine::Time now() const { return engine_.now(); }

 private:
    /// What a take's hands hold on a channel.
    struct Holding {
        std::array<std::uint8_t, 128> keys{};  ///< how often each is down
        std::array<std::uint8_t, midi::pedals.size()> pedals{};
        bool bent = false;
        bool pressed = false;
    };
    /// What is known of a take's port and channel while it plays.
    struct TakeChannel {
        Holding holding;
        std::bitset<256> touched;  ///< by hands: controls by their numbers, then midi kinds and keys
    };
    /// A take and what playing it needs, made by the editing side.
    struct PlayingTake {
        std::shared_ptr<const Take> take;
        TakeRun run;
        std::vector<engine::PortId> ports;       ///< by the take's ports
        std::vector<TakeChannel> lanes;          ///< sixteen a port
        std::vector<std::uint32_t> chase;        ///< events to be played again at its start
        std::vector<std::uint32_t> chaseInLoop;  ///< and where it goes round
        engine::Time start = 0;                  ///< the engine's time at which it was at 0
        std::unique_ptr<Chased> chased;          ///< an engine that has played it up to where it begins
        engine::Program* program = nullptr;      ///< what that plays
        std::uint64_t madeFor = 0;  ///< the number of the program that has to be playing when it takes over
        TakeCursor cursor;

        void goTo(std::int64_t position) { cursor.goTo(*take, position); }
    };
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
    void shareNames();
    void wake();
    void collectRetired();
    [[nodiscard]] bool isHeard(engine::PortId port, midi::Bytes message) const;
    void obey(const Command& command, const engine::Sink& sink);
    std::unique_ptr<PlayingTake> playable(std::shared_ptr<const Take> take, const TakeRun& run);
    void orderTake(Command::Kind kind, std::unique_ptr<PlayingTake> playing);
    void chaseInto(PlayingTake& take, const Ensemble& played);
    void expect(PlayingTake* take, const engine::Sink& sink);
    void giveUpOn(PlayingTake* take);
    void arrive(engine::Time time, const engine::Sink& sink);
    void beginTake(PlayingTake* take, const engine::Sink& sink);
    void changeTake(PlayingTake* take);
    void chase(const std::vector<std::uint32_t>& events, const engine::Sink& sink);
    void goRound(const engine::Sink& sink);
    void takeUntil(engine::Time time, const engine::Sink& sink);
    void takeEventsUntil(engine::Time time, const engine::Sink& sink);
    void takeEvent(std::size_t place, engine::Time time, const engine::Sink& sink);
    void follow(std::size_t port, midi::Bytes bytes);
    void touch(engine::PortId port, midi::Bytes bytes);
    [[nodiscard]] bool isTouched(std::size_t port, midi::Bytes bytes) const;
    [[nodiscard]] std::int64_t positionNow(engine::Time time) const;
    void letGoOf(engine::PortId port, const engine::Sink& sink);
    void liftHands(const engine::Sink& sink);
    void endTake(const engine::Sink& sink);
    void liftHand(engine::PortId port, int channel, const Holding& holding, const engine::Sink& sink);
    enum class From : std::uint8_t { hands, take };
    void playEvent(engine::PortId port, engine::Time time, midi::Bytes bytes, From from,
                   const engine::Sink& sink);
    void cutLoop(const engine::Sink& sink);
    engine::Feedback& feedback() { return playing_->feedback; }
    void feedBack(const engine::Sink& out);
    void leaveByOsc(const engine::Output& output);
    void playNumber(const OscMessage& message, From from, const engine::Sink& sink);
    void tell(const Happening& happening);

    // Shared.
    std::vector<std::atomic<std::uint32_t>> filters_;  ///< by input port
    std::atomic<engine::Program*> next_{nullptr};
    SpscRing<engine::Program*> retired_{64};
    SpscRing<Command> commands_{4096};
    SpscRing<Happening> happenings_{16384};
    SpscRing<OscHappening> oscHappenings_{1024};
    SpscRing<LoopWatch::Loop> loopsFound_{64};
    SpscRing<OscMessage> oscIn_{1024};
    SpscRing<OscMessage> oscOut_{4096};
    std::counting_semaphore<> oscWaits_{0};  ///< one for each of oscOut_, and for each endOsc()
    SpscRing<PlayingTake*> takesPlayed_{64};
    Tap tap_{std::size_t{1} << 22};  ///< ten seconds of ten thousand messages each
    std::atomic<std::int64_t> takePosition_{-1};
    std::atomic<int> startsWaiting_{0};  ///< takes that are to start, and have not been seen yet
    std::atomic<std::uint64_t> notesRefused_{0};
    std::atomic<bool> transportRolls_{false};
    std::atomic<engine::Time> transportAt_{-1};
    std::atomic<engine::Time> transportOrigin_{0};
    std::atomic<engine::Time> shownNow_{-1};
    std::atomic<double> tempo_{0};
    std::atomic<engine::TempoFrom> tempoFrom_{engine::TempoFrom::document};

    // Editing side.
    std::vector<std::unique_ptr<engine::Program>> programs_;  ///< the first plays, the last is the newest
    std::uint64_t programsMade_ = 0;
    engine::Names ports_;
    mutable std::mutex naming_;           ///< never taken on the playing side
    std::vector<std::string> portNames_;  ///< those of ports_, for any thread
    engine::PortId deskPort_ = 0;
    Placements waitingPlacements_;                     ///< of programs that may not be played yet
    double chaseCost_ = 0.02;                          ///< microseconds that chasing took for one of the take
    std::vector<std::unique_ptr<PlayingTake>> takes_;  ///< one for each start that may still be playing
    std::mutex waking_;                                ///< never taken on the playing side
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
    engine::Time first_ = -1;             ///< of the cycle's times; −1: the clock has not said it
    PlayingTake* take_ = nullptr;
    PlayingTake* arriving_ = nullptr;  ///< takes over when it is time
};

}  // namespace mellow::io
