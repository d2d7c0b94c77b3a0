// An element of the desk: a finger's place on it, from 0 to 1, of a pad on one of its axes.
#include <array>

#include "core/model/desk.h"
#include "core/model/ensemble_words.h"
#include "core/model/source.h"

namespace mellow {

namespace {
constexpr std::array<Field, 2> fields{{
    {"element", "Element", "", Field::Type::text, 0, 0, 0, false, {}, "The element's id."},
    {.key = "axis",
     .label = "Axis",
     .unit = "",
     .type = Field::Type::choice,
     .choices = axisWords,
     .help = "Of a pad: across, up, or how hard it is touched.",
     .sparing = true},
}};
}  // namespace

extern const SourceRow deskSource{
    .kind = SourceKind::desk,
    .name = "desk",
    .label = "Desk",
    .max = 0,
    .numbered = false,
    .origin = Origin::message,
    .fields = fields,
    .help = "An element of the desk.",
};

const std::string& elementOf(const Source& source) {
    return textOf(source, 0);
}
Axis axisOf(const Source& source) {
    return static_cast<Axis>(choiceOf(source, 1));
}

}  // namespace mellow
