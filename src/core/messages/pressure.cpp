// Channel pressure, which keyboards send as aftertouch.
#include "core/model/ensemble.h"

namespace mellow {

namespace {

Source heard(const Message&) {
    return makeSource(SourceKind::pressure);
}

}  // namespace

extern const MessageRow pressureMessage{
    .kind = MessageKind::pressure,
    .name = "pressure",
    .label = "Channel pressure",
    .max = midi::max7,
    .numbered = false,
    .heard = heard,
};

}  // namespace mellow
