// Reverse: up becomes down. Signal rules, section 2: 1 − p.
#include "core/steps/kinds.h"

namespace mellow {

namespace {

double shape(const Step&, double p) {
    return 1.0 - p;
}
std::string phrase(const Step&, const PhraseContext&) {
    return "reversed";
}

}  // namespace

const StepKind reverseStep = [] {
    StepKind kind{"reverse", "Reverse", "Turns the travel round: up becomes down.", {}};
    kind.shape = shape;
    kind.phrase = phrase;
    return kind;
}();

}  // namespace mellow
