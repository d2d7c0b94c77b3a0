// One finger of a keyboard that knows each of them: the bend, slide or pressure of the newest, highest or
// lowest note of a zone (docs/expressive-keyboards.md).
//
// It is for instruments that know one channel only. The notes go on sounding and are not taken; the messages
// of all the zone's fingers are, so that what one finger does never bends what another plays. Bend is of
// pitch: the source reaches as far as the instrument bends, whatever the keyboard's own range is, and the
// manager's bend, of the wheel, is added.
#include <array>

#include "core/midi/message_key.h"
#include "core/midi/zone.h"
#include "core/model/ensemble_words.h"
#include "core/model/source.h"

namespace mellow {

namespace {

enum Place { takesField, ofField, zoneField, rangeField };
constexpr std::array<std::string_view, 3> fingerWords{"bend", "slide", "pressure"};
constexpr std::array<std::string_view, 3> noteWords{"newest", "highest", "lowest"};
constexpr double narrowest = 0.01;  // semitones
constexpr double widest = 96;

constexpr std::array<Field, 4> fields{{
    {.key = "takes",
     .label = "What it does",
     .unit = "",
     .type = Field::Type::choice,
     .choices = fingerWords,
     .help = "What of the note: its bend, its slide (CC 74) or its pressure."},
    {.key = "of",
     .label = "Of the note",
     .unit = "",
     .type = Field::Type::choice,
     .choices = noteWords,
     .help = "Which of the notes that are held."},
    {.key = "zone",
     .label = "Zone",
     .unit = "",
     .type = Field::Type::choice,
     .choices = zoneWords,
     .help = "The zone below, from channel 1, or above, from channel 16.",
     .sparing = true},
    {"range",
     "Bend range",
     "semitones",
     Field::Type::number,
     narrowest,
     widest,
     2,
     true,
     {},
     "Of a bend: how far up and down the whole travel is; as far as the instrument bends, it is in tune.",
     true},
}};

MessageKeys hears(const Source& source) {
    const auto takes = static_cast<Finger>(choiceOf(source, takesField));
    const auto key = takes == Finger::bend    ? midi::bendKey
                     : takes == Finger::slide ? static_cast<std::size_t>(midi::slideControl)
                                              : midi::pressureKey;
    return {static_cast<int>(key), static_cast<int>(midi::noteOnKey), static_cast<int>(midi::noteOffKey)};
}

}  // namespace

extern const SourceRow zoneNoteSource{
    .kind = SourceKind::zoneNote,
    .name = "zoneNote",
    .label = "Finger of a zone",
    .max = 0,
    .numbered = false,
    .origin = Origin::note,
    .fields = fields,
    .help = "What one finger does on a keyboard that bends and presses each note by itself.",
    .hears = hears,
    .value = nullptr,
    .consumes = true,
};

ZoneNote zoneNoteOf(const Source& source) {
    return {static_cast<Finger>(choiceOf(source, takesField)),
            static_cast<WhichNote>(choiceOf(source, ofField)),
            static_cast<midi::Zone>(choiceOf(source, zoneField)), numberOf(source, rangeField)};
}

}  // namespace mellow
