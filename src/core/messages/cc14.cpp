// A control of fourteen bits: the pair of a control below 32, which has the high byte, and the one 32 above.
#include "core/model/ensemble.h"

namespace mellow {

namespace {

Source heard(const Message& message) {
    Source source = makeSource(SourceKind::cc14);
    source.number = message.number;
    return source;
}

}  // namespace

extern const MessageRow cc14Message{
    .kind = MessageKind::cc14,
    .name = "cc14",
    .label = "Control, 14-bit",
    .max = midi::max14,
    .numbered = true,
    .highestNumber = 31,
    .heard = heard,
};

}  // namespace mellow
