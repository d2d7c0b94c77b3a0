// A tie line: what other chains write to it. No message moves it.
#include "core/model/source.h"

namespace mellow {

extern const SourceRow tieLineSource{
    .kind = SourceKind::tieLine,
    .name = "tieLine",
    .label = "Tie line",
    .max = 0,
    .numbered = false,
    .origin = Origin::tieLine,
    .fields = {},
    .help = "What other chains write to a tie line.",
};

}  // namespace mellow
