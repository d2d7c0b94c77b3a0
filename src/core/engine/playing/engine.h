// The engine: plays a plan.
//
// It is given messages one by one, in order of time, and a clock to follow; it hands every message that
// results to a Sink at once, in the order in which the signal rules (sections 3 to 7) say they are sent. Live
// playing, files and the command line all use it, which is why they agree to the byte.
//
// Most messages only have to be looked up, and go straight from the list of those that want them to the sink
// (playPlainly). Every other event takes three steps. It is heard: each ear that it fits notes where its
// source stands now, and its chain is marked. It is walked: marked chains run in their order, which may mark
// others through tie lines, and each instrument passes on what it passes. And where some parameter is mixed,
// what is to be sent waits until the end, when it is known which of its branches was the last.
//
// A message's way: engine.cpp hears it and speaking.cpp gives its value to those that listen, or
// looking_up.cpp does all of it at once; walking.cpp decides who has a turn, running.cpp takes chains through
// their steps, sending.cpp sends what comes of them and passing.cpp what passes, both by way of Lanes, which
// know what was sent. choosing.cpp tells instruments which articulation to play, handing.cpp who plays at
// all. adopting.cpp changes the plan under what is playing.
//
// process(), advance() and adopt() take no lock, allocate nothing, throw nothing and call nothing of the
// system. All memory comes with the Engine or the Program. A Program is never freed here: adopt() hands the
// old one back.
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

#include "core/engine/playing/hands.h"
#include "core/engine/playing/lanes.h"
#include "core/engine/playing/midi_clock.h"
#include "core/engine/playing/note_memory.h"
#include "core/engine/playing/zones.h"
#include "core/engine/program/state.h"
#include "core/midi/message.h"

namespace mellow::engine {

/// The grid on which timed steps and generators move.
inline constexpr Time gridStep = 1000;

/// A message of MIDI or of OSC.
struct Event {
    Time time = 0;  ///< never below that of the event before
    PortId port = everyPort;
    midi::Bytes bytes;              ///< one whole message
    std::string_view address = {};  ///< of OSC; empty: it is MIDI
    double number = 0;              ///< of OSC
};

/// What a chain is taken through: when, whether the clock moves it, and what happened at the instrument.
struct Moment {
    Time time = 0;
    bool tick = false;
    Cue cue = Cue::none;
};

/// Where the tempo in force comes from: what the ensemble says, a file that plays, or what is followed.
enum class TempoFrom : std::uint8_t { document, file, followed };

class Engine {
 public:
    /// program: not owned.
    explicit Engine(Program* program);

    /// Plays the given program from now on and returns the one played so far. What ears and steps remember,
    /// what was sent, and held notes carry over. A chain that was edited while something had moved it runs
    /// once, so that an edit is heard without touching the control again; an instrument that leaves the hand,
    /// goes, or plays elsewhere lets go of pedals, bend and pressure, and one that comes into hand, is new or
    /// plays elsewhere gets the pedals that are down.
    Program* adopt(Program* next, const Sink& sink);

    /// Runs the clock up to and including `until`.
    void advance(Time until, const Sink& sink) {
        if (until <= now_) return;
        if (moving()) runClock(until, sink);
        now_ = until;
    }

    /// Runs the clock up to the event, then the event.
    void process(const Event& event, const Sink& sink);

    /// Ends everything: a note-off for each remembered note, then CC 64 = 0, 123 and 120 on every channel
    /// used; forgets what was sent.
    void silenceAll(const Sink& sink);

    enum class Again : bool { no, yes };
    /// Something listens at an output port that did not before: what was sent there is forgotten, and each
    /// instrument there tells what it wishes to. again: it did before, and may have missed the ends of notes.
    void portConnected(PortId port, Again again, const Sink& sink);
    /// Sends what the program says that targets are put to, whatever moves them; a value that its chain has
    /// sent last is not sent again.
    void place(const Sink& sink);
    /// Has an instrument, by its number, play one of its articulations, by place, as if a chain chose it.
    void choose(std::uint32_t instrument, std::uint32_t articulation, const Sink& sink);
    /// Whether a key is down on an input port, or still sounds something.
    [[nodiscard]] bool holds(PortId port, std::uint8_t channel, std::uint8_t key) const;
    /// The value of one of midi::holdingPedals, by its place there.
    [[nodiscard]] int pedal(PortId port, std::uint8_t channel, std::size_t place) const {
        return hands_.pedal(port, channel, place);
    }

    /// From now on a file that is played says how fast, in beats a minute; 0: none is any more, and the tempo
    /// is again what the ensemble follows (signal rules, section 9).
    void setTempo(double tempo);
    /// What the transport says, for an ensemble that follows it: its tempo (0: it has none), and that it
    /// starts.
    void followTransport(double bpm, bool starts);
    /// The tempo in force, in beats a minute.
    [[nodiscard]] double tempo() const { return tempo_; }
    [[nodiscard]] TempoFrom tempoFrom() const {
        return fileTempo_ > 0 ? TempoFrom::file : clockTempo_ > 0 ? TempoFrom::followed : TempoFrom::document;
    }
    /// Makes room for the notes of one more event; allocates, so it is for whoever plays files.
    void makeRoom() { notes_.makeRoom(plan().parts.size() + plan().branches.size() + 1); }

    /// True while the clock alone would still change something.
    [[nodiscard]] bool moving() const {
        return movingChains_ > 0 || movingGenerators_ > 0 || pairs_.waiting();
    }
    [[nodiscard]] Time now() const { return now_; }
    [[nodiscard]] const Program& program() const { return *program_; }
    [[nodiscard]] const NoteMemory& notes() const { return notes_; }

 private:
    using Part = PlanInstrument;

    const Plan& plan() const { return program_->plan; }
    State& state() { return program_->state; }
    /// Where an instrument plays now.
    const Lane& laneOf(std::uint32_t part) const { return plan().lanes()[program_->state.parts[part].lane]; }
    [[nodiscard]] bool isInHand(std::uint32_t part) const { return program_->state.parts[part].inHand; }
    /// True of a chain that moves only in hand, while its instrument is not.
    [[nodiscard]] bool isAsleep(const PlanChain& chain) const {
        return engine::isAsleep(chain, program_->state);
    }
    /// What leaves now.
    Lanes lanes(const Sink& sink) { return {*program_, now_, sink}; }

    // Messages that are only looked up: looking_up.cpp.
    struct Matched {
        bool any = false;
        bool keep = false;
    };
    void playPlainly(const Event& event, std::size_t key, int raw, const Sink& sink);
    void playGuarded(const Event& event, std::size_t key, int raw, const Sink& sink);
    Matched runListeners(std::span<const Listener>& listeners, PortId port, int raw, const Sink& sink);
    Matched runReached(std::span<const Listener>& listeners, const Event& event, int raw, const Sink& sink);
    template<class Run, class Reaches>
    void walkLists(const Event& event, std::size_t key, Run&& run, Reaches&& reaches, const Sink& sink);
    void lookUp(std::uint32_t chain, int raw, const Sink& sink);
    void noteRaw(std::uint32_t chain, int raw);
    void lookUpHere(std::uint32_t chain, int raw, const Sink& sink);
    void takeAlone(std::uint32_t chain, int raw, const Sink& sink);
    void sendTabulated(const PlanChain& chain, std::uint32_t index, int raw, const Sink& sink);

    // Hearing: engine.cpp and speaking.cpp; walking and the clock: walking.cpp.
    void runClock(Time until, const Sink& sink);
    void gridPoint(const Sink& sink);
    void channelMessage(const Event& event, const Sink& sink);
    void oscMessage(const Event& event, const Sink& sink);
    void hearOsc(const Event& event, std::uint32_t ear);
    void deskMove(const Event& event, const Sink& sink);
    void systemMessage(const Event& event, const Sink& sink);
    void followControl(const Event& event, const Sink& sink);
    void readPair(const midi::PairAddress& address, bool high, int value);
    void enterData(const Event& event, const Sink& sink);
    [[nodiscard]] bool someoneHears(const midi::PairAddress& address);
    [[nodiscard]] bool keyIsDown(const Ear& ear, std::size_t key);
    void followClock(const Event& event);
    void startCycles();
    void changeTempo();
    void hearDue(const midi::PairReading& reading);
    void hear(const Event& event, std::size_t key);
    void hearFor(const Listener& listener, const Event& event, std::size_t key);
    void hearCue(const Listener& listener);
    [[nodiscard]] bool isOfLayer(const Part& part, const Event& event, std::size_t key) const;
    enum class Fit : std::uint8_t { no, heard, taken };
    Fit hearWith(std::uint32_t ear, const Event& event, int key);
    Fit hearPair(std::uint32_t ear, midi::PairKind kind, int number);
    void speakRaw(std::uint32_t ear, int raw, PortId port, std::size_t channel);
    void hearPlace(std::uint32_t ear, double place, PortId port, std::size_t channel);
    void standAt(std::uint32_t ear, double position);
    void speak(std::uint32_t ear, double position);
    std::span<HandState> handsOf(std::uint32_t ear);
    void hearKey(const Listener& listener, const Event& event, std::size_t key);
    void noteOnForGenerator(std::uint32_t ear, bool pressed);
    void noteOffForGenerator(std::uint32_t ear, bool lifted);
    void refreshGenerator(std::uint32_t ear);
    void mark(std::uint32_t chain);
    void beginEvent(const Event* event);
    void walk(const Event& event, const Sink& sink);
    void walkRest(const Sink& sink);
    void runPending(std::uint32_t end, const Sink& sink);
    void finish(std::uint32_t part, const Sink& sink);
    void finishNow(std::uint32_t part, bool inHand, const Sink& sink);

    // Zones: fingers.cpp.
    [[nodiscard]] bool comesTo(const Part& part, PortId port, std::size_t channel) const;
    [[nodiscard]] std::uint32_t passingLane(std::uint32_t part, PortId port, std::size_t channel);
    void followZones(const Event& event, std::size_t channel, int number, const Sink& sink);
    void letFingersGo(PortId port, const Zones::Beginning& beginning, const Sink& sink);
    void endKeysOf(PortId port, std::uint16_t channels, const Sink& sink);
    [[nodiscard]] bool isHeldBack(std::uint32_t place, PortId port, std::uint16_t channels) const;
    void chooseFingers();
    [[nodiscard]] const Zones::Note* newestOf(const Part& part) const;
    [[nodiscard]] bool mayPass(const Event& event, std::uint32_t part);
    [[nodiscard]] bool passesFinger(const Event& event, std::uint32_t part) const;
    void tellFinger(std::uint32_t part, const Sink& sink);
    [[nodiscard]] bool isLate(std::uint32_t chain) const {
        const std::uint32_t rank = plan().rankOf(chain);
        return (program_->state.late[rank / 64] >> (rank % 64) & 1) != 0;
    }
    void waitForOffs(std::uint32_t chain);
    void spreadLate();
    void runLate(const Sink& sink);
    [[nodiscard]] bool isChoosable(const Ear& ear, midi::Zone zone, const Zones::Note& note) const;
    [[nodiscard]] const Zones::Note* chosenNote(const Ear& ear, const ZoneNote& wanted) const;
    Fit hearFinger(std::uint32_t ear, const Event& event);
    void standFinger(std::uint32_t ear, const ZoneNote& wanted, PortId port);

    // Taking chains through: running.cpp.
    void runAlone(std::uint32_t chain, int raw, const Sink& sink);
    void runStraight(std::uint32_t chain, double place, std::size_t from, const Sink& sink);
    void runChain(std::uint32_t chain, const Sink& sink);
    [[nodiscard]] bool goesOnByItself(const PlanChain& chain, Moment moment) const;
    void settleCombines(const PlanChain& chain);
    void prime(std::uint32_t chain);
    [[nodiscard]] double trunkBefore(std::uint32_t chain, std::size_t step);
    void goOn(std::uint32_t chain, std::optional<double> position, std::size_t from, Moment moment,
              const Sink& sink);
    void showSteps(std::uint32_t chain);
    void runBranches(std::uint32_t chain, std::optional<double> position, Moment moment, const Sink& sink);
    [[nodiscard]] bool feeds(const PlanChain& chain, std::uint32_t branch) const;
    void produce(std::uint32_t branch, double q, bool rests, const Sink& sink);
    void writeTieLine(std::uint32_t line, double q);
    void updateMoving(std::uint32_t chain);

    // What leaves, and what has left: sending.cpp and passing.cpp.
    void flush(const Sink& sink);
    void defer(const Deferred& what, const Sink& sink);
    [[nodiscard]] double mixedReach(std::uint32_t branch) const;
    void sendCarefully(const PlanChain& chain, int raw, const Sink& sink);
    void sendBetween(const PlanChain& chain, double position, const Sink& sink);
    void leave(std::uint32_t branch, Payload payload, const Sink& sink);
    void sendReach(std::uint32_t branch, double q, const Sink& sink);
    void sendPosition(std::uint32_t branch, double q, const Sink& sink);
    void sendValue(std::uint32_t branch, int value, const Sink& sink);
    void sendPayload(std::uint32_t branch, Payload payload, const Sink& sink);
    void sendKeyPressure(std::uint32_t branch, int value, const Sink& sink);
    void sendNote(std::uint32_t branch, bool on, const Sink& sink);
    void release(const NoteMemory::Place& place, midi::Bytes off, const Sink& sink);
    void endNote(std::uint32_t cause, const Sink& sink);
    void pass(const Event& event, std::uint32_t part, const Sink& sink);
    void passOn(const Event& event, std::uint32_t part, const Sink& sink);
    void beginNote(const Event& event, std::uint32_t part, const Sink& sink);
    void endNotesOf(const Event& event, const Part& part, const Sink& sink);
    void endForgottenNotes(const Event& event, const Sink& sink);
    void followNote(const Event& event, std::uint32_t part, const Sink& sink);

    // Articulations: choosing.cpp.
    void chooseArticulation(std::uint32_t part, std::uint32_t articulation, const Sender& sender,
                            const Sink& sink);
    void sendSelect(std::uint32_t part, const PlanSelect& select, const Sender& sender, const Sink& sink);
    void sendSwitch(std::uint32_t part, const PlanSelect& select, const Sender& sender, const Sink& sink);

    // Who is in hand: handing.cpp.
    void chooseHand(std::size_t entry, const Sink& sink);
    void setInHand(std::uint32_t part, bool inHand, const Sink& sink);
    void leaveHand(std::uint32_t part, std::uint32_t lane, std::uint16_t channels, const Sink& sink);
    void comeIntoHand(std::uint32_t part, const Sink& sink);
    void letGo(std::uint32_t lane, const Sender& sender, const Sink& sink);
    template<class Each>
    void forEachPedalDown(const Part& part, Each&& each);
    void hearPedals(std::uint32_t part);
    void passPedals(std::uint32_t part, const Sink& sink);
    [[nodiscard]] bool passesPedal(const Event& event, std::uint32_t part) const;
    void hearAgain(std::uint32_t part);
    void wake(std::uint32_t chain);
    void refreshMoving(std::uint32_t part);
    template<class Wanted>
    void endHeldNotes(Wanted&& wanted, const Sink& sink);

    // Ports that come: coming_and_going.cpp.
    [[nodiscard]] bool stays(std::uint32_t branch) const;
    void tellRest(std::uint32_t branch, const Sink& sink);
    void tellLast(std::uint32_t branch, const Sink& sink);

    // Changing the plan: adopting.cpp.
    void carryLanes(const Program& old);
    void carryVelocities(const Program& old);
    void carryChain(const Program& old, std::uint32_t chain);
    void carryWhole(const Program& old, std::uint32_t chain, const PlanChain& before);
    void carryParts(const Program& old, std::uint32_t chain, const PlanChain& before);
    void carryEars(const Program& old, const PlanChain& now, const PlanChain& before);
    void countKeys(std::uint32_t ear);
    void leaveLanes(const Program& old, const Sink& sink);
    void changeHands(const Program& old, const Sink& sink);
    void carryPart(const Program& old, std::uint32_t part);
    void carryDesk(const Program& old);
    void releaseForgottenNotes(const Sink& sink);
    void carryHands(const Program& old, const Ear& ear, const Ear& before);

    Program* program_;
    NoteMemory notes_;
    Hands hands_;
    Selections selections_;
    Zones zones_;
    midi::Pairs pairs_;
    MidiClock clock_;
    double tempo_ = unknownTempo;  ///< in force
    double fileTempo_ = 0;         ///< of a file that is played; 0: none
    double clockTempo_ = 0;        ///< of what the ensemble follows; 0: it has not spoken
    Time now_ = -1;
    std::uint32_t movingChains_ = 0;
    std::uint32_t movingGenerators_ = 0;

    // The event at hand.
    const Event* event_ = nullptr;
    std::uint64_t serial_ = 0;
    bool ticking_ = false;  ///< steps of chains that have their turn move on by one grid point
    Cue cue_ = Cue::none;
    Matched shared_;           ///< by shared chains
    Matched sharedFingers_;    ///< by those of them that follow a finger
    bool configures_ = false;  ///< it begins or ends a zone
    bool someLate_ = false;    ///< some chains wait for its offs
    bool lateRun_ = false;     ///< and have their turn now
    std::array<midi::PairReading, 4> readings_{};
    std::size_t readingCount_ = 0;
    std::uint32_t comingUp_ = NoteMemory::nothing;  ///< the cause that was down whose off it is
    bool again_ = false;       ///< it is heard again, by an instrument that came into hand with it
    int heldVelocity_ = 0;     ///< of the key of a note, before it: with which it was struck; 0: it was up
    bool keyChanges_ = false;  ///< it presses a key that was up, or lifts one that was down
    std::optional<Zones::Note> lifted_;  ///< the note that it ends
    midi::PairAddress dataAddress_;
    std::uint32_t pendingCount_ = 0;
    std::uint32_t cursor_ = 0;  ///< chains of ranks below it have had their turn
    bool mixes_ = false;        ///< the plan has parameters on which branches meet by a rule
    bool defers_ = false;       ///< what is to be sent waits for the end of the event
};

/// The key a note leaves with, or nothing when the instrument does not take it.
std::optional<int> transposed(const PlanInstrument& part, int key);
/// Notes that a parameter sounds, and key switches that are held, lie in the memory under numbers of their
/// own.
inline InputKey causeKey(PortId port, std::uint32_t cause) {
    return {port, static_cast<std::uint8_t>(cause >> 8), static_cast<std::uint8_t>(cause)};
}
inline std::uint32_t causeOf(const InputKey& input) {
    return static_cast<std::uint32_t>(input.channel) << 8 | input.key;
}
inline bool isCause(const InputKey& input) {
    return input.port == parameterPort || input.port == switchPort;
}
midi::Short onChannel(midi::Bytes message, int channel);
/// The key that a note message comes from.
inline InputKey inputKey(const Event& event) {
    return {event.port, static_cast<std::uint8_t>(midi::channelOf(event.bytes)), event.bytes[1]};
}

/// Ends those notes of parameters and key switches for which wanted(place) holds, in the order in which they
/// began.
template<class Wanted>
void Engine::endHeldNotes(Wanted&& wanted, const Sink& sink) {
    const auto next = [&] {
        std::uint32_t i = notes_.oldest();
        while (i != NoteMemory::nothing &&
               !(isCause(notes_.inputOf(notes_.place(i))) && wanted(notes_.place(i))))
            i = notes_.place(i).behind;
        return i;
    };
    // A cause may have several places, and all go with it.
    for (std::uint32_t i = next(); i != NoteMemory::nothing; i = next()) {
        const std::uint32_t cause = notes_.place(i).cause;
        state().notesOn[causeOf(notes_.inputOf(notes_.place(i)))] = false;
        endNote(cause, sink);
    }
}

}  // namespace mellow::engine
