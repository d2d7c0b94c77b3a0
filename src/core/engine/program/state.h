// What changes while a plan is played: where ears stand, what steps remember, what was sent last. All of it
// is allocated together with the plan by the editing side, so that playing allocates nothing.
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>
#include <optional>
#include <vector>

#include "core/engine/program/feedback.h"
#include "core/engine/program/plan.h"
#include "core/sources/generator.h"

namespace mellow::engine {

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
    PortId fingerPort = everyPort;
    std::int8_t finger = -1;  ///< of a finger of a zone: the channel of the note chosen last; −1: none was
    bool byManager = false;   ///< without a finger: its manager has moved it
};

struct ChainState {
    int raw = -1;  ///< of a chain that looks up: the source's newest raw value; −1 before it has spoken
    bool spoken = false;  ///< something has moved it
    bool moving = false;  ///< the clock alone would change something
    // What waits to be done with it in the present event.
    bool moved = false;    ///< its source spoke
    bool stirred = false;  ///< a combine's source spoke
    bool hears = false;    ///< the event's cue
    bool edited = false;   ///< it changed since it last ran
    bool back = false;     ///< it came back into hand, and has not run since
};

/// What the window reads while the player plays: plain numbers, each written whole. What a table can tell is
/// not written.
struct ChainLive {
    std::atomic<int> raw{-1};       ///< the source's newest raw value; −1 before it has spoken
    std::atomic<float> source{-1};  ///< its position, of a source without raw values; −1 before it has spoken
    /// Where a control stands that has not caught up with the source; −1: none waits.
    std::atomic<float> control{-1};
    std::atomic<float> result{0};  ///< the position behind the trunk, of a chain that is evaluated
    std::atomic<int> fed{-1};      ///< the branch that a chooser has chosen; −1: all are fed
    /// Of the first 32 steps of the trunk that are on: a bit for each that remembers and stands above the
    /// middle, as a gate or latch does that is on.
    std::atomic<std::uint32_t> stepsUp{0};
    std::atomic<float> other{-1};  ///< where the trunk's first second source stands; −1 before anything ran
};
struct BranchLive {
    std::atomic<float> value{-1};  ///< the raw position an evaluated chain last sent a target to; −1 before
};

/// What changes about an instrument while it is played.
struct PartState {
    std::uint32_t lane = 0;  ///< on which it plays now
    bool inHand = true;
    int channel = -1;                ///< 0..15: to which an articulation led it; −1: its own
    std::uint16_t channelsUsed = 0;  ///< a bit a channel on which it has played
    std::int32_t articulation = -1;  ///< the place of the one that was chosen last
    PortId fingerPort = everyPort;
    std::int8_t finger = -1;         ///< the channel of the finger that passes; −1: there was none
    std::uint64_t fingerTurned = 0;  ///< the event with which it became that one
};
/// The same for the window.
struct PartLive {
    std::atomic<bool> inHand{true};
    std::atomic<std::int32_t> articulation{-1};
};

/// Which register is selected on a lane: by whoever sent last, and by what the player passed.
struct LaneSelections {
    midi::Selection wire;
    midi::Selection player;
};

/// Something to be sent when the event's end is known.
struct Deferred {
    /// leave and come: an instrument leaves the hand, or comes into it.
    enum class What : std::uint8_t {
        payload,
        reach,
        rest,
        mix,
        finish,
        forgotten,
        leave,
        come
    } what = What::payload;
    std::uint32_t index = 0;  ///< a branch; of finish, leave and come, a part
    Payload payload = 0;      ///< of finish: 1 where the part was in hand
    double q = 0;             ///< of `reach` and `rest`
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
    std::vector<PartState> parts;
    std::vector<std::uint64_t> pending;   ///< a bit a chain, by rank
    std::vector<std::uint64_t> late;      ///< likewise: those that run behind the offs of the event
    std::vector<std::uint64_t> heldBack;  ///< of those the ones that are to run
    std::vector<Deferred> deferred;
    struct PartMatch {
        std::uint64_t event = 0;
        bool keep = false;
    };
    std::vector<PartMatch> matches;  ///< one a part
    std::unique_ptr<ChainLive[]> chainLive;
    std::unique_ptr<BranchLive[]> branchLive;
    std::unique_ptr<PartLive[]> partLive;
    /// Where each of Plan::desk was last moved to; −1: nowhere yet.
    std::unique_ptr<std::atomic<float>[]> deskLive;
};

/// True of a chain that moves only in hand, while its instrument is not.
inline bool isAsleep(const PlanChain& chain, const State& state) {
    return chain.onlyInHand && !state.parts[chain.part].inHand;
}

/// A value that a branch's target is put to, once.
struct Placed {
    std::uint32_t branch = 0;   ///< place in Plan::branches
    double position = 0;        ///< raw
    bool ifSent = false;        ///< only where something was sent there
    bool unlessSpoken = false;  ///< only while the branch's chain has not spoken
};

/// A plan and the memory it plays with. Made and freed by the editing side only.
struct Program {
    Plan plan;
    State state;
    Feedback feedback;           ///< empty unless who plays live made it
    std::vector<Placed> placed;  ///< what is sent when it begins to be played
    std::uint64_t number = 0;    ///< who plays live numbers them; an address may be used again
};

/// What a branch of a chain stands at when its source's raw value is `raw` (−1: not spoken): the raw position
/// of its target, or −1 when there is none. Safe to ask while the program plays.
double presentPosition(const Program& program, const PlanChain& chain, std::uint32_t branch, int raw);

}  // namespace mellow::engine
