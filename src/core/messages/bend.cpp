// Pitch bend, fourteen bits around a centre.
#include "core/model/ensemble.h"

namespace mellow {

namespace {

Source heard(const Message&) {
    return makeSource(SourceKind::bend);
}

}  // namespace

extern const MessageRow bendMessage{
    .kind = MessageKind::bend,
    .name = "bend",
    .label = "Pitch bend",
    .max = midi::max14,
    .numbered = false,
    .heard = heard,
};

}  // namespace mellow
