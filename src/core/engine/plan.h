// The plan: an ensemble made ready to be played.
//
// The compiler resolves every reference, drops what cannot run, and folds what can be folded. A source yields
// whole numbers (128 or 16,384 of them), and a run of stateless steps behind it is a function of that number
// alone; so the whole way from the source through the trunk, the branch and the encoding is written out as a
// table, once, and playing is looking up (signal rules, section 8). Only steps with memory, and what stands
// behind them, are left to be evaluated.
//
// A plan never changes. What changes while it is played (what steps remember, what was sent last) is in
// State, allocated together with the plan by the editing side, so that playing allocates nothing. Port names,
// instruments and chains are numbered by interning: a name keeps its number in every later plan compiled from
// this one, which is how memory is carried across an edit and how a note-off finds a port that the document
// no longer mentions.
#pragma once

#include <array>
#include <atomic>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/midi/message.h"
#include "core/model/ensemble.h"
#include "core/model/scale.h"

namespace mellow::engine {

using PortId = std::uint16_t;
/// Stands for every port: as a filter it lets all through, as an event's port it passes every filter.
inline constexpr PortId everyPort = 0;

/// Names numbered in the order in which they were first seen.
class Names {
 public:
    /// The number of a name, new or old.
    std::uint32_t intern(std::string_view name);
    /// The number of a name, or nothing when it was never interned.
    [[nodiscard]] std::optional<std::uint32_t> find(std::string_view name) const;
    [[nodiscard]] const std::string& name(std::uint32_t number) const { return names_[number]; }
    [[nodiscard]] std::size_t size() const { return names_.size(); }

 private:
    std::vector<std::string> names_;
    std::unordered_map<std::string, std::uint32_t> numbers_;
};

/// An output port and channel, with a memory of what was last sent there.
struct Lane {
    PortId port = everyPort;
    std::uint8_t channel = 0;      ///< 0..15
    std::uint32_t instrument = 0;  ///< the first instrument (interned) that plays there
    bool operator==(const Lane& other) const { return port == other.port && channel == other.channel; }
};

/// What a lane remembers: controls 0..127, then bend, then pressure.
inline constexpr std::uint32_t bendSlot = 128;
inline constexpr std::uint32_t pressureSlot = 129;
inline constexpr std::uint32_t slotsPerLane = 130;

/// The kinds of incoming message that can move a chain: controls 0..127, then these.
inline constexpr std::size_t bendKey = 128;
inline constexpr std::size_t pressureKey = 129;
inline constexpr std::size_t velocityKey = 130;
inline constexpr std::size_t listenKeys = 131;

/// The data bytes of a message: the first, and the second above it. What tables and the memory of what was
/// sent hold, so that sending is copying and repeating is comparing.
using Payload = std::uint16_t;
inline constexpr Payload noPayload = 0xFFFF;  ///< in a table: send nothing; in the memory: unknown

constexpr Payload payload(int first, int second) {
    return static_cast<Payload>(first | second << 8);
}

struct PlanBranch {
    MessageKind kind = MessageKind::cc;
    std::uint8_t control = 0;
    bool repeats = false;
    Scale scale = Scale::edge;
    int max = 127;
    int choices = 0;  ///< labels of a `choices` law, else 0
    double fromRaw = 0;
    double toRaw = 1;  ///< the reach, as raw positions
    std::optional<BranchWindow> window;
    Payload restPayload = 0;  ///< of the parameter's resting value
    bool on = true;
    std::vector<Step> steps;       ///< those that are on
    std::uint32_t firstState = 0;  ///< of State::steps, one for each of `steps`
};

/// What sending a branch's payload takes, and no more: an event touches as many of these as it has results.
struct Outlet {
    std::uint32_t slot = 0;        ///< of State::sent
    std::uint32_t instrument = 0;  ///< interned
    PortId port = everyPort;
    std::uint8_t status = 0;  ///< of the message, with its channel
    std::uint8_t size = 3;    ///< of the message, in bytes
    bool repeats = false;
    bool clears = false;  ///< a control that makes the lane forget what was sent
};

/// How a chain is played.
enum class Way : std::uint8_t {
    tabulated,  ///< by looking up
    carefully,  ///< by looking up, where some branch can be silent, repeats, or makes its lane forget
    evaluated,  ///< step by step, since some step, in trunk or branch, remembers
};

struct PlanChain {
    std::uint32_t key = 0;         ///< interned "instrument/chain"
    std::uint32_t instrument = 0;  ///< place in Plan::instruments
    PortId port = everyPort;
    int channel = -1;  ///< 0..15; −1: any
    Scale scale = Scale::edge;
    int max = 127;
    bool keepOriginal = false;
    Way way = Way::tabulated;
    std::vector<Step> steps;       ///< those that are on
    std::size_t firstMemory = 0;   ///< the first step with memory, or steps.size()
    std::uint32_t firstState = 0;  ///< of State::steps
    std::size_t table =
        0;  ///< where Plan::tables has, for each raw value, a payload a branch; unless evaluated
    std::size_t positions = 0;  ///< where Plan::positions has the position before firstMemory, by raw value
    std::uint32_t firstBranch = 0;  ///< of Plan::branches
    std::uint32_t branchCount = 0;
    // What it was compiled from: an edit that leaves all three alone leaves the chain alone.
    Chain definition;
    std::vector<Parameter> targets;  ///< one a branch
    std::uint32_t lane = 0;

    bool hearsCues = false;  ///< some step, in trunk or branch, waits for a note or the pedal
    [[nodiscard]] bool isEvaluated() const { return way == Way::evaluated; }
    [[nodiscard]] bool trunkRemembers() const { return firstMemory < steps.size(); }
    [[nodiscard]] bool sameAs(const PlanChain& other) const {
        return lane == other.lane && definition == other.definition && targets == other.targets;
    }
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
};

/// A chain that a kind of incoming message moves.
struct Listener {
    std::uint32_t chain = 0;  ///< place in Plan::chains
    std::uint32_t part = 0;   ///< place in Plan::parts
    PortId partPort = everyPort;
    PortId port = everyPort;  ///< the chain's own filter, behind the part's
    bool keep = false;        ///< keepOriginal
    bool hearsSource = true;  ///< false: only the cue concerns it
    bool hearsCue = false;    ///< some step of it waits for a note or the pedal
};

struct Plan {
    Names ports;        ///< number 0 is "any"
    Names instruments;  ///< by id
    Names chainKeys;
    std::vector<Lane> lanes;
    std::vector<PlanInstrument> parts;  ///< in document order
    std::vector<PlanChain> chains;      ///< in document order
    std::vector<PlanBranch> branches;   ///< in document order
    std::vector<Outlet> outlets;        ///< one for each of `branches`
    // Dispatch: an event reads the list of those that want it, whatever else the ensemble holds.
    std::vector<Listener> listeners;  ///< by channel and key, each list in document order
    std::array<std::uint32_t, 16 * listenKeys + 1> firstListener{};  ///< by channel · listenKeys + key
    std::array<std::vector<std::uint32_t>, 16> byChannel;  ///< places in `parts` that hear a channel
    std::array<std::vector<std::uint32_t>, 16> passers;    ///< those of them that pass what no chain takes
    std::vector<std::uint32_t> timedChains;
    std::vector<Payload> tables;
    std::vector<double> positions;
    std::vector<std::uint32_t> chainsByKey;  ///< places in `chains`, sorted by key

    [[nodiscard]] std::span<const Listener> listenersTo(std::size_t channel, std::size_t key) const {
        const std::size_t at = channel * listenKeys + key;
        return {listeners.data() + firstListener[at], listeners.data() + firstListener[at + 1]};
    }
};

struct ChainState {
    int raw = 0;
    bool spoken = false;
    bool moving = false;
};

/// What the window reads while the player plays: plain numbers, each written whole. What a table can tell is
/// not written.
struct ChainLive {
    std::atomic<int> raw{-1};      ///< the source's newest raw value; −1 before it has spoken
    std::atomic<float> result{0};  ///< the position behind the trunk, of a chain that is evaluated
};
struct BranchLive {
    std::atomic<int> value{
        -1};  ///< what an evaluated chain last worked out for the target; −1 before the first
};

struct State {
    std::vector<StepState> steps;
    std::vector<ChainState> chains;
    std::vector<Payload> sent;  ///< slotsPerLane a lane
    std::unique_ptr<ChainLive[]> chainLive;
    std::unique_ptr<BranchLive[]> branchLive;
};

/// A plan and the memory it plays with. Made and freed by the editing side only.
struct Program {
    Plan plan;
    State state;
};

/// What a branch of a chain stands at when its source's raw value is `raw` (−1: not spoken): the encoded
/// value, or −1 when there is none. Safe to ask while the program plays.
int presentValue(const Program& program, const PlanChain& chain, std::uint32_t branch, int raw);

/// The arithmetic of a branch that leads to a parameter, without its place in a plan.
PlanBranch prepareBranch(const Parameter& parameter, const Branch& branch);

/// The encoded value of a position at the end of a branch: reach, choices, encoding.
int encodeAtTarget(const PlanBranch& branch, double p);
/// The data bytes that carry an encoded value of a branch, and back.
Payload payloadOf(const PlanBranch& branch, int value);
int valueOf(const PlanBranch& branch, Payload payload);

/// What a branch sends in the end for a position behind the trunk, its steps with memory passed over.
Payload settledPayload(const PlanBranch& branch, double position);

/// Where a branch's window puts a position: a position to go on with, or nothing when it is outside and the
/// window does not clamp.
std::optional<double> throughWindow(const PlanBranch& branch, double p);

}  // namespace mellow::engine
