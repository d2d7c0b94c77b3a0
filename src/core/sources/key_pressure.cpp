// The pressure of one key, whichever it is.
#include "core/midi/message_key.h"
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source&) {
    return {static_cast<int>(midi::keyPressureKey)};
}

int value(const Source&, midi::Bytes message, int) {
    return message[2];
}

}  // namespace

extern const SourceRow keyPressureSource{
    .kind = SourceKind::keyPressure,
    .name = "keyPressure",
    .label = "Key pressure",
    .max = midi::max7,
    .numbered = false,
    .origin = Origin::message,
    .fields = {},
    .help = "The pressure of whichever key was pressed newest.",
    .hears = hears,
    .value = value,
};

}  // namespace mellow
