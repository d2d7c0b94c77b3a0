// A control of seven bits: control change.
#include "core/model/ensemble.h"

namespace mellow {

namespace {

Source heard(const Message& message) {
    Source source = makeSource(SourceKind::cc);
    source.number = message.number;
    return source;
}

}  // namespace

extern const MessageRow ccMessage{
    .kind = MessageKind::cc,
    .name = "cc",
    .label = "Control (CC)",
    .max = midi::max7,
    .numbered = true,
    .heard = heard,
};

}  // namespace mellow
