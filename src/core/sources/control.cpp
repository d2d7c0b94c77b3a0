// A control of a controller, by name: before it is heard it becomes what the controller sends
// (model/resolve.h).
#include "core/model/source.h"

namespace mellow {

extern const SourceRow controlSource{
    .kind = SourceKind::control,
    .name = "control",
    .label = "Control of a controller",
    .max = 0,
    .numbered = false,
    .origin = Origin::message,
    .fields = {},
    .help = "A control by its name, whatever it sends.",
};

}  // namespace mellow
