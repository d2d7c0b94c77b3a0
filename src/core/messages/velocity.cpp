// The velocity of the notes that an instrument passes on from now on.
#include "core/model/ensemble.h"

namespace mellow {

namespace {

Source heard(const Message&) {
    return makeSource(SourceKind::velocity);
}

}  // namespace

extern const MessageRow velocityMessage{
    .kind = MessageKind::velocity,
    .name = "velocity",
    .label = "Velocity of passing notes",
    .max = midi::max7,
    .numbered = false,
    .stays = false,
    .heard = heard,
};

}  // namespace mellow
