// A source: what moves a chain, or one of its `combine` steps, or the chooser of its fan.
//
// Most sources are messages and differ in little: a kind, a number, who may send it. Generators and encoders
// have settings of their own, which their kind describes as fields (kinds.h). What a source refers to (a
// controller, one of its controls, a tie line) is kept by id.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/midi/zone.h"
#include "core/model/desk.h"
#include "core/model/field.h"
#include "core/model/kinds.h"

namespace mellow {

enum class Rest { low, middle };

inline constexpr int anyNumber = -1;

struct Source {
    SourceKind kind = SourceKind::cc;
    int number = 0;              ///< of the kinds that have one; anyNumber: whatever it is (program only)
    std::optional<int> channel;  ///< 1..16; absent: any
    std::string controller;      ///< a controller's id; empty: any port
    std::string control;         ///< of the kind `control`: an id within the controller
    std::string tieLine;         ///< of the kind `tieLine`
    std::optional<Rest> rest;
    std::vector<FieldValue> values;  ///< one for each of the kind's fields
    Extras extras;
    bool operator==(const Source&) const = default;
};

/// A source of a kind with every field at its start.
Source makeSource(SourceKind kind);

double numberOf(const Source& source, std::size_t field);
int choiceOf(const Source& source, std::size_t field);
const std::string& textOf(const Source& source, std::size_t field);

/// The element of the desk, and its axis, that a source of the kind `desk` is.
const std::string& elementOf(const Source& source);
Axis axisOf(const Source& source);

/// What one finger does on a keyboard that knows each of them, and of which note it counts.
enum class Finger { bend, slide, pressure };
enum class WhichNote { newest, highest, lowest };
/// What a source of the kind `zoneNote` is.
struct ZoneNote {
    Finger takes = Finger::bend;
    WhichNote of = WhichNote::newest;
    midi::Zone zone = midi::Zone::lower;
    double range = 2;  ///< of a bend: semitones up and down from the middle of its travel
};
ZoneNote zoneNoteOf(const Source& source);

/// True of text that can be an OSC address here: one word that begins with a slash.
bool isOscAddress(std::string_view text);

/// Why the source cannot move anything as written, going by its own values; empty when it can.
std::string flawOf(const Source& source);

}  // namespace mellow
