// An articulation of the instrument, chosen by name: a parameter whose choices are what the instrument can
// play, and whose message is whatever the chosen one is selected by (signal rules, section 10).
#include "core/model/ensemble.h"

namespace mellow {

extern const MessageRow articulationMessage{
    .kind = MessageKind::articulation,
    .name = "articulation",
    .label = "Articulation",
    .max = midi::max7,
    .numbered = false,
    .heard = nullptr,
};

}  // namespace mellow
