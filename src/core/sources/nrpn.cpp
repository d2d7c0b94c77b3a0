// A parameter that is not registered: as an RPN, chosen by two other controls.
#include "core/model/source.h"

namespace mellow {

namespace {

MessageKeys hears(const Source&) {
    return {midi::dataEntry, midi::dataEntryLow, midi::dataIncrement, midi::dataDecrement};
}

}  // namespace

extern const SourceRow nrpnSource{
    .kind = SourceKind::nrpn,
    .name = "nrpn",
    .label = "NRPN",
    .max = midi::max14,
    .numbered = true,
    .highestNumber = midi::max14,
    .origin = Origin::message,
    .fields = {},
    .help = "",
    .hears = hears,
};

}  // namespace mellow
