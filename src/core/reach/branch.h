// A branch: from the position behind a chain's trunk to the value that its target gets (signal rules, section
// 4).
//
// The position goes through the branch's window, its steps, its reach and the parameter's law, and comes out
// as a value that a message can carry. All that can be worked out beforehand is (BranchBody): the reach as
// raw positions, the resting value, the scale on which the message encodes. The engine plays with it, the
// compiler fills tables with it, and the checks ask it what can come out.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <span>
#include <vector>

#include "core/midi/message.h"
#include "core/model/ensemble.h"
#include "core/model/law.h"
#include "core/model/resolve.h"
#include "core/model/scale.h"
#include "core/steps/step.h"

namespace mellow {

/// Steps as they are played: those that are on, ready to be applied. Where that changes nothing they are the
/// written ones, which must stay where they are.
class StepRun {
 public:
    StepRun() = default;
    explicit StepRun(const std::vector<Step>& written);
    StepRun(const StepRun&) = delete;
    StepRun& operator=(const StepRun&) = delete;
    StepRun(StepRun&&) = default;
    StepRun& operator=(StepRun&&) = default;
    ~StepRun() = default;

    operator std::span<const Step>() const { return steps_; }
    [[nodiscard]] std::size_t size() const { return steps_.size(); }
    [[nodiscard]] bool empty() const { return steps_.empty(); }
    [[nodiscard]] const Step& operator[](std::size_t place) const { return steps_[place]; }
    [[nodiscard]] auto begin() const { return steps_.begin(); }
    [[nodiscard]] auto end() const { return steps_.end(); }

 private:
    std::vector<Step> made_;
    std::span<const Step> steps_;
};

inline constexpr int noEnd = 1 << 20;  ///< above all values

/// The arithmetic of a branch, and the message that carries its result. Shared by plans in which it is the
/// same.
struct BranchBody {
    MessageKind kind = MessageKind::cc;
    int number = 0;
    bool repeats = false;
    bool on = true;
    Scale scale = Scale::edge;
    int max = 127;
    int choices = 0;  ///< labels of a `choices` law, else 0
    double fromRaw = 0;
    double toRaw = 1;     ///< the reach, as raw positions
    int lowestValue = 0;  ///< what is sent never lies outside the reach: by its ends
    int highestValue = noEnd;
    double restRaw = 0;                      ///< the raw position of the parameter's resting value
    int velocity = 100;                      ///< of a note
    const BranchWindow* window = nullptr;    ///< as it is written; nullptr: it has none
    std::optional<std::array<int, 2>> bank;  ///< of a program
    StepRun steps;
    Range range;  ///< of the parameter's display
    Mix mix = Mix::latest;
};

/// The whole numbers that lie in a reach; lowest above highest: there are none.
struct ReachEnds {
    int lowest = 0;
    int highest = 0;
};
/// The ends beyond which a branch sends nothing (signal rules, section 4, Ends); nothing where there are no
/// ends: labels, numbers by OSC, what is mixed, and what is no value.
std::optional<ReachEnds> endsOf(const Parameter& parameter, const Branch& branch);

/// The arithmetic of a branch that leads to a parameter, without its place in a plan.
/// The branch must stay where it is.
BranchBody prepareBranch(const Parameter& parameter, const Branch& branch);
/// The same for one that leads to whatever exists: a parameter, a tie line, or the hand, which is chosen as
/// an articulation is.
BranchBody prepareBranch(const Target& target, const Branch& branch);

// Inline, since compiling asks for millions of values.

/// The label of a `choices` law nearest to a raw position, as one; other laws leave it as it is.
inline double nearestChoice(const BranchBody& branch, double q) {
    if (branch.choices < 2) return q;
    const double last = branch.choices - 1;
    return std::floor(q * last + 0.5) / last;
}

/// The raw position of a target for a position at the end of a branch, before any rounding to a label.
inline double spread(const BranchBody& branch, double p) {
    return clampPosition(branch.fromRaw + p * (branch.toRaw - branch.fromRaw));
}
/// The same as it is sent: of choices, the nearest.
inline double reached(const BranchBody& branch, double p) {
    return nearestChoice(branch, spread(branch, p));
}

/// The place among a `choices` law's labels of the one nearest to a raw position.
inline int labelAt(const BranchBody& branch, double q) {
    return branch.choices < 2 ? 0 : static_cast<int>(std::floor(q * (branch.choices - 1) + 0.5));
}

/// The value that a raw position is sent as: a program's or label's number, 1 or 0 for a note that is on or
/// off, 1..127 for a velocity, else what section 1 encodes.
inline int valueAt(const BranchBody& branch, double q) {
    if (branch.kind == MessageKind::note) return q >= 0.5 ? 1 : 0;
    if (branch.kind == MessageKind::articulation) return labelAt(branch, q);
    if (branch.kind == MessageKind::program && branch.choices > 1) return labelAt(branch, q) & midi::max7;
    const int value = encode(branch.scale, q, branch.max);
    return branch.kind == MessageKind::velocity ? std::max(1, value) : value;
}

/// The value that a target rests at: of choices, the label nearest to where it rests.
inline int restValue(const BranchBody& branch) {
    return valueAt(branch, nearestChoice(branch, branch.restRaw));
}

/// The value that a position at the end of a branch is sent as, which never lies outside its reach.
inline int valueWithinReach(const BranchBody& branch, double q) {
    return std::clamp(valueAt(branch, q), branch.lowestValue, branch.highestValue);
}

/// The raw position that a branch reaches in the end for a position behind the trunk, its steps with memory
/// passed over; nothing where it is silent.
std::optional<double> settledReach(const BranchBody& branch, double position);
/// The same as the value that is sent.
std::optional<int> settledValue(const BranchBody& branch, double position);

/// Where a branch's window puts a position: a position to go on with, or nothing when it is outside and the
/// window does not clamp.
std::optional<double> throughWindow(const BranchBody& branch, double p);

}  // namespace mellow
