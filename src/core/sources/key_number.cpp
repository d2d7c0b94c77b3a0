// Which key is struck, as the instrument takes it.
#include "core/midi/message_key.h"
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source&) {
    return {static_cast<int>(midi::noteOnKey)};
}

int value(const Source&, midi::Bytes, int note) {
    return note;
}

}  // namespace

extern const SourceRow keyNumberSource{
    .kind = SourceKind::keyNumber,
    .name = "keyNumber",
    .label = "Key number",
    .max = midi::max7,
    .numbered = false,
    .origin = Origin::note,
    .fields = {},
    .help = "How high on the keyboard a note is.",
    .hears = hears,
    .value = value,
    .consumes = false,
};

}  // namespace mellow
