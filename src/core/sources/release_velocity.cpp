// How quickly a key is let go. A note-on of velocity 0 says nothing of that, and counts as the middle (signal
// rules, section 5).
#include "core/midi/message_key.h"
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source&) {
    return {static_cast<int>(midi::noteOffKey)};
}

int value(const Source&, midi::Bytes message, int) {
    return midi::kindOf(message) == midi::noteOn ? midi::middleVelocity : message[2];
}

}  // namespace

extern const SourceRow releaseVelocitySource{
    .kind = SourceKind::releaseVelocity,
    .name = "releaseVelocity",
    .label = "Release velocity",
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
