// Pitch bend: fourteen bits, the least significant seven first.
#include "core/midi/message_key.h"
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source&) {
    return {static_cast<int>(midi::bendKey)};
}

int value(const Source&, midi::Bytes message, int) {
    return midi::bendOf(message);
}

}  // namespace

extern const SourceRow bendSource{
    .kind = SourceKind::bend,
    .name = "bend",
    .label = "Pitch bend",
    .max = midi::max14,
    .numbered = false,
    .origin = Origin::message,
    .fields = {},
    .help = "",
    .hears = hears,
    .value = value,
};

}  // namespace mellow
