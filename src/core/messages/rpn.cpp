// A registered parameter number: select, then data entry.
#include "core/model/ensemble.h"

namespace mellow {

namespace {

Source heard(const Message& message) {
    Source source = makeSource(SourceKind::rpn);
    source.number = message.number;
    return source;
}

}  // namespace

extern const MessageRow rpnMessage{
    .kind = MessageKind::rpn,
    .name = "rpn",
    .label = "RPN",
    .max = midi::max14,
    .numbered = true,
    .highestNumber = midi::max14,
    .heard = heard,
};

}  // namespace mellow
