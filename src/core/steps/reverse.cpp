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

const StepKind reverseStep{
    "reverse", "Reverse", "Turns the travel round: up becomes down.", {}, true, shape, nullptr, nullptr,
    phrase,    nullptr};

}  // namespace mellow
