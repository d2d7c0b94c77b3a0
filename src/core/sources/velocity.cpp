// How hard a note is struck. The note goes on sounding, so it is heard and not taken.
#include "core/midi/message_key.h"
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source&) {
    return {static_cast<int>(midi::noteOnKey)};
}

int value(const Source&, midi::Bytes message, int) {
    return message[2];
}

}  // namespace

extern const SourceRow velocitySource{
    .kind = SourceKind::velocity,
    .name = "velocity",
    .label = "Velocity",
    .max = midi::max7,
    .numbered = false,
    .origin = Origin::note,
    .fields = {},
    .help = "",
    .hears = hears,
    .value = value,
    .consumes = false,
};

}  // namespace mellow
