// A control of seven bits: its value is the second data byte.
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source& source) {
    return {source.number};
}

int value(const Source&, midi::Bytes message, int) {
    return message[2];
}

}  // namespace

extern const SourceRow ccSource{
    .kind = SourceKind::cc,
    .name = "cc",
    .label = "Control (CC)",
    .max = midi::max7,
    .numbered = true,
    .origin = Origin::message,
    .fields = {},
    .help = "A wheel, pedal, slider or knob.",
    .hears = hears,
    .value = value,
};

}  // namespace mellow
