// The kinds of source. A row is all that most of the program knows of a kind, worded for people and for
// files. The order is that in which menus list them, and an enumerator is its row's place.
#include <algorithm>
#include <array>

#include "core/model/kinds.h"
#include "core/sources/fields.h"

namespace mellow {

namespace {

constexpr int max7 = 127;
constexpr int max14 = 16383;

const std::array<SourceRow, 19>& sourceRows() {
    using enum Origin;
    static const std::array<SourceRow, 19> rows{{
        {SourceKind::cc, "cc", "Control (CC)", max7, true, message, {}, "A wheel, pedal, slider or knob."},
        {SourceKind::cc14,
         "cc14",
         "Control, 14-bit",
         max14,
         true,
         message,
         {},
         "A control that sends a pair of numbers, the second 32 above the first."},
        {SourceKind::bend, "bend", "Pitch bend", max14, false, message, {}, ""},
        {SourceKind::pressure, "pressure", "Channel pressure", max7, false, message, {}, ""},
        {SourceKind::keyPressure,
         "keyPressure",
         "Key pressure",
         max7,
         false,
         message,
         {},
         "The pressure of whichever key was pressed newest."},
        {SourceKind::velocity, "velocity", "Velocity", max7, false, note, {}, ""},
        {SourceKind::releaseVelocity, "releaseVelocity", "Release velocity", max7, false, note, {}, ""},
        {SourceKind::key,
         "key",
         "Key as a button",
         max7,
         true,
         note,
         {},
         "Full while the key is held; it does not sound."},
        {SourceKind::keyNumber,
         "keyNumber",
         "Key number",
         max7,
         false,
         note,
         {},
         "How high on the keyboard a note is."},
        {SourceKind::program, "program", "Program change", max7, true, message, {}, ""},
        {SourceKind::rpn, "rpn", "RPN", max14, true, message, {}, ""},
        {SourceKind::nrpn, "nrpn", "NRPN", max14, true, message, {}, ""},
        {SourceKind::relative, "relative", "Relative encoder", 0, true, message, encoderFields,
         "An endless knob, which sends steps instead of places."},
        {SourceKind::control,
         "control",
         "Control of a controller",
         0,
         false,
         message,
         {},
         "A control by its name, whatever it sends."},
        {SourceKind::tieLine,
         "tieLine",
         "Tie line",
         0,
         false,
         tieLine,
         {},
         "What other chains write to a tie line."},
        {SourceKind::lfo, "lfo", "Cycle", 0, false, generator, cycleFields,
         "A shape that repeats, in Hz or in beats."},
        {SourceKind::envelope, "envelope", "Envelope", 0, false, generator, envelopeFields,
         "A course that each note starts."},
        {SourceKind::walk, "walk", "Random walk", 0, false, generator, walkFields,
         "Small steps up and down, at random."},
        {SourceKind::osc, "osc", "OSC", 0, false, message, oscFields,
         "A number from 0 to 1 sent to an OSC address."},
    }};
    return rows;
}

}  // namespace

std::span<const SourceRow> sourceKinds() {
    return sourceRows();
}
const SourceRow& row(SourceKind kind) {
    return sourceRows().at(static_cast<std::size_t>(kind));
}
const SourceRow* findSourceKind(std::string_view name) {
    const auto& rows = sourceRows();
    const auto found =
        std::find_if(rows.begin(), rows.end(), [name](const auto& r) { return r.name == name; });
    return found == rows.end() ? nullptr : &*found;
}

}  // namespace mellow
