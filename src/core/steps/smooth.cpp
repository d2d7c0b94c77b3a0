// Smooth: takes the steps out of a 128-step control, or turns a button into a swell.
//
// At each point of the 1 ms grid the output moves towards the newest input: by a constant share of what is
// left (ease, which ends once within 1/32768), or by a constant amount. Rising and falling have their own
// times; a time of 0 follows at once. The first input is taken at once. Signal rules, section 2.
#include <algorithm>
#include <array>
#include <cmath>

#include "core/steps/kinds.h"
#include "core/text/numbers.h"

namespace mellow {

namespace {

enum Shape { ease, constant };
constexpr std::array<std::string_view, 2> shapes{"ease", "constant"};

constexpr double longest = 10000;
constexpr double near = 1.0 / 32768;

constexpr std::array<Field, 3> fields{{
    {"rise",
     "Rise",
     "ms",
     Field::Type::number,
     0,
     longest,
     20,
     false,
     {},
     "How long the result takes upward."},
    {"fall", "Fall", "ms", Field::Type::number, 0, longest, 20, false, {}, "How long it takes downward."},
    {"shape", "Shape", "", Field::Type::choice, 0, 1, ease, false, shapes,
     "Ease slows down as it arrives; constant moves at one speed."},
}};

double timeFor(const Step& step, const StepState& state) {
    return state.input > state.output ? numberOf(step, 0) : numberOf(step, 1);
}

void take(const Step& step, StepState& state, double input, Microseconds) {
    state.input = input;
    if (!state.started || timeFor(step, state) == 0) state.output = input;
    state.started = true;
    state.moving = state.output != input;
}

void tick(const Step& step, StepState& state, Microseconds) {
    if (!state.moving) return;
    const double tau = timeFor(step, state);
    const double left = state.input - state.output;
    if (tau == 0) {
        state.output = state.input;
    } else if (choiceOf(step, 2) == constant) {
        const double most = 1.0 / tau;
        state.output = std::abs(left) <= most ? state.input : state.output + (left > 0 ? most : -most);
    } else {
        state.output = state.output + left * (1.0 - std::exp(-1.0 / tau));
        if (std::abs(state.input - state.output) <= near) state.output = state.input;
    }
    state.moving = state.output != state.input;
}

std::string phrase(const Step& step, const PhraseContext&) {
    const double rise = numberOf(step, 0);
    const double fall = numberOf(step, 1);
    if (rise == 0 && fall == 0) return {};
    if (rise == fall) return "smoothed over " + text::withUnit(rise, "ms");
    return "smoothed over " + text::withUnit(rise, "ms") + " up and " + text::withUnit(fall, "ms") + " down";
}

std::string flaw(const Step& step) {
    if (numberOf(step, 0) >= 0 && numberOf(step, 1) >= 0) return {};
    return "rise and fall cannot be below 0 ms";
}

}  // namespace

const StepKind smoothStep = [] {
    StepKind kind{"smooth", "Smooth", "Glides from value to value instead of jumping.", fields};
    kind.take = take;
    kind.tick = tick;
    kind.phrase = phrase;
    kind.flaw = flaw;
    kind.example = [] { return std::vector<FieldValue>{60.0, 120.0, 0}; };
    return kind;
}();

}  // namespace mellow
