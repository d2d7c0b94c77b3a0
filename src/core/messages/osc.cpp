// A number in display units, sent to an OSC address.
#include "core/model/edit.h"
#include "core/model/ensemble.h"

namespace mellow {

namespace {

Source heard(const Message& message) {
    Source source = makeSource(SourceKind::osc);
    source.values[0] = message.address;
    return source;
}

std::string phrase(const Message& message) {
    return "OSC " + message.address;
}

std::optional<MessageFlaw> flaw(const Message& message) {
    if (isOscAddress(message.address)) return std::nullopt;
    return MessageFlaw{"an OSC address begins with / and is one word", "Make an address of its name",
                       [](Parameter& mended) { mended.message.address = "/" + idFrom(nameOf(mended)); }};
}

}  // namespace

extern const MessageRow oscMessage{
    .kind = MessageKind::osc,
    .name = "osc",
    .label = "OSC",
    .max = midi::max7,
    .numbered = false,
    .part = "address",
    .heard = heard,
    .phrase = phrase,
    .flaw = flaw,
};

}  // namespace mellow
