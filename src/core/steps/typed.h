// A step as somebody types it: its name, and what its numbers are to be, in order ("limit 0 70",
// "smooth 200", "window 50 100", "formula x/1.5").
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/steps/step.h"

namespace mellow {

struct TypedStep {
    std::string words;  ///< by which a kind is looked for
    std::string rest;   ///< what stands behind them: from the first word that is not letters only
    std::vector<std::string> values;  ///< the rest, number by number ("200 ms" is one)
};

TypedStep typedStep(std::string_view typed);

/// A kind's step as it starts, with the values in place of its numbers in their order; what is a share of the
/// travel is typed in per cent, and small sums may stand for numbers (text/calculation.h). The text of a kind
/// that has one is all of the rest. Nothing where they are more than the kind has or do not fit it.
std::optional<Step> stepAsTyped(const StepKind& kind, const TypedStep& typed);

}  // namespace mellow
