// A key as a button: full while it is held on any channel that is listened to. Whether it is, the engine
// knows.
#include "core/midi/message_key.h"
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source&) {
    return {static_cast<int>(midi::noteOnKey), static_cast<int>(midi::noteOffKey)};
}

}  // namespace

extern const SourceRow keySource{
    .kind = SourceKind::key,
    .name = "key",
    .label = "Key as a button",
    .max = midi::max7,
    .numbered = true,
    .origin = Origin::note,
    .fields = {},
    .help = "Full while the key is held; it does not sound.",
    .hears = hears,
};

}  // namespace mellow
