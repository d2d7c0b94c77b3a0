// Hold: a control is set in silence and heard with the next note, or with the next tread of the pedal.
//
// Signal rules, section 2: the newest input is remembered, and goes through when a note-on reaches the
// instrument, or when the sustain pedal goes from below 64 to 64 or above. The first input goes through at
// once, as every step with memory starts from it.
#include <array>

#include "core/steps/kinds.h"

namespace mellow {

namespace {

enum Until { noteOn, pedal };
constexpr std::array<std::string_view, 2> untils{"noteOn", "pedal"};

constexpr std::array<Field, 1> fields{{
    {"until", "Until", "", Field::Type::choice, 0, 1, noteOn, false, untils, "What lets the value through."},
}};

void take(const Step&, StepState& state, double input, Microseconds) {
    state.input = input;
    if (!state.started) state.output = input;
    state.started = true;
}

void hear(const Step& step, StepState& state, Cue cue) {
    const Cue wanted = choiceOf(step, 0) == noteOn ? Cue::noteOn : Cue::pedalDown;
    if (cue == wanted) state.output = state.input;
}

std::string phrase(const Step& step, const PhraseContext&) {
    return choiceOf(step, 0) == noteOn ? "held until the next note"
                                       : "held until the sustain pedal goes down";
}

}  // namespace

const StepKind holdStep = [] {
    StepKind kind{"hold", "Hold", "Keeps a value back until the next note or tread of the pedal.", fields};
    kind.take = take;
    kind.hear = hear;
    kind.recalls = true;
    kind.phrase = phrase;
    return kind;
}();

}  // namespace mellow
