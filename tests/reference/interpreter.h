// The reference interpreter: the signal rules, read aloud.
//
// It walks the model for every message, looks everything up by name, tabulates nothing, and keeps its memory
// in maps. It is slow on purpose: each line should be checkable against a sentence of the rules by somebody
// who has never seen the engine. Of the program it knows the document's structs and nothing else: what
// references stand for, what runs and in which order (resolving.h), scales and laws (arithmetic.h), steps and
// generators are all its own, so that a mistake in one cannot hide in both. Tests play random ensembles and
// streams through the two and want the same bytes.
//
// Every event, and every grid point, is played in the same three parts: positions are updated, chains that
// were moved run in their turn, and what they produced is sent at the end (Sending), since only then is it
// known where a mixed parameter is sent.
#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <tuple>
#include <vector>

#include "core/model/ensemble.h"
#include "reference/generators.h"
#include "reference/resolving.h"
#include "reference/steps.h"

namespace mellow::reference {

struct Sent {
    std::int64_t time = 0;   ///< microseconds
    std::string instrument;  ///< id
    std::string port;
    std::vector<std::uint8_t> bytes;  ///< empty: it is OSC
    std::string address;              ///< of OSC
    float number = 0;                 ///< of OSC
    bool operator==(const Sent&) const = default;
};

class Interpreter {
 public:
    explicit Interpreter(Ensemble ensemble);

    /// One whole message; times never fall. Returns what it sends, the clock's part first.
    std::vector<Sent> process(std::int64_t time, const std::string& port,
                              const std::vector<std::uint8_t>& bytes);
    /// A number that came to an OSC address.
    std::vector<Sent> processOsc(std::int64_t time, const std::string& port, const std::string& address,
                                 double number);
    /// An element of the desk is moved, by its address.
    std::vector<Sent> processDesk(std::int64_t time, const std::string& address, double position);
    /// The clock alone, up to and including `until`.
    std::vector<Sent> advance(std::int64_t until);
    std::vector<Sent> silenceAll();
    /// A file says how fast, from now on; 0: it is over.
    void setTempo(double bpm);
    /// Plays an edited ensemble from here on. Chains that were edited after something moved them run once.
    std::vector<Sent> edit(Ensemble ensemble);

 private:
    using Bytes = std::vector<std::uint8_t>;
    using ChainId = std::pair<std::string, std::string>;  ///< instrument ("\n" for shared chains) and chain
    using InputKey = std::tuple<std::string, int, int>;   ///< port, channel, key
    using Lane = std::pair<std::string, int>;             ///< port, channel
    using Control = std::pair<std::string, int>;          ///< port, channel
    using Register = std::pair<bool, int>;                ///< RPN or not, number

    /// Where a control stands that moves a chain, and whether the chain follows it.
    struct Hand {
        double place = 0;
        bool met = false;
    };
    struct EarMemory {
        double position = 0;
        int raw = -1;
        bool spoken = false;
        Generator generator;
        std::map<Control, Hand> hands;
        std::optional<Control> finger;         ///< of a finger of a zone: that of the note chosen last
        std::optional<std::string> managedBy;  ///< without one: the port whose manager has moved it
    };
    struct ChainMemory {
        bool spoken = false;
        bool back = false;  ///< it came back into hand, and has not run since
        std::map<Ear, EarMemory> ears;
        std::vector<Memory> trunk;
        std::vector<std::vector<Memory>> branches;
        std::vector<std::optional<double>> produced;  ///< one a branch, before any rounding to a label
    };
    /// Why a chain is to run in the present event.
    struct Due {
        bool source = false;
        bool combine = false;
        bool tick = false;
        bool cue = false;
    };
    enum class Cue { none, noteOn, pedalDown };
    /// Where a note went.
    struct Place {
        std::string instrument;
        std::string port;
        int channel = 0;
        int key = 0;
        bool operator==(const Place&) const = default;
        [[nodiscard]] bool soundsLike(const Place& other) const {
            return port == other.port && channel == other.channel && key == other.key;
        }
    };
    /// What is remembered of an input key, or of a parameter that sounds a note.
    struct Held {
        InputKey input;
        std::vector<Place> places;
        bool down = false;
        int unanswered = 0;
    };
    struct Selected {
        bool rpn = false;
        int high = -1;
        int low = -1;
        bool any = false;
        bool operator==(const Selected&) const = default;
    };
    struct LaneMemory {
        std::map<std::string, int> last;  ///< by the name of the message
        std::map<int, int> pairs;
        std::map<Register, int> registers;
        Selected wire, player;
    };
    /// Something that came to a value of two bytes.
    struct Entered {
        enum class What { high, alone, low, coarse, fineStep, coarseStep } what = What::high;
        int number = 0;
    };
    struct PairMemory {
        std::vector<Entered> entered;
        int alone = 0;
        std::optional<std::int64_t> waitingSince;
        std::uint64_t arrival = 0;
    };
    using PairId =
        std::tuple<std::string, int, int, int>;  ///< port, channel, kind (0 CC, 1 RPN, 2 NRPN), number
    /// A value that counts: what it has come to after so many things were entered.
    struct Reading {
        PairId id;
        std::size_t after = 0;
    };
    using Reach = std::pair<double, double>;  ///< q_low and q_high
    /// Something to send, or an instrument's turn to pass on, to leave the hand, or to come into it.
    struct Sending {
        const Instrument* passer = nullptr;
        bool inHand = false;   ///< the passer was, when its turn came
        bool answers = false;  ///< the off is answered now
        const Instrument* instrument = nullptr;
        const Parameter* parameter = nullptr;
        double q = 0;
        const Instrument* leaver = nullptr;
        const Instrument* comer = nullptr;
        std::optional<Reach> reach;  ///< beyond which nothing may be sent
    };
    /// How an instrument plays now.
    struct Manner {
        std::string articulation;  ///< id; empty: none was chosen
        int channel = 0;           ///< to which an articulation led it; 0: its own
        std::set<int> channelsUsed;
    };

    /// Where a finger is that has a channel of its own.
    struct FingerPlace {
        int bend = 8192;
        int slide = 64;
        int pressure = 0;
        std::set<std::string> said;  ///< of the three, since it was put to rest
    };
    /// What a port said of its zones, −1: nothing; and where its fingers are, by channel.
    struct ZonePort {
        int lower = -1;
        int upper = -1;
        bool lastUpper = false;                      ///< of the two the upper was said last
        std::map<std::pair<bool, bool>, int> cents;  ///< RPN 0, by whether it is the upper, and the manager's
        std::map<int, FingerPlace> fingers;
    };
    struct NoteDown {
        std::string port;
        int channel = 0;
        int key = 0;
        int velocity = 0;
        std::uint64_t strike = 0;
    };

    void prepare();
    [[nodiscard]] int members(const std::string& port, bool upper) const;
    [[nodiscard]] bool isMember(const std::string& port, bool upper, int channel) const;
    [[nodiscard]] bool isManager(const std::string& port, bool upper, int channel) const;
    [[nodiscard]] bool takesFrom(const Instrument* instrument, const std::string& port, int channel) const;
    int passingChannel(const Instrument& instrument, const std::string& port, int channel);
    void followZones(const std::string& port, const Bytes& bytes);
    [[nodiscard]] bool isMemberOfAny(const std::string& port, int channel) const;
    [[nodiscard]] bool isOfAZone(const std::string& port, int channel) const;
    void beginZone(const std::string& port, bool upper, int size);
    [[nodiscard]] double bendRange(const std::string& port, bool upper, bool manager) const;
    void chooseFingers();
    bool zoneLetsPass(const Instrument& instrument, const std::string& port, const Bytes& bytes);
    void tellFinger(const Instrument& instrument);
    [[nodiscard]] std::optional<NoteDown> chosenOf(const std::vector<NoteDown>& notes,
                                                   const Instrument* instrument, const Source& source) const;
    bool hearFinger(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source,
                    const std::string& port, const Bytes& bytes);
    double fingerPlace(const Source& source, const std::optional<Control>& finger, const std::string& port);
    [[nodiscard]] bool runs(const Instrument& instrument) const;
    [[nodiscard]] bool inHand(const Instrument& instrument) const;
    void takeHandFromDocument();
    void addLane(const Instrument& instrument, int channel);
    void hearAddress(const Instrument* instrument, const Chain& chain);
    [[nodiscard]] int channelOf(const Instrument& instrument) const;
    std::set<int> channelsUsedBy(const Instrument& instrument);
    void carryManners(const Ensemble& before, const Running& ranBefore);
    void choose(const Instrument& instrument, std::size_t articulation);
    void sendSelect(const Instrument& instrument, const Select& select);
    void chooseHand(const std::vector<std::string>& order, std::size_t entry);
    void hearAgain(const Instrument& instrument);
    void hearChain(const Instrument* instrument, const Chain& chain, bool againInHand);
    void hearPedals(const Instrument& instrument);
    void passPedals(const Instrument& instrument);
    [[nodiscard]] bool hadItsTurn(const Chain& chain) const;
    [[nodiscard]] bool takesNote(const Instrument* instrument, const Bytes& bytes) const;
    [[nodiscard]] bool sleeps(const Instrument* instrument, const Chain& chain) const;
    [[nodiscard]] static ChainId idOf(const Instrument* instrument, const Chain& chain);
    ChainMemory& memoryOf(const Instrument* instrument, const Chain& chain);
    /// Calls visit(instrument or null, chain) for each chain that runs, in the order of an event.
    template<class Visit>
    void forEachChain(Visit&& visit);

    void playGridPoint();
    [[nodiscard]] double tempo() const;
    void changeTempo(double before);
    void hearClock(int status);
    void hear(const std::string& port, const Bytes& bytes);
    void followSelects(const std::string& port, const Bytes& bytes);
    void hearPairs(const std::string& port, const Bytes& bytes);
    [[nodiscard]] bool someoneHears(int pairKind, int number, int channel);
    bool hearWith(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source,
                  const std::string& port, const Bytes& bytes, int key);
    bool hearReadings(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source);
    [[nodiscard]] bool listensTo(const Instrument* instrument, const Source& source, const std::string& port,
                                 int channel) const;
    void followKeys(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source,
                    const Bytes& bytes);
    void letEnvelopesGo();
    [[nodiscard]] int keysDown(const Instrument* instrument, const Source& source) const;
    void takeReading(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source,
                     const Reading& reading);
    void giveUpWaiting(const PairId& id);
    void high(const PairId& id, int value);
    void low(const PairId& id, int value);
    void speakRaw(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source,
                  int raw, const std::string& port, int channel);
    void hearPlace(const Instrument* instrument, const Chain& chain, const Ear& ear, const Source& source,
                   double place, const Control& control);
    void speak(const Instrument* instrument, const Chain& chain, const Ear& ear, double position);
    void play(const std::vector<const Instrument*>& passers);
    void answerOff();
    void spreadLate();
    void runChain(const Instrument* instrument, const Chain& chain, const Due& due);
    void settleCombines(const Instrument* instrument, const Chain& chain);
    void startCombines(const Instrument* instrument, const Chain& chain);
    void runBranch(const Instrument* instrument, const Chain& chain, std::size_t branch,
                   std::optional<double> position, bool tick, Cue cue);
    [[nodiscard]] bool feeds(const Instrument* instrument, const Chain& chain, std::size_t branch);
    [[nodiscard]] bool leadsSomewhere(const Instrument* instrument, const Branch& branch) const;
    void produce(const Instrument* instrument, const Chain& chain, std::size_t branch, double q,
                 std::optional<Reach> reach);
    void sendAll();
    [[nodiscard]] double mixed(const Instrument& instrument, const Parameter& parameter);

    void sendTo(const Instrument& instrument, const Parameter& parameter, double q,
                std::optional<Reach> reach);
    void control(const Instrument& instrument, const Lane& lane, int number, int value);
    void sendRegister(const Instrument& instrument, const Parameter& parameter, int value);
    void sendNote(const Instrument& instrument, const Parameter& parameter, bool on);
    void sendKeyPressure(const Instrument& instrument, const Parameter& parameter, int value);
    void passOn(const Instrument& instrument, bool wasInHand);
    void pass(const Instrument& instrument, const std::string& port, const Bytes& bytes);
    void beginNote(const Instrument& instrument);
    void followNote(const Instrument& instrument);
    Held* heldBy(const InputKey& input);
    void offTo(const Place& place, const Bytes& bytes);
    void endParameterNotes(const std::function<bool(const InputKey&, const Place&)>& wanted);
    void forget(const Lane& lane);
    void letGo(const Instrument& instrument, int channel);
    void leaveHand(const Instrument& was, const std::set<int>& channels);
    [[nodiscard]] bool hearsPedal(const Source& source, const std::string& port, const Bytes& bytes) const;
    bool passesPedal(const Instrument& instrument, const std::string& port, const Bytes& bytes);
    void wake(const Instrument* instrument, const Chain& chain);
    void carry(const Ensemble& before, const Running& ranBefore, std::map<ChainId, ChainMemory>& oldMemory,
               const std::map<std::string, bool>& handBefore);
    void deliver(const std::string& instrument, const std::string& port, Bytes bytes);

    Ensemble ensemble_;
    Running running_;
    std::map<ChainId, ChainMemory> memory_;
    std::map<Lane, LaneMemory> lanes_;
    std::vector<std::tuple<std::string, int, std::string>>
        lanesUsed_;                                                 ///< port, channel, instrument, ever used
    std::map<std::pair<std::string, std::string>, float> lastOsc_;  ///< by port and address
    std::map<std::string, int> velocities_;                         ///< by instrument
    std::map<std::string, double> lines_;                           ///< what was last written to tie lines
    std::set<std::string> notesOn_;                                 ///< "instrument/parameter"
    std::vector<Held> held_;
    std::vector<std::pair<InputKey, Place>>
        begun_;                                  ///< places of held keys, in the order in which they began
    std::map<Lane, std::map<int, int>> pedals_;  ///< input port and channel → the last value of each pedal
    std::set<InputKey> keysDown_;
    std::map<InputKey, int> struck_;         ///< with what velocity keys were struck last
    std::map<std::string, bool> hand_;       ///< by instrument
    std::map<std::string, Manner> manners_;  ///< likewise
    std::map<Lane, Selected> selected_;      ///< by input port and channel
    std::map<PairId, PairMemory> pairs_;
    std::uint64_t arrivals_ = 0;
    std::map<std::string, ZonePort> zonePorts_;
    std::vector<NoteDown> notesDown_;  ///< in the order in which they were struck
    std::uint64_t strikes_ = 0;
    std::optional<NoteDown> lifted_;                         ///< the note that the event at hand ends
    std::map<std::string, std::optional<Control>> passing_;  ///< the finger that passes, by instrument
    std::set<InputKey> loose_;                               ///< keys that are down and hold no envelope
    std::vector<std::int64_t> clocks_;                       ///< times of F8 since the clock began
    double clockTempo_ = 0;                                  ///< 0: it has not spoken
    double fileTempo_ = 0;                                   ///< 0: no file is played
    std::vector<Sent> out_;
    std::int64_t now_ = -1;

    // The event at hand.
    std::string port_;
    Bytes bytes_;
    Cue cue_ = Cue::none;
    std::map<ChainId, Due> due_;
    std::vector<Reading> readings_;
    bool sharedMatched_ = false;
    bool sharedKeeps_ = false;
    bool fingersMatched_ = false;  ///< shared chains that follow fingers: likewise
    bool fingersKeep_ = false;
    bool configures_ = false;              ///< it begins or ends a zone
    std::set<std::string> turned_;         ///< instruments for which another finger is the newest with it
    std::set<const Chain*> late_;          ///< chains that run behind all its offs
    std::map<std::string, bool> matched_;  ///< instruments whose chains matched: whether one keeps
    bool begins_ = false;                  ///< its note-on has begun somewhere
    std::optional<InputKey> comingUp_;     ///< the key that was down whose off it is
    std::string address_;                  ///< of OSC and the desk
    double number_ = 0;
    std::size_t turn_ = 0;  ///< of Running::turns: whose turn it is
    std::vector<Sending> sendings_;
};

template<class Visit>
void Interpreter::forEachChain(Visit&& visit) {
    for (const Turn& turn : running_.turns) {
        if (turn.chain != nullptr) visit(turn.instrument, *turn.chain);
    }
}

}  // namespace mellow::reference
