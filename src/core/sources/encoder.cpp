// How makers have encoded a step up or down in seven bits: as a number of two's complement, as an offset from
// 64, or with a sign bit. One step moves the inner position by speed/127.
#include "core/sources/encoder.h"

#include <array>

#include "core/sources/fields.h"

namespace mellow {

namespace {

enum Encoding { twos, offset, sign };
constexpr std::array<std::string_view, 3> encodings{"twos", "offset", "sign"};
constexpr double fastest = 64;

constexpr std::array<Field, 2> fields{{
    {"encoding", "Encoding", "", Field::Type::choice, 0, 2, twos, false, encodings, "How it writes a step."},
    {"speed",
     "Speed",
     "",
     Field::Type::number,
     -fastest,
     fastest,
     1,
     false,
     {},
     "How far one step goes, in 127ths.",
     true},
}};

int stepsOf(int encoding, int value) {
    switch (encoding) {
        case twos:
            return value == 64 ? 0 : value < 64 ? value : value - 128;
        case offset:
            return value - 64;
        default:
            return value < 64 ? value : 64 - value;
    }
}

}  // namespace

constinit const std::span<const Field> encoderFields = fields;

namespace {

MessageKeys hears(const Source& source) {
    return {source.number};
}

}  // namespace

extern const SourceRow relativeSource{
    .kind = SourceKind::relative,
    .name = "relative",
    .label = "Relative encoder",
    .max = 0,
    .numbered = true,
    .origin = Origin::message,
    .fields = fields,
    .help = "An endless knob, which sends steps instead of places.",
    .hears = hears,
};

double encoderMove(const Source& source, int value) {
    return stepsOf(choiceOf(source, 0), value) * numberOf(source, 1) / 127;
}

}  // namespace mellow
