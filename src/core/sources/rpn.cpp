// A registered parameter: chosen by two controls, entered by two others, or stepped (signal rules, section
// 5).
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source&) {
    return {midi::dataEntry, midi::dataEntryLow, midi::dataIncrement, midi::dataDecrement};
}

}  // namespace

extern const SourceRow rpnSource{
    .kind = SourceKind::rpn,
    .name = "rpn",
    .label = "RPN",
    .max = midi::max14,
    .numbered = true,
    .highestNumber = midi::max14,
    .origin = Origin::message,
    .fields = {},
    .help = "",
    .hears = hears,
};

}  // namespace mellow
