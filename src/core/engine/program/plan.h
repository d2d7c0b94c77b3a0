// The plan: an ensemble made ready to be played.
//
// The compiler resolves every reference, drops what cannot run, and folds what can be folded (chain_body.h).
// Steps with memory, second sources, mixes, and what stands behind them are left to be evaluated, and so is
// what would need more tables than are worth their memory (tabulate.h). Messages find the chains that they
// concern through lists by channel and kind of message. A plan never changes; what does while it is played is
// in State (state.h).
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "core/engine/program/carried.h"
#include "core/engine/program/chain_body.h"
#include "core/engine/program/ear.h"
#include "core/engine/program/numbering.h"
#include "core/midi/zone.h"
#include "core/sources/generator.h"

namespace mellow::engine {

struct PlanBranch {
    const BranchBody* body = nullptr;  ///< of its chain's body
    MessageKind kind = MessageKind::cc;
    bool on = true;                ///< it is on, and so is the instrument that it leads to
    bool endsMix = true;           ///< no later branch of its chain meets others on the same parameter
    std::uint32_t chain = 0;       ///< place in Plan::chains; none: it belongs to none
    std::uint32_t firstState = 0;  ///< of State::steps, one for each of the body's steps
    std::uint32_t part = none;     ///< place in Plan::parts
    std::uint32_t lane = 0;
    std::uint32_t tieLine = none;  ///< place in Plan::tieLines; a branch that leads to one sends nothing
    bool hand = false;             ///< it chooses who is in hand, and sends nothing itself
    std::uint32_t mix = none;      ///< a number of Numbering::mixes
    std::uint32_t place = none;    ///< of Plan::numbering: a register, an OSC place, or a note's cause
};

/// How a branch's message leaves.
enum class Leaves : std::uint8_t {
    copied,     ///< by copying the payload, unless it is the one sent last
    asHalf,     ///< not so only because its lane gets it as half of a pair too
    carefully,  ///< it means more than its value, or is not one message
};

/// What sending a branch's payload takes, and no more: an event touches as many of these as it has results.
struct Outlet {
    std::uint32_t slot = 0;        ///< of State::sent
    std::uint32_t instrument = 0;  ///< interned
    PortId port = everyPort;
    std::uint8_t status = 0;  ///< of the message, with its channel
    std::uint8_t size = 3;    ///< of the message, in bytes
    Leaves leaves = Leaves::copied;
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
    straight,   ///< step by step, to branches for which nothing waits that are fed by each value
    evaluated,  ///< step by step
};

struct PlanChain {
    const ChainBody* body = nullptr;
    std::uint32_t key = 0;      ///< interned "instrument/chain"
    std::uint64_t version = 0;  ///< the same in every plan in which it does the same with the same input
    std::uint32_t part = none;  ///< place in Plan::parts; none: a shared chain
    bool keepOriginal = false;
    bool onlyInHand = false;  ///< it moves only while its instrument is in hand
    bool chosen = false;      ///< its fan feeds one branch, that of its last ear
    bool ticks = false;       ///< some step moves with the clock
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

    [[nodiscard]] bool isEvaluated() const { return way >= Way::straight; }
    [[nodiscard]] std::span<const Step> steps() const { return body->steps; }
};

/// A message that chooses an articulation.
struct PlanSelect {
    SelectKind kind = SelectKind::note;
    std::uint8_t number = 0;
    std::uint8_t value = 0;      ///< a velocity, a value, a program, or a channel 0..15
    std::uint32_t cause = none;  ///< of a key switch that is held: a number of Numbering::noteCauses
    std::optional<std::array<int, 2>> bank;
};

struct PlanArticulation {
    std::uint32_t key = 0;  ///< interned "instrument/articulation"
    std::vector<PlanSelect> select;
};

/// What a controller says of the zones of its port by hand; −1: nothing.
struct HandZones {
    PortId port = everyPort;
    int lower = -1;
    int upper = -1;
    double noteBend = midi::memberBend;
    double allBend = midi::managerBend;
};

struct PlanInstrument {
    std::uint32_t name = 0;  ///< interned
    PortId inputPort = everyPort;
    std::uint16_t inputChannels = 0xFFFF;  ///< a bit a channel
    int lowKey = 0;
    int highKey = 127;
    int transpose = 0;
    int lowVelocity = 0;  ///< of note-ons; 0 and 127 of one that plays no layer
    int highVelocity = 127;
    std::optional<midi::Zone> zone;  ///< of its port, the only one from which it takes messages
    Pass pass;
    std::uint32_t lane = 0;            ///< its own, until an articulation leads to another channel
    std::vector<std::uint32_t> lanes;  ///< all that it may play on, that one first
    /// Where what comes on a zone's members passes, by channel; empty: where all else does.
    std::vector<std::uint32_t> keptLanes;
    std::vector<PlanArticulation> articulations;
    std::uint32_t endRank = 0;  ///< how many chains of Plan::order have their turn before it passes on
    bool inHand = true;         ///< as the document says; who is now, State knows
    OnConnect onConnect = OnConnect::nothing;
    bool drivesVelocity = false;  ///< some branch leads to a velocity parameter of it

    [[nodiscard]] bool isLayer() const { return lowVelocity > 0 || highVelocity < 127; }
    [[nodiscard]] bool takesVelocity(int velocity) const {
        return velocity >= lowVelocity && velocity <= highVelocity;
    }
    [[nodiscard]] bool changesChannel() const { return lanes.size() > 1; }
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

/// The way of a message of one channel and kind.
struct Route {
    enum class Kind : std::uint8_t {
        heard,     ///< it may mean something beyond its value, or chains remember
        lookedUp,  ///< all that listen look up, and it means nothing more
        guarded,   ///< the same, where the hand or zones decide whom it reaches
        alone,     ///< one chain takes its value, and it means nothing to anybody else
    } kind = Kind::heard;
    PortId port = everyPort;     ///< of one chain alone: where the message has to come from
    std::uint32_t chain = none;  ///< the one
};

struct TieLineReaders {
    std::vector<std::uint32_t> ears;
};

struct OscListener {
    std::string address;
    std::vector<std::uint32_t> ears;
};

/// An articulation of a part, by their places.
struct Choice {
    std::uint32_t part = 0;
    std::uint32_t articulation = 0;
};

/// An axis of an element of the desk, or articulation tiles.
struct DeskListener {
    std::string address;
    std::vector<std::uint32_t> ears;
    std::vector<std::vector<Choice>> names;  ///< of tiles: what each name means to those who answer to it
    bool isSwitch = false;                   ///< a latching button, which is on or off
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
    std::vector<PlanBranch> branches;      ///< chain by chain, then those of no chain
    std::uint32_t firstBeside = 0;         ///< the first of those, by which what nothing leads to is put
    std::vector<Outlet> outlets;           ///< one for each of `branches`
    std::vector<Ear> ears;                 ///< chain by chain
    std::vector<MixPoint> mixes;           ///< by number
    bool hasMixes = false;                 ///< some branches meet by a rule
    std::vector<Hearing> hearings;         ///< chain by chain
    std::vector<TieLineReaders> tieLines;  ///< by number
    // Dispatch: an event reads the list of those that want it, whatever else the ensemble holds.
    std::vector<Listener> listeners;  ///< by channel and key, each list in order of chains
    std::array<std::uint32_t, 16 * midi::messageKeys + 1>
        firstListener{};                                 ///< by channel · midi::messageKeys + key
    std::array<Route, 16 * midi::messageKeys> routes{};  ///< likewise
    /// Places in `parts` in hand that hear a channel, in the order of `turns`.
    std::array<std::vector<std::uint32_t>, 16> receivers;
    std::array<std::vector<std::uint32_t>, 16> passers;  ///< those of them that pass what no chain takes
    std::array<bool, 32> pairsHeard{};                   ///< 14-bit controls that some ear listens to
    std::vector<OscListener> oscListeners;               ///< sorted by address
    std::vector<DeskListener> desk;                      ///< likewise
    PortId deskPort = everyPort;                         ///< from which the desk's elements are moved
    bool handMoves = false;                              ///< some chain chooses who is in hand
    std::vector<HandZones> zones;                        ///< by controller
    bool zoned = false;  ///< zones decide what some instrument takes or where it passes
    std::vector<std::vector<std::uint32_t>> handOrder;  ///< places in `parts`, by entry
    std::vector<std::uint32_t> timedChains;
    std::vector<std::uint32_t> fingerEars;  ///< ears that follow a finger of a zone
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

    /// True of a chain that moves only in hand and will not be while this plan is played.
    [[nodiscard]] bool staysAsleep(const PlanChain& chain) const {
        return chain.onlyInHand && !handMoves && !parts[chain.part].inHand;
    }
    /// Ears that listen to an OSC address.
    [[nodiscard]] std::span<const std::uint32_t> oscEarsAt(std::string_view address) const {
        const auto found = std::lower_bound(
            oscListeners.begin(), oscListeners.end(), address,
            [](const OscListener& listener, std::string_view wanted) { return listener.address < wanted; });
        if (found == oscListeners.end() || found->address != address) return {};
        return found->ears;
    }
    /// The listener at an address of the desk, or nullptr.
    [[nodiscard]] const DeskListener* deskAt(std::string_view address) const {
        const auto found = std::lower_bound(
            desk.begin(), desk.end(), address,
            [](const DeskListener& listener, std::string_view wanted) { return listener.address < wanted; });
        return found != desk.end() && found->address == address ? &*found : nullptr;
    }

    [[nodiscard]] std::uint32_t rankOf(std::uint32_t chain) const {
        return ranks.empty() ? chain : ranks[chain];
    }
    [[nodiscard]] std::uint32_t chainAt(std::uint32_t rank) const {
        return order.empty() ? rank : order[rank];
    }

    [[nodiscard]] std::span<const Listener> listenersTo(std::size_t channel, std::size_t key) const {
        const std::size_t at = channel * midi::messageKeys + key;
        return {listeners.data() + firstListener[at], listeners.data() + firstListener[at + 1]};
    }
};

/// Which branch of a chain whose fan is chosen is fed while the chooser stands at q.
inline std::uint32_t chosenBranch(const PlanChain& chain, double q) {
    return std::min(chain.branchCount - 1, static_cast<std::uint32_t>(q * chain.branchCount));
}

}  // namespace mellow::engine
