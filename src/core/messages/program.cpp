// A program change, with its bank before it where it names one.
#include <algorithm>

#include "core/model/ensemble.h"

namespace mellow {

namespace {

Source heard(const Message&) {
    return makeSource(SourceKind::program);
}

std::optional<MessageFlaw> flaw(const Message& message) {
    const auto isData = [](int value) { return value >= 0 && value <= midi::max7; };
    if (!message.bank || std::all_of(message.bank->begin(), message.bank->end(), isData)) return std::nullopt;
    return MessageFlaw{"its bank is outside 0 to 127", "Use the nearest that can be", [](Parameter& mended) {
                           if (!mended.message.bank) return;
                           for (int& half : *mended.message.bank) half = std::clamp(half, 0, midi::max7);
                       }};
}

}  // namespace

extern const MessageRow programMessage{
    .kind = MessageKind::program,
    .name = "program",
    .label = "Program change",
    .max = midi::max7,
    .numbered = false,
    .part = "bank",
    .heard = heard,
    .flaw = flaw,
};

}  // namespace mellow
