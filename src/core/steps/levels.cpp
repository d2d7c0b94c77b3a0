// Levels: a smooth travel becomes a few steps, each of which may have a name, as half-pedalling or a row of
// articulations needs.
//
// Signal rules, section 2: level k = min(N − 1, floor(p·N)), left upward only at p·N ≥ k + 1 + h and downward
// only at p·N < k − h, so that a control that trembles on an edge does not chatter; the result is k/(N − 1).
// The first input is taken as if there were no hysteresis.
#include <algorithm>
#include <array>
#include <cmath>

#include "core/steps/kinds.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

constexpr double most = 128;

constexpr std::array<Field, 3> fields{{
    {"count", "Levels", "", Field::Type::whole, 2, most, 3, true, {}, "How many levels there are."},
    {"hysteresis",
     "Hysteresis",
     "",
     Field::Type::number,
     0,
     1,
     0.1,
     false,
     {},
     "How far past an edge the control must go, in widths of a level."},
    {"names", "Names", "", Field::Type::names, 0, 0, 0, false, {}, "A name a level, lowest first.", true},
}};

int levelAt(double scaled, int count) {
    return std::clamp(static_cast<int>(std::floor(scaled)), 0, count - 1);
}

double settled(const Step& step, double p) {
    const int count = static_cast<int>(numberOf(step, 0));
    return static_cast<double>(levelAt(p * count, count)) / (count - 1);
}

void take(const Step& step, StepState& state, double input, Microseconds) {
    const int count = static_cast<int>(numberOf(step, 0));
    const double hysteresis = numberOf(step, 1);
    const double scaled = input * count;
    const int level = static_cast<int>(std::lround(state.output * (count - 1)));
    const bool leaves = scaled >= level + 1 + hysteresis || scaled < level - hysteresis;
    if (!state.started || leaves) state.output = static_cast<double>(levelAt(scaled, count)) / (count - 1);
    state.input = input;
    state.started = true;
}

std::string phrase(const Step& step, const PhraseContext&) {
    const auto& names = namesOf(step, 2);
    const std::string count = "in " + text::plain(numberOf(step, 0)) + " levels";
    return names.empty() ? count : count + " (" + text::listed(names) + ")";
}

std::string flaw(const Step& step) {
    return numberOf(step, 1) >= 0 ? std::string() : "the hysteresis cannot be below 0";
}

}  // namespace

const StepKind levelsStep = [] {
    StepKind kind{"levels", "Levels", "Turns a smooth travel into a few steps.", fields};
    kind.settled = settled;
    kind.take = take;
    kind.phrase = phrase;
    kind.flaw = flaw;
    return kind;
}();

}  // namespace mellow
