// A step as the document has it: its kind, the values of the kind's fields, and a second source where the
// kind names one. What a kind is, and what its steps do, is told in steps/step.h.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "core/model/field.h"
#include "core/model/source.h"

namespace mellow {

struct StepKind;

/// What a step's kind makes of it once, so that applying it is quick. Belongs to whoever applies it: it may
/// have memory of its own, so two threads must not share one. No part of the step's value.
struct Prepared {
    std::shared_ptr<const void> made;
    bool operator==(const Prepared&) const { return true; }
};

struct Step {
    const StepKind* kind = nullptr;
    std::vector<FieldValue> values;  ///< one for each of the kind's fields, of the field's type
    std::optional<Source> with;      ///< of the kinds that name a second source
    Extras extras;
    bool on = true;  ///< an off step lets everything through as it is
    Prepared prepared = {};
    bool operator==(const Step&) const = default;
};

}  // namespace mellow
