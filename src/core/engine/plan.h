// The plan: an ensemble made ready to be played.
//
// The compiler resolves every reference, drops what cannot run, and folds what can be folded. A source yields
// whole numbers (128 or 16,384 of them), and a run of stateless steps behind it is a function of that number
// alone; so the whole way from the source through the trunk, the branch and the encoding is written out as a
// table, once, and playing is looking up (signal rules, section 8). Steps with memory, second sources, mixes,
// and what stands behind them are left to be evaluated, and so is what would need more tables than are worth
// their memory (tabulate.h).
//
// A chain listens with ears: one for its source, one for each `combine`, one for its fan's chooser. Messages
// find the ears that want them through lists by channel and kind of message, so the cost of an event does not
// grow with the ensemble.
//
// A plan never changes. What changes while it is played (where ears stand, what steps remember, what was sent
// last) is in State, allocated together with the plan by the editing side, so that playing allocates nothing.
// Names are numbered, and keep their numbers in every later plan compiled from this one (Numbering), which is
// how memory is carried across an edit and how a note-off finds a port that the document no longer mentions.
#pragma once

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <cstdint>
#include <limits>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "core/engine/names.h"
#include "core/midi/message.h"
#include "core/midi/pairs.h"
#include "core/model/ensemble.h"
#include "core/reach/branch.h"
#include "core/sources/generator.h"

namespace mellow::engine {

using PortId = std::uint16_t;
/// Stands for every port: as a filter it lets all through, as an event's port it passes every filter.
inline constexpr PortId everyPort = 0;
/// Where notes come from that a parameter sounds; no port has this number.
inline constexpr PortId parameterPort = 0xFFFF;

inline constexpr std::uint32_t none = 0xFFFFFFFF;

/// An output port and channel, with a memory of what was last sent there.
struct Lane {
    PortId port = everyPort;
    std::uint8_t channel = 0;      ///< 0..15
    std::uint32_t instrument = 0;  ///< the first instrument (interned) that plays there
    bool operator==(const Lane& other) const { return port == other.port && channel == other.channel; }
};

/// What a lane remembers: controls 0..127, then these.
inline constexpr std::uint32_t bendSlot = 128;
inline constexpr std::uint32_t pressureSlot = 129;
inline constexpr std::uint32_t programSlot = 130;
inline constexpr std::uint32_t keyPressureSlot = 131;  ///< and 127 more, by key
inline constexpr std::uint32_t pairSlot = 259;         ///< 14-bit controls 0..31
inline constexpr std::uint32_t slotsPerLane = 291;

/// A register (RPN or NRPN) of a lane that some parameter sends.
struct Register {
    std::uint32_t lane = 0;
    midi::PairKind kind = midi::PairKind::rpn;
    int number = 0;
    bool operator==(const Register&) const = default;
};

/// An OSC address of a port that some parameter sends.
struct OscPlace {
    PortId port = everyPort;
    std::string address;
    bool operator==(const OscPlace&) const = default;
};

/// The kinds of incoming message that can move a chain: controls 0..127, then these.
inline constexpr std::size_t bendKey = 128;
inline constexpr std::size_t pressureKey = 129;
inline constexpr std::size_t noteOnKey = 130;
inline constexpr std::size_t noteOffKey = 131;
inline constexpr std::size_t keyPressureKey = 132;
inline constexpr std::size_t programKey = 133;
inline constexpr std::size_t listenKeys = 134;  // fits a byte

/// What a table holds for a branch, and the memory for a message. Of messages whose data bytes are the value
/// and nothing else: both bytes, the second above the first, so that sending is copying and repeating is
/// comparing. Of all others: the value.
using Payload = std::uint16_t;
inline constexpr Payload noPayload = 0xFFFF;  ///< in a table: send nothing; in the memory: unknown

constexpr Payload payload(int first, int second) {
    return static_cast<Payload>(first | second << 8);
}

struct PlanBranch {
    const BranchBody* body = nullptr;  ///< of its chain's body
    MessageKind kind = MessageKind::cc;
    bool on = true;           ///< it is on, and so is the instrument that it leads to
    bool copies = true;       ///< its message can be sent by copying the payload, as far as it goes by itself
    std::uint32_t chain = 0;  ///< place in Plan::chains
    std::uint32_t firstState = 0;  ///< of State::steps, one for each of the body's steps
    std::uint32_t part = none;     ///< place in Plan::parts
    std::uint32_t lane = 0;
    std::uint32_t tieLine = none;  ///< place in Plan::tieLines; a branch that leads to one sends nothing
    std::uint32_t mix = none;      ///< a number of Numbering::mixes
    std::uint32_t place = none;    ///< of Plan::numbering: a register, an OSC place, or a note's cause
};

/// What sending a branch's payload takes, and no more: an event touches as many of these as it has results.
struct Outlet {
    std::uint32_t slot = 0;        ///< of State::sent
    std::uint32_t instrument = 0;  ///< interned
    PortId port = everyPort;
    std::uint8_t status = 0;  ///< of the message, with its channel
    std::uint8_t size = 3;    ///< of the message, in bytes
    bool plain = true;        ///< sent by copying the payload, unless it is the one sent last
};

/// A parameter on which several branches meet by a rule.
struct MixPoint {
    Mix rule = Mix::latest;
    std::vector<std::uint32_t> branches;  ///< in document order, those of shared chains first
};

/// How a chain is played.
enum class Way : std::uint8_t {
    tabulated,  ///< by looking up
    carefully,  ///< by looking up, where some branch can be silent or is not sent by copying alone
    evaluated,  ///< step by step
};

/// True of sources that two controls make up.
constexpr bool isPair(SourceKind kind) {
    return kind == SourceKind::cc14 || kind == SourceKind::rpn || kind == SourceKind::nrpn;
}

enum class Role : std::uint8_t { main, combine, chooser };

/// A place at which a chain listens.
struct Ear {
    std::uint32_t chain = 0;
    Role role = Role::main;
    PortId port = everyPort;
    int channel = -1;  ///< 0..15; −1: any
    Scale scale = Scale::edge;
    int max = 127;  ///< 0: it has positions only
    double rest = 0;
    std::uint32_t step = 0;     ///< of a combine: of State::steps
    std::pair<int, int> place;  ///< of a combine: its branch in the chain (−1: the trunk) and its step there
    std::uint32_t tieLine = none;  ///< place in Plan::tieLines
    Handover handover = Handover::jump;
    std::uint32_t hands = none;  ///< of one that hands over: its first of State::hands
    SourceKind kind = SourceKind::cc;
    const Source* source = nullptr;  ///< resolved; of its chain's body
};

/// Where a chain's trunk leads from each raw value, as far as it is a function of that.
struct Trunk {
    std::size_t firstLive = 0;  ///< the first step that is not, or the number of steps
    std::vector<double> places;
};

/// All that a chain sends for each raw value: a payload a branch.
struct Table {
    std::vector<Payload> payloads;
    bool silent = false;  ///< some are empty
};

/// What is made of a chain whatever else the plan holds. Shared by plans in which it is the same.
struct ChainBody : std::enable_shared_from_this<ChainBody> {
    // What it was compiled from: an edit that leaves all of it alone leaves the chain alone. It stands in the
    // instruments of the ensemble, which are kept as they were.
    std::shared_ptr<const Instrument> instrument;
    std::vector<std::shared_ptr<const void>> others;  ///< of a shared chain: itself, and where it leads
    const Chain* written = nullptr;
    struct Led {
        const Parameter* target = nullptr;  ///< nullptr: a tie line
        std::uint32_t lane = none;          ///< none: it sends nothing
    };
    std::vector<Led> led;                               ///< one a branch
    std::vector<const Source*> sources;                 ///< resolved, one an ear
    std::vector<std::unique_ptr<const Source>> copies;  ///< of those that differ from what is written

    StepRun steps;
    std::vector<BranchBody> branches;
    bool hearsCues = false;              ///< some step, in trunk or branch, waits for a note or the pedal
    bool ticks = false;                  ///< some step moves with the clock
    std::shared_ptr<const Trunk> trunk;  ///< where the source has raw values and is followed as it is
    std::shared_ptr<const Table> table;  ///< where all of it is a function of the raw value
};

struct PlanChain {
    const ChainBody* body = nullptr;
    std::uint32_t key = 0;      ///< interned "instrument/chain"
    std::uint64_t version = 0;  ///< the same in every plan in which it does the same with the same input
    std::uint32_t part = none;  ///< place in Plan::parts; none: a shared chain
    bool keepOriginal = false;
    bool asleep = false;  ///< it moves only in hand, and its instrument is not
    bool chosen = false;  ///< its fan feeds one branch, that of its last ear
    bool silent = false;  ///< its table is empty in places
    bool ticks = false;   ///< some step moves with the clock
    Way way = Way::evaluated;
    const Payload* table = nullptr;  ///< for each raw value, a payload a branch; unless evaluated
    const double* places = nullptr;  ///< of one that is evaluated: the place before firstLive, by raw value
    std::uint32_t firstLive = 0;    ///< the first step of the trunk that is not folded, or the number of them
    std::uint32_t firstState = 0;   ///< of State::steps: the trunk's, then the branches'
    std::uint32_t stateCount = 0;   ///< 0 of one that looks up and has one ear
    std::uint32_t firstBranch = 0;  ///< of Plan::branches
    std::uint32_t branchCount = 0;
    std::uint32_t firstEar = 0;  ///< of Plan::ears; the first is the source's
    std::uint32_t earCount = 0;

    [[nodiscard]] bool isEvaluated() const { return way == Way::evaluated; }
    [[nodiscard]] std::span<const Step> steps() const { return body->steps; }
};

struct PlanInstrument {
    std::uint32_t name = 0;  ///< interned
    PortId inputPort = everyPort;
    std::uint16_t inputChannels = 0xFFFF;  ///< a bit a channel
    int lowKey = 0;
    int highKey = 127;
    int transpose = 0;
    Pass pass;
    std::uint32_t lane = 0;
    std::uint32_t endRank = 0;  ///< how many chains of Plan::order have their turn before it passes on
    bool inHand = true;
    bool drivesVelocity = false;  ///< some branch leads to a velocity parameter of it
};

/// What an ear, or a chain that waits for cues, listens to.
struct Hearing {
    std::uint16_t channels = 0;  ///< a bit a channel
    std::uint8_t key = 0;        ///< a kind of incoming message
    PortId port = everyPort;
    std::uint32_t chain = 0;   ///< place in Plan::chains
    std::uint32_t ear = none;  ///< place in Plan::ears; none: only the cue concerns it
};

/// A chain that a kind of incoming message concerns.
struct Listener {
    std::uint32_t chain = 0;    ///< place in Plan::chains
    std::uint32_t part = none;  ///< place in Plan::parts
    std::uint32_t ear = none;   ///< place in Plan::ears; none: only the cue concerns it
    PortId partPort = everyPort;
    PortId port = everyPort;  ///< the ear's own filter, behind the part's
    bool keep = false;        ///< keepOriginal
};

struct TieLineReaders {
    std::vector<std::uint32_t> ears;
};

struct OscListener {
    std::string address;
    std::vector<std::uint32_t> ears;
};

/// Names and places that keep their numbers from plan to plan.
struct Numbering {
    Names ports;        ///< number 0 is "any"
    Names instruments;  ///< by id
    std::shared_ptr<Names> chainKeys =
        std::make_shared<Names>();  ///< many, and only added to: shared by plans
    Names tieLines;
    Names noteCauses;  ///< "instrument/parameter" of note parameters
    Names mixes;       ///< "instrument/parameter" of parameters on which branches meet by a rule
    std::vector<Lane> lanes;
    std::vector<Register> registers;
    std::vector<OscPlace> oscPlaces;
};

/// How many of each thing, or where the next of each goes.
struct Extent {
    std::uint32_t chains = 0;
    std::uint32_t branches = 0;
    std::uint32_t ears = 0;
    std::uint32_t states = 0;
    std::uint32_t hearings = 0;
    bool operator==(const Extent&) const = default;
};

using Bodies = std::vector<std::shared_ptr<const ChainBody>>;

/// What an instrument's chains were compiled from, and where they are: as long as that stays the same, the
/// next plan takes them over as they are.
struct Record {
    std::shared_ptr<const Instrument> written;
    std::vector<bool> stoppedAlone;  ///< chains that cannot run, whatever else the ensemble holds
    std::vector<bool> stopped;
    std::shared_ptr<const Bodies> bodies;
    Extent from;
    Extent to;
};

/// What chains refer to beyond their instrument.
struct Surroundings {
    std::vector<Controller> controllers;
    std::vector<TieLine> tieLines;
    std::optional<std::vector<std::string>> inHand;
    Tempo tempo;
    bool operator==(const Surroundings&) const = default;
};

struct Plan {
    Numbering numbering;
    std::shared_ptr<const Surroundings> surroundings;
    std::vector<Record> records;  ///< one for each of `parts`
    Bodies sharedBodies;
    std::vector<PlanInstrument> parts;  ///< in document order
    std::vector<PlanChain> chains;      ///< in document order: shared ones, then part by part
    /// Chains as they run, those that read tie lines behind those that write them; empty: as in `chains`.
    std::vector<std::uint32_t> order;
    std::vector<std::uint32_t> ranks;      ///< by chain: its place in `order`; empty with it
    std::vector<std::uint32_t> turns;      ///< places in `parts`, in the order in which they pass on
    std::vector<PlanBranch> branches;      ///< chain by chain
    std::vector<Outlet> outlets;           ///< one for each of `branches`
    std::vector<Ear> ears;                 ///< chain by chain
    std::vector<MixPoint> mixes;           ///< by number
    bool hasMixes = false;                 ///< some branches meet by a rule
    std::vector<Hearing> hearings;         ///< chain by chain
    std::vector<TieLineReaders> tieLines;  ///< by number
    // Dispatch: an event reads the list of those that want it, whatever else the ensemble holds.
    std::vector<Listener> listeners;  ///< by channel and key, each list in order of chains
    std::array<std::uint32_t, 16 * listenKeys + 1> firstListener{};  ///< by channel · listenKeys + key
    std::array<bool, 16 * listenKeys> plain{};  ///< all listeners look up, and the message means nothing more
    /// The place in `listeners` of the only one, where it looks up and nobody else is concerned; or none.
    std::array<std::uint32_t, 16 * listenKeys> soleListener{};
    /// Places in `parts` in hand that hear a channel, in the order of `turns`.
    std::array<std::vector<std::uint32_t>, 16> receivers;
    std::array<std::vector<std::uint32_t>, 16> passers;  ///< those of them that pass what no chain takes
    std::array<bool, 32> pairsHeard{};                   ///< 14-bit controls that some ear listens to
    std::vector<OscListener> oscListeners;               ///< sorted by address
    std::vector<std::uint32_t> timedChains;
    std::vector<std::uint32_t> generators;  ///< ears that the clock moves
    std::vector<std::uint32_t> cycles;      ///< ears of all cycles, of chains that sleep too
    Follow follows = Follow::none;          ///< what the tempo follows
    PortId clockPort = everyPort;
    double bpm = unknownTempo;                ///< the tempo until what it follows has spoken
    std::vector<std::uint32_t> notesCounted;  ///< ears of envelopes
    std::vector<std::uint32_t> chainOfKey;    ///< places in `chains` by key; none: there is no such chain
    std::vector<std::uint32_t> noteCauses;    ///< causes that some branch drives, sorted
    std::vector<Lane>& lanes() { return numbering.lanes; }
    [[nodiscard]] const std::vector<Lane>& lanes() const { return numbering.lanes; }
    /// The chain of a key, or nullptr.
    [[nodiscard]] const PlanChain* chainWithKey(std::uint32_t key) const {
        const bool there = key < chainOfKey.size() && chainOfKey[key] != none;
        return there ? &chains[chainOfKey[key]] : nullptr;
    }

    [[nodiscard]] std::uint32_t rankOf(std::uint32_t chain) const {
        return ranks.empty() ? chain : ranks[chain];
    }
    [[nodiscard]] std::uint32_t chainAt(std::uint32_t rank) const {
        return order.empty() ? rank : order[rank];
    }

    [[nodiscard]] std::span<const Listener> listenersTo(std::size_t channel, std::size_t key) const {
        const std::size_t at = channel * listenKeys + key;
        return {listeners.data() + firstListener[at], listeners.data() + firstListener[at + 1]};
    }
};

/// What an ear that hands over knows of a control that moves it: each port and channel is one of its own.
struct HandState {
    double place = 0;  ///< c, the control's position
    PortId port = everyPort;
    std::uint8_t channel = 0;
    bool known = false;   ///< place is
    bool caught = false;  ///< the chain follows the control
};
/// Controls that are told apart: all channels of three ports; then the first is forgotten.
inline constexpr std::uint32_t handsPerEar = 48;

struct EarState {
    double position = 0;
    int raw = -1;  ///< of an ear that has raw values: the newest; −1 before it has spoken
    bool spoken = false;
    bool moves = false;          ///< of a generator: the clock alone would change it
    std::uint16_t keysDown = 0;  ///< of an envelope
    GeneratorState generator;
    std::uint32_t nextHand = 0;  ///< where the next control that is new goes
};

struct ChainState {
    int raw = 0;          ///< of a chain that looks up: the source's newest raw value
    bool spoken = false;  ///< something has moved it
    bool moving = false;  ///< the clock alone would change something
    // What waits to be done with it in the present event.
    bool moved = false;    ///< its source spoke
    bool stirred = false;  ///< a combine's source spoke
    bool hears = false;    ///< the event's cue
    bool edited = false;   ///< it changed since it last ran
};

/// What the window reads while the player plays: plain numbers, each written whole. What a table can tell is
/// not written.
struct ChainLive {
    std::atomic<int> raw{-1};       ///< the source's newest raw value; −1 before it has spoken
    std::atomic<float> source{-1};  ///< its position, of a source without raw values; −1 before it has spoken
    std::atomic<float> result{0};  ///< the position behind the trunk, of a chain that is evaluated
    std::atomic<int> fed{-1};      ///< the branch that a chooser has chosen; −1: all are fed
};
struct BranchLive {
    std::atomic<float> value{-1};  ///< the raw position an evaluated chain last sent a target to; −1 before
};

/// Which register is selected on a lane: by whoever sent last, and by what the player passed.
struct LaneSelections {
    midi::Selection wire;
    midi::Selection player;
};

/// Something to be sent when the event's end is known.
struct Deferred {
    enum class What : std::uint8_t { payload, reach, mix, finish } what = What::payload;
    std::uint32_t index = 0;  ///< a branch; of `finish`, a part
    Payload payload = 0;
    double q = 0;  ///< of `reach`
};

struct State {
    std::vector<StepState> steps;
    std::vector<ChainState> chains;
    std::vector<EarState> ears;
    std::vector<HandState> hands;  ///< handsPerEar for each ear that hands over
    std::vector<Payload> sent;     ///< slotsPerLane a lane
    std::vector<LaneSelections> selections;
    std::vector<int> registers;  ///< by number; −1: unknown
    std::vector<std::optional<float>> osc;
    std::vector<double> mixed;             ///< one a branch: the q it last produced, or NaN
    std::vector<std::uint32_t> mixQueued;  ///< one a mix: the place in `deferred` at which it is sent
    std::vector<double> tieLines;          ///< by number; NaN before it was written
    std::vector<bool> notesOn;             ///< by cause: the note parameter is on
    std::vector<int> velocities;           ///< one a part; −1: as played
    std::vector<std::uint64_t> pending;    ///< a bit a chain
    std::vector<Deferred> deferred;
    struct PartMatch {
        std::uint64_t event = 0;
        bool keep = false;
    };
    std::vector<PartMatch> matches;  ///< one a part
    std::unique_ptr<ChainLive[]> chainLive;
    std::unique_ptr<BranchLive[]> branchLive;
};

/// A plan and the memory it plays with. Made and freed by the editing side only.
struct Program {
    Plan plan;
    State state;
};

/// What a branch of a chain stands at when its source's raw value is `raw` (−1: not spoken): the raw position
/// of its target, or −1 when there is none. Safe to ask while the program plays.
double presentPosition(const Program& program, const PlanChain& chain, std::uint32_t branch, int raw);

/// Which branch of a chain whose fan is chosen is fed while the chooser stands at q.
inline std::uint32_t chosenBranch(const PlanChain& chain, double q) {
    return std::min(chain.branchCount - 1, static_cast<std::uint32_t>(q * chain.branchCount));
}

/// The data that carry a value of a branch, and back.
inline Payload payloadOf(const BranchBody& branch, int value) {
    switch (branch.kind) {
        case MessageKind::cc:
            return payload(branch.number, value);
        case MessageKind::bend:
            return payload(value & midi::max7, value >> 7);
        default:
            return static_cast<Payload>(value);
    }
}

inline int valueOf(const BranchBody& branch, Payload payload) {
    switch (branch.kind) {
        case MessageKind::cc:
            return payload >> 8;
        case MessageKind::bend:
            return (payload & midi::max7) | payload >> 8 << 7;
        default:
            return payload;
    }
}

/// The raw value at which an ear's tables hold a reading of two bytes.
int rawOf(const Ear& ear, const midi::PairReading& reading);
/// The position of a raw value, as tables hold them.
double placeOf(const Ear& ear, int raw);

}  // namespace mellow::engine
