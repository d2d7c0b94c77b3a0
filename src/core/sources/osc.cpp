// OSC as a source: a number from 0 to 1 sent to an address. Any other number is clamped.
#include <array>

#include "core/sources/fields.h"

namespace mellow {

namespace {
constexpr std::array<Field, 1> fields{{
    {"address", "Address", "", Field::Type::text, 0, 0, 0, false, {}, "Such as /tile/tilt."},
}};
}  // namespace

constinit const std::span<const Field> oscFields = fields;

}  // namespace mellow
