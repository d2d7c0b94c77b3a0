// Thin: fewer messages, for an instrument or a cable that cannot keep up.
//
// Signal rules, section 2: an input goes on when it differs from the last one let through by at least
// `change`, or is 0 or 1. One that comes less than `gap` after the last one let through waits, a newer one
// taking its place, and goes on at the first grid point at which the gap has passed; a newer one that is too
// near the last one let through recalls it. So a movement ends where the hand does, to within `change`.
#include <array>
#include <cmath>

#include "core/steps/kinds.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

constexpr double longestGap = 10000;

constexpr std::array<Field, 2> fields{{
    {"change", "Change", "%", Field::Type::number, 0, 1, 0, false, {}, "What counts as a change."},
    {"gap",
     "Gap",
     "ms",
     Field::Type::number,
     0,
     longestGap,
     0,
     false,
     {},
     "The least time between two values."},
}};

double gapOf(const Step& step) {
    return numberOf(step, 1) * 1000;
}

void letThrough(StepState& state, Microseconds now) {
    state.output = state.input;
    state.time = now;
    state.moving = false;
}

void take(const Step& step, StepState& state, double input, Microseconds now) {
    const bool first = !state.started;
    state.started = true;
    const bool counts =
        first || std::abs(input - state.output) >= numberOf(step, 0) || input == 0 || input == 1;
    if (!counts) {
        state.moving = false;
        return;
    }
    state.input = input;
    state.moving = !first && static_cast<double>(now - state.time) < gapOf(step);
    if (!state.moving) letThrough(state, now);
}

void tick(const Step& step, StepState& state, Microseconds now) {
    if (state.moving && static_cast<double>(now - state.time) >= gapOf(step)) letThrough(state, now);
}

std::string phrase(const Step& step, const PhraseContext&) {
    const double change = numberOf(step, 0);
    const double gap = numberOf(step, 1);
    if (change == 0 && gap == 0) return {};
    std::string words = "thinned to";
    if (change > 0) words += " changes of " + text::withUnit(change * 100, "%");
    if (gap > 0) words += std::string(change > 0 ? "," : "") + " one every " + text::withUnit(gap, "ms");
    return words;
}

std::string flaw(const Step& step) {
    return numberOf(step, 0) >= 0 && numberOf(step, 1) >= 0 ? std::string()
                                                            : "change and gap cannot be below 0";
}

}  // namespace

const StepKind thinStep = [] {
    StepKind kind{"thin", "Thin", "Leaves out small changes and what comes too fast.", fields};
    kind.take = take;
    kind.tick = tick;
    kind.phrase = phrase;
    kind.flaw = flaw;
    kind.example = [] { return std::vector<FieldValue>{0.15, 0.0}; };
    return kind;
}();

}  // namespace mellow
