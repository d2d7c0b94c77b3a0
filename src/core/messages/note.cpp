// A note or key switch that is held while its value is in the upper half.
#include <algorithm>

#include "core/model/ensemble.h"

namespace mellow {

namespace {

Source heard(const Message& message) {
    Source source = makeSource(SourceKind::key);
    source.number = message.number;
    return source;
}

std::optional<MessageFlaw> flaw(const Message& message) {
    if (message.velocity >= 1 && message.velocity <= midi::max7) return std::nullopt;
    return MessageFlaw{"velocity " + std::to_string(message.velocity) + " is outside 1 to 127",
                       "Use the nearest that can be", [](Parameter& mended) {
                           mended.message.velocity = std::clamp(mended.message.velocity, 1, midi::max7);
                       }};
}

}  // namespace

extern const MessageRow noteMessage{
    .kind = MessageKind::note,
    .name = "note",
    .label = "Note or key switch",
    .max = midi::max7,
    .numbered = true,
    .part = "velocity",
    .stays = false,
    .heard = heard,
    .flaw = flaw,
};

}  // namespace mellow
