// A control of fourteen bits: a pair of controls, put together by midi::Pairs (signal rules, section 5).
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source& source) {
    return {source.number, source.number + midi::pairCount};
}

}  // namespace

extern const SourceRow cc14Source{
    .kind = SourceKind::cc14,
    .name = "cc14",
    .label = "Control, 14-bit",
    .max = midi::max14,
    .numbered = true,
    .highestNumber = 31,
    .origin = Origin::message,
    .fields = {},
    .help = "A control that sends a pair of numbers, the second 32 above the first.",
    .hears = hears,
};

}  // namespace mellow
