// OSC as a source: a number from 0 to 1 sent to an address. Any other number is clamped.
#include <array>

#include "core/model/source.h"

namespace mellow {

namespace {
constexpr std::array<Field, 1> fields{{
    {"address", "Address", "", Field::Type::text, 0, 0, 0, false, {}, "Such as /tile/tilt."},
}};
}  // namespace

extern const SourceRow oscSource{
    .kind = SourceKind::osc,
    .name = "osc",
    .label = "OSC",
    .max = 0,
    .numbered = false,
    .origin = Origin::message,
    .fields = fields,
    .help = "A number from 0 to 1 sent to an OSC address.",
};

}  // namespace mellow
