#include "core/balance/sweep.h"

#include <algorithm>
#include <cmath>

#include "core/midi/names.h"
#include "core/steps/step.h"
#include "core/text/numbers.h"

namespace mellow::balance {

namespace {

constexpr int loudestVelocity = 127;
constexpr std::int64_t clickLength = 60'000;
constexpr std::int64_t beforeFirst = 300'000;

struct Note {
    int key;
    int velocity;
    double position;
};

/// Positions evenly spread, those that come to the same once.
std::vector<double> positionsOf(const Rig& rig, int count) {
    std::vector<double> positions;
    for (int i = 0; i < count; ++i) {
        const double position = rig.sayable(static_cast<double>(i) / (count - 1));
        if (positions.empty() || position > positions.back()) positions.push_back(position);
    }
    return positions;
}

std::vector<Note> overKeys(const SweepPlan& plan) {
    const auto [low, high] = std::minmax_element(plan.keys.begin(), plan.keys.end());
    const int span = *high - *low;
    std::vector<Note> notes;
    for (int i = 0; i < plan.positions; ++i) {
        const int key =
            *low + static_cast<int>(std::lround(static_cast<double>(i) * span / (plan.positions - 1)));
        if (!notes.empty() && notes.back().key == key) continue;
        notes.push_back({key, plan.velocity, static_cast<double>(key) / midi::max7});
    }
    return notes;
}

std::vector<Note> notesOf(const SweepPlan& plan, const Rig& rig) {
    if (isKeys(plan.motion)) return overKeys(plan);
    std::vector<Note> notes;
    const std::vector<double> positions = positionsOf(rig, plan.positions);
    for (const int key : plan.keys) {
        for (const double position : positions) {
            if (!isVelocity(plan.motion)) {
                notes.push_back({key, plan.velocity, position});
            } else if (const auto velocity = std::lround(position * midi::max7); velocity > 0) {
                notes.push_back({key, static_cast<int>(velocity), position});
            }
        }
    }
    return notes;
}

}  // namespace

std::optional<Problem> flawOf(const SweepPlan& plan) {
    const auto flaw = [](std::string what, std::string mend) {
        return Problem{"Measuring", std::move(what), std::move(mend)};
    };
    if (plan.keys.empty()) return flaw("no key is chosen", "choose at least one");
    for (const int key : plan.keys) {
        if (key < 0 || key > midi::max7)
            return flaw("there is no key " + std::to_string(key), "choose 0 to 127");
    }
    if (plan.velocity < 1 || plan.velocity > midi::max7)
        return flaw("velocity " + std::to_string(plan.velocity) + " is outside 1 to 127",
                    "choose one inside");
    if (plan.positions < fewestPositions || plan.positions > mostPositions)
        return flaw(std::to_string(plan.positions) + " positions are outside 2 to 128",
                    "choose a number inside");
    if (plan.hold < shortestHold)
        return flaw("a note is held for less than 0.4 s, which loudness needs", "hold it longer");
    for (const std::int64_t part : {plan.lead, plan.settle, plan.hold, plan.gap}) {
        if (part < 0 || part > longestPart) return flaw("a time is outside 0 to 10 s", "choose one inside");
    }
    return std::nullopt;
}

Result<Sweep> sweepOf(const Ensemble& ensemble, const SweepPlan& plan) {
    if (const auto flaw = flawOf(plan)) return *flaw;
    const auto rig =
        Rig::build(ensemble, plan.instrument, plan.motion, plan.held ? &plan.held->motion : nullptr);
    if (!rig) return rig.problem();
    Sweep sweep;
    sweep.ensemble = rig->ensemble();
    // What plays comes to rest first: a synthesizer that has just begun is not yet as it will be.
    std::int64_t time = beforeFirst;
    const int firstKey = plan.keys.front();
    if (plan.held) rig->hold(sweep.take, 0, firstKey, plan.held->position);
    if (plan.click) {
        rig->move(sweep.take, clickTime - plan.lead, firstKey, 1);
        rig->press(sweep.take, clickTime, firstKey, loudestVelocity);
        rig->lift(sweep.take, clickTime + clickLength, firstKey);
        sweep.click = clickTime;
        time = clickTime + afterClick;
    }
    for (const Note& note : notesOf(plan, *rig)) {
        Segment segment{note.key, note.velocity, note.position, time + plan.lead, 0, 0, 0};
        segment.from = segment.begins + plan.settle;
        segment.to = segment.from + plan.hold;
        segment.ends = segment.to + plan.gap;
        // What still rings of the note before is no part of this one.
        rig->hush(sweep.take, time);
        rig->move(sweep.take, time, note.key, note.position);
        rig->press(sweep.take, segment.begins, note.key, note.velocity);
        rig->lift(sweep.take, segment.to, note.key);
        sweep.segments.push_back(segment);
        time = segment.ends;
    }
    sweep.take.length = time;
    return sweep;
}

std::int64_t settleFor(const Chain* chain) {
    const std::int64_t usual = SweepPlan{}.settle;
    if (chain == nullptr) return usual;
    const auto ofSteps = [](const std::vector<Step>& steps) {
        double total = 0;  // ms
        for (const Step& step : steps) {
            if (!step.on || step.kind == nullptr || step.kind->name != "smooth") continue;
            // Eased, it has come within 1 % after five times its time.
            constexpr double eased = 5;
            total += eased * std::max(numberOf(step, 0), numberOf(step, 1));
        }
        return total;
    };
    double slowest = 0;
    for (const Branch& branch : chain->branches) {
        if (branch.on) slowest = std::max(slowest, ofSteps(branch.steps));
    }
    constexpr double millisecond = 1000;
    const auto needed = static_cast<std::int64_t>(millisecond * (ofSteps(chain->steps) + slowest));
    return std::min(usual + needed, longestPart);
}

std::vector<int> usualKeys(const Instrument& instrument, const Motion& motion) {
    const Input& input = instrument.input;
    constexpr int middle = 60;
    if (isKeys(motion)) {
        // The whole keyboard is what 88 keys have.
        constexpr int lowest = 21;
        constexpr int highest = 108;
        const int low = std::max(lowest, input.lowKey);
        const int high = std::min(highest, input.highKey);
        return low < high ? std::vector{low, high} : std::vector{input.lowKey, input.highKey};
    }
    const bool takesMiddle = input.lowKey <= middle && middle <= input.highKey;
    return {takesMiddle ? middle : (input.lowKey + input.highKey) / 2};
}

}  // namespace mellow::balance
