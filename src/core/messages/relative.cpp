// An endless knob that sends steps. Of a controller only: no instrument listens to one.
#include "core/model/ensemble.h"
#include "core/sources/fields.h"

namespace mellow {

namespace {

Source heard(const Message& message) {
    Source source = makeSource(SourceKind::relative);
    source.number = message.number;
    source.values = message.values;
    return source;
}

}  // namespace

extern const MessageRow relativeMessage{
    .kind = MessageKind::relative,
    .name = "relative",
    .label = "Relative encoder",
    .max = 0,
    .numbered = true,
    .fields = encoderFields,
    .heard = heard,
};

}  // namespace mellow
