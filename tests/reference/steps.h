// Every step of the signal rules, section 2, written out a second time, one case a kind.
//
// Formulas are not read: the few that tests use are known by their text, with what each means.
#pragma once

#include <cstdint>
#include <string_view>

#include "core/steps/step.h"

namespace mellow::reference {

/// What a step remembers.
struct Memory {
    bool started = false;    ///< has had an input
    double input = 0;        ///< the newest
    double result = 0;       ///< what it gives now
    double other = 0;        ///< combine: where the second source stands
    bool stirred = false;    ///< combine: the second source has spoken in this event
    bool waiting = false;    ///< thin: an input waits; smooth: it is on its way
    std::int64_t since = 0;  ///< thin: when the last was let through
};

/// True of kinds whose result depends on more than their input.
bool remembers(const Step& step);
/// The result of a kind that does not remember, clamped.
double shape(const Step& step, double p);
/// An input comes to a step that remembers.
void take(const Step& step, Memory& memory, double p, std::int64_t now);
/// A grid point passes.
void tick(const Step& step, Memory& memory, std::int64_t now);
/// True while a grid point may change something.
bool isMoving(const Step& step, const Memory& memory);
/// A note-on reaches the instrument, or the sustain pedal goes down.
void letThrough(const Step& step, Memory& memory, bool byNote);
/// Whether it can run as it is written.
bool isSound(const Step& step);

/// A field's value by its key in the document.
double number(const Step& step, std::string_view key);
double number(const Source& source, std::string_view key);
std::string_view choice(const Step& step, std::string_view key);
std::string_view choice(const Source& source, std::string_view key);

}  // namespace mellow::reference
