// A non-registered parameter number: select, then data entry.
#include "core/model/ensemble.h"

namespace mellow {

namespace {

Source heard(const Message& message) {
    Source source = makeSource(SourceKind::nrpn);
    source.number = message.number;
    return source;
}

}  // namespace

extern const MessageRow nrpnMessage{
    .kind = MessageKind::nrpn,
    .name = "nrpn",
    .label = "NRPN",
    .max = midi::max14,
    .numbered = true,
    .highestNumber = midi::max14,
    .heard = heard,
};

}  // namespace mellow
