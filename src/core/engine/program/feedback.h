// Feedback: a controller with motors or lights is told where its controls now stand.
//
// A control stands where the chain that it moves says it does: where a hand, a take or an encoder's steps
// have brought the chain's source. But the value at the chain's end may have been moved by something else, by
// another control, a message that passed, an undo; then the control stands where its own chain would have to
// be moved to for that value. That is the chain's way back. It needs no inverse of each step: the way forward
// is written out for every position of the control, at rest, and the position whose value is nearest is
// looked up. There is a way back where that list only rises or only falls. There is none where a second
// source has a say, where a step waits for something else than its input, or where one value has two places.
//
// A hand is never fought: nothing is sent to a control for a while after its own last message, and what it
// was heard to stand at is not sent to it. Lights keep nothing of what a hand does, so they are told at once.
//
// An element of the desk stands where its chain says in the same way. It needs no message: what shows it,
// here or on a tablet, reads where it stands.
//
// Who is told, and each way back, is worked out by the editing side (followControls) for one plan. run() is
// for the playing side: it allocates nothing, and reads the plan's state without changing it.
#pragma once

#include <atomic>
#include <memory>
#include <vector>

#include "core/engine/program/output.h"
#include "core/model/kinds.h"
#include "core/model/scale.h"

namespace mellow {
struct Ensemble;
}

namespace mellow::engine {

struct Plan;
struct PlanChain;
struct Program;

/// Why a chain has no way back, or that it has one.
enum class NoWayBack : std::uint8_t {
    hasOne,
    unheard,       ///< no chain follows the control
    secondSource,  ///< a second source has a say
    waits,         ///< a step waits for something else than its input
    twoPlaces,     ///< one value is reached from several places that do not lie together
    standsStill,   ///< every position leads to the same value
    mixed,         ///< several chains are mixed on its target
    noValue,       ///< its targets have no value that stays
};

/// The way forward through a branch, written out.
struct WayBack {
    std::uint32_t branch = none;  ///< place in Plan::branches; none: there is no way back
    int step = 1;                 ///< raw values of the control from one entry to the next
    std::vector<int> values;      ///< what the target is sent for each, or −1 where that is nothing
    int grain = 0;                ///< the greatest way from one of them to the next

    /// The raw value, at most max, from which the target would be sent what is nearest to `value`; of several
    /// the nearest to `from` (−1: the first).
    [[nodiscard]] int nearest(int value, int from, int max) const;
    /// Whether a raw value may well have led to `value`: steps with hysteresis may be one level off.
    [[nodiscard]] bool agrees(int from, int value) const;
};

/// A chain that says where the control stands that moves it. `scale` and `max` are the control's.
struct FollowedChain {
    Scale scale = Scale::edge;
    int max = 127;
    int grid = 16;               ///< of a control of more than 7 bits every so many-th raw value is evaluated
    std::uint32_t chain = none;  ///< a place in Plan::chains
    WayBack back;                ///< of the chain's first branch that has one
    NoWayBack without = NoWayBack::unheard;
};

/// A control whose controller is told where it stands.
struct FollowedControl {
    /// The chains that it moves, in their order: the first that is awake says where it stands, or the first
    /// where all sleep. Empty: none follows it.
    std::vector<FollowedChain> chains;
    std::uint32_t controller = 0;  ///< place in the ensemble
    std::uint32_t control = 0;     ///< place in the controller
    PortId from = everyPort;
    PortId to = everyPort;
    MessageKind kind = MessageKind::cc;
    int number = 0;
    Scale scale = Scale::edge;
    int max = 127;
    int channel = -1;    ///< 0..15; −1: the one that it was last heard on, or else the first
    bool light = false;  ///< a hand leaves nothing on it: a lamp, a ring of lights round an encoder
};

/// An axis of an element of the desk, with one of the chains that it moves and that has a way back.
struct FollowedElement : FollowedChain {
    std::uint32_t place = none;  ///< in Plan::desk
};

/// Who is told, and what they were told. Belongs to one plan.
class Feedback {
 public:
    static constexpr Time interval = 20'000;     ///< µs between looks
    static constexpr Time handsLeave = 500'000;  ///< µs after a control's own message before it is moved

    Feedback() = default;
    Feedback(std::vector<FollowedControl> controls, std::vector<FollowedElement> elements);

    [[nodiscard]] const std::vector<FollowedControl>& controls() const { return controls_; }
    /// Where a control stands, as a raw value: where its hand has left it, or where it was told to be since;
    /// −1: not known yet. Any thread.
    [[nodiscard]] int standsAt(std::size_t control) const {
        return stands_[control].load(std::memory_order_relaxed);
    }

    /// Why what drives a control now has no way back, or that it has one. Any thread.
    [[nodiscard]] NoWayBack reasonOf(std::size_t control) const {
        const auto& chains = controls_[control].chains;
        const std::uint32_t place = speaks_[control].load(std::memory_order_relaxed);
        return chains.empty() ? NoWayBack::unheard : chains[place].without;
    }

    // Playing side.

    /// Takes over what the controls were told and heard to stand at.
    void carry(const Feedback& before);
    enum class By : bool { hand, take };
    /// A message came in.
    void heard(PortId port, midi::Bytes bytes, Time time, By by);
    /// Somebody new listens at a port, and was told nothing.
    void connected(PortId port);
    /// Tells what has to be told, and moves the elements of the desk, once in an interval.
    void run(const Program& program, Time now, const Sink& sink);
    /// Something changed, or some control waits for its hand to leave it.
    void stir() { stirred_ = !controls_.empty() || !elements_.empty(); }
    [[nodiscard]] bool waits() const { return stirred_; }

 private:
    struct Standing {
        int known = -1;  ///< where the control is known to stand
        int wish = -1;   ///< where a take moved it, for one that no chain follows
        int high = 0;    ///< of a pair: its high byte
        int channel = 0;
        Time hand = -handsLeave;  ///< when it was last moved by hand
        int source = -1;          ///< of its chain, at the last look
        int value = -1;           ///< of the chain's target, likewise
        bool elsewhere = false;   ///< something else moved the target since
        bool moving = false;
        bool unsure = false;  ///< the target moved while the chain was on its way
        bool slept = true;    ///< the chain was out of hand at the last look, or there was none
        /// Another chain, or one that slept, says from now on where it stands.
        void wake() {
            source = value = -1;
            elsewhere = moving = false;
            unsure = true;
        }
    };

    [[nodiscard]] int readingOf(const FollowedControl& control, Standing& standing, midi::Bytes bytes) const;
    static int goalOf(const FollowedChain& control, Standing& standing, const Program& program);
    int goalOfControl(std::size_t control, const Program& program);
    void moveElements(const Program& program);
    void tell(std::size_t control, int raw, Time now, const Sink& sink);

    std::vector<FollowedControl> controls_;
    std::vector<Standing> standings_;
    std::vector<FollowedElement> elements_;
    std::vector<Standing> elementStandings_;
    std::unique_ptr<std::atomic<int>[]> stands_;
    std::unique_ptr<std::atomic<std::uint32_t>[]> speaks_;  ///< which of a control's chains does
    Time next_ = 0;
    bool stirred_ = false;
};

/// The controls of controllers that say where feedback goes and the elements of the desk, for a plan compiled
/// from the same ensemble, which numbers their ports. Allocates.
Feedback followControls(const Ensemble& ensemble, Plan& plan);

}  // namespace mellow::engine
