// Channel pressure, in the only data byte.
#include "core/midi/message_key.h"
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source&) {
    return {static_cast<int>(midi::pressureKey)};
}

int value(const Source&, midi::Bytes message, int) {
    return message[1];
}

}  // namespace

extern const SourceRow pressureSource{
    .kind = SourceKind::pressure,
    .name = "pressure",
    .label = "Channel pressure",
    .max = midi::max7,
    .numbered = false,
    .origin = Origin::message,
    .fields = {},
    .help = "",
    .hears = hears,
    .value = value,
};

}  // namespace mellow
