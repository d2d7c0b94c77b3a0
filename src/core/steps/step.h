// A step: one transform on the way from a source to a target.
//
// A step in the document is its kind and the values of the kind's fields. A kind is described once, in its
// own file of this folder: what it is called, which fields it has (with their units, limits and what they
// start as), its arithmetic, and how a musician would say what it does. The editor, the JSON, the sentence
// and the checks are all read off that description; registry.cpp lists the kinds, and is the only other place
// that a new one touches.
//
// A stateless kind is a function of position. A kind with memory is a small state machine: take() gives it an
// input, tick() moves it on by one point of the 1 ms grid, and its output stands in between (signal rules,
// sections 2, 3 and 7). The state is handed in, so that a step stays a value.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/step.h"
#include "core/time.h"

namespace mellow {

/// What can happen at an instrument beside a value's coming: a note begins, the sustain pedal goes down.
enum class Cue : std::uint8_t { none, noteOn, pedalDown };

/// What a step with memory remembers. `output` is its present value.
struct StepState {
    double input = 0;
    double output = 0;
    Microseconds time = 0;  ///< when output was let through, for kinds that ask
    double other = 0;       ///< where the second source stands, for kinds that name one
    bool started = false;   ///< an input has come
    bool moving = false;    ///< the clock alone would change the output
    bool stirred = false;   ///< the second source has spoken since the step was last taken through
};

/// What a sentence about a step needs to know of its surroundings.
struct PhraseContext {
    int sourceMax = 0;   ///< the raw maximum where the step stands directly behind a source, else 0
    std::string second;  ///< the name of the step's second source, if it has one
};

struct StepKind {
    std::string_view name;   ///< in the document
    std::string_view label;  ///< on screen
    std::string_view help;   ///< one sentence: what it is for
    std::span<const Field> fields;
    bool namesSource = false;  ///< it has a second source, `with`
    /// Stateless arithmetic: position in, any number out (the caller clamps). Null for kinds with memory,
    /// unless what they remember only matters where this is not a number.
    double (*shape)(const Step&, double p) = nullptr;
    /// The same for many positions, where doing them together saves work. Null: one by one.
    void (*shapeAll)(const Step&, std::span<double> positions) = nullptr;
    /// Memory: an input arrives; sets state.output. Null for stateless kinds.
    void (*take)(const Step&, StepState&, double input, Microseconds now) = nullptr;
    /// Memory that moves by itself: a grid point passes; may move state.output. Null for kinds that wait.
    void (*tick)(const Step&, StepState&, Microseconds now) = nullptr;
    /// The step in a few words ("eased in"), or nothing where it changes nothing.
    std::string (*phrase)(const Step&, const PhraseContext&) = nullptr;
    /// Why the step has no meaning as its values are, beyond what strict fields say; empty when it has one.
    std::string (*flaw)(const Step&) = nullptr;
    /// Memory: something happened at the instrument; may move state.output. Null for kinds that do not care.
    void (*hear)(const Step&, StepState&, Cue cue) = nullptr;
    /// Memory: what it comes to in the end depends on more than its newest input.
    bool recalls = false;
    /// Memory: where an input comes to in the end, for pictures. Null: where it is.
    double (*settled)(const Step&, double p) = nullptr;
    /// Values that show best what it does, for pictures. Null: as it starts.
    std::vector<FieldValue> (*example)() = nullptr;
    /// What a step needs beside its values to be quick. Null: nothing.
    std::shared_ptr<const void> (*prepare)(const Step&) = nullptr;

    [[nodiscard]] bool remembers() const { return take != nullptr; }
};

/// Every kind that the format knows, in the order in which a menu lists them.
std::span<const StepKind* const> stepKinds();
const StepKind* findStepKind(std::string_view name);

/// A step of a kind with every field at its start.
Step makeStep(const StepKind& kind);

/// Makes steps quick that one owner will apply again and again.
void prepare(std::vector<Step>& steps);

double numberOf(const Step& step, std::size_t field);
int choiceOf(const Step& step, std::size_t field);
const std::vector<Point>& pointsOf(const Step& step, std::size_t field);
const std::vector<std::string>& namesOf(const Step& step, std::size_t field);
const std::string& textOf(const Step& step, std::size_t field);

/// A place on the travel in words: the source's raw value where the step stands directly behind it, else per
/// cent.
std::string placeText(double p, const PhraseContext& context);

/// Stateless arithmetic with its result clamped to a position.
double shapePosition(const Step& step, double p);
/// The same for many positions.
void shapePositions(const Step& step, std::span<double> positions);

/// The steps that are on, in order.
std::vector<Step> stepsThatAreOn(const std::vector<Step>& steps);

/// Where steps take a position in the end, those with memory included. other: where the second source of the
/// first step that has one stands; −1: nothing is known of it, and what joins changes nothing.
double settledPosition(std::span<const Step> steps, double p, double other = -1);

/// γ(b) = 8^b, the exponent behind `bend`.
double bendExponent(double amount);

/// Why the step cannot run as written ("amount 3 is outside −1 to 1"), or nothing when it can.
std::string flawOf(const Step& step);

}  // namespace mellow
