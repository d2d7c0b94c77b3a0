// A program change: any, or the one of its number alone.
#include "core/midi/message_key.h"
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source&) {
    return {static_cast<int>(midi::programKey)};
}

int value(const Source& source, midi::Bytes message, int) {
    return source.number == anyNumber || source.number == message[1] ? message[1] : -1;
}

}  // namespace

extern const SourceRow programSource{
    .kind = SourceKind::program,
    .name = "program",
    .label = "Program change",
    .max = midi::max7,
    .numbered = true,
    .origin = Origin::message,
    .fields = {},
    .help = "",
    .hears = hears,
    .value = value,
};

}  // namespace mellow
