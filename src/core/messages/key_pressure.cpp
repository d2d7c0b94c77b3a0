// Pressure on a single key, sent to every key that sounds.
#include "core/model/ensemble.h"

namespace mellow {

namespace {

Source heard(const Message&) {
    return makeSource(SourceKind::keyPressure);
}

}  // namespace

extern const MessageRow keyPressureMessage{
    .kind = MessageKind::keyPressure,
    .name = "keyPressure",
    .label = "Key pressure",
    .max = midi::max7,
    .numbered = false,
    .stays = false,
    .heard = heard,
};

}  // namespace mellow
