// Checks: what is wrong with an ensemble, where, and how to mend it.
//
// Each rule is a file of this folder: a function that looks at the whole ensemble and adds findings. Some
// findings say that a chain cannot run as written; the compiler leaves exactly those chains out, so that what
// the composer is told and what is played can never disagree.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/model/directory.h"
#include "core/model/ensemble.h"
#include "core/result.h"

namespace mellow {

enum class Severity { trouble, note };

/// How far a finding keeps things from running.
enum class Stops { nothing, chain, instrument };

/// Where in the ensemble, by index, for a window that wants to show it. Absent parts are not meant.
struct Place {
    std::optional<std::size_t> instrument;
    std::optional<std::size_t>
        chain;  ///< of the instrument; of the shared chains when there is no instrument
    std::optional<std::size_t> branch;
};

struct Finding {
    Severity severity = Severity::trouble;
    Stops stops = Stops::nothing;
    Place place;
    Problem problem;  ///< where: the place in words
};

using Findings = std::vector<Finding>;

/// Every finding: troubles first, each in document order.
Findings check(const Ensemble& ensemble);

/// What does not run: what a finding stops, and what is switched off.
struct Stopped {
    std::vector<bool> instruments;
    std::vector<std::vector<bool>> chains;  ///< for each instrument
    std::vector<bool> shared;               ///< shared chains
    std::vector<std::vector<bool>> alone;   ///< as `chains`, by what can be told from the instrument alone
};
/// known: for each instrument what `alone` was when it was looked at before, or nullptr to look at it. An
/// instrument may be known as long as it and all that it refers to are the same.
Stopped stoppedBy(const Directory& directory, const std::vector<const std::vector<bool>*>& known = {});

}  // namespace mellow
