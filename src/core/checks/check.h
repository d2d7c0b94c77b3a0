// Checks: what is wrong with an ensemble, where, and how to mend it.
//
// Each rule is a file of this folder. Some findings say that a chain cannot run as written; the compiler
// leaves exactly those chains and branches out, so that what the composer is told and what is played can
// never disagree. Where an edit would cure what was found, the finding carries it, ready to be made.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/model/directory.h"
#include "core/model/ensemble.h"
#include "core/result.h"

namespace mellow {

enum class Severity { trouble, note };

/// How far a finding keeps things from running.
enum class Stops { nothing, branch, chain, instrument };

/// Where in the ensemble, by index, for a window that wants to show it. Absent parts are not meant.
struct Place {
    std::optional<std::size_t> instrument;
    std::optional<std::size_t>
        chain;  ///< of the instrument; of the shared chains when there is no instrument
    std::optional<std::size_t> branch;
    bool operator==(const Place&) const = default;
};

/// An edit that cures what was found. It is made for the ensemble that was looked at; on one in which the
/// place is another thing now, it changes nothing.
struct Mend {
    std::string name;  ///< what it does, as a button says it: "Remove the branch"
    std::function<void(Ensemble&)> edit;
};

struct Finding {
    Severity severity = Severity::trouble;
    Stops stops = Stops::nothing;
    Place place;
    Problem problem;          ///< where: the place in words
    std::vector<Mend> mends;  ///< the likeliest first; none where only a person can know
    std::size_t rule = 0;  ///< its place in the list of rules, by which findings about one place are sorted
};

using Findings = std::vector<Finding>;

/// Every finding: troubles first, each in document order. Who asks again after each edit keeps a Checker
/// (checker.h).
Findings check(const Ensemble& ensemble);

/// What of a chain does not run. A fault that lies in one branch stops that branch alone, which keeps its
/// place in a chosen fan.
struct StoppedChain {
    bool whole = false;                 ///< the chain is switched off, or a finding stops it
    std::vector<std::size_t> branches;  ///< those that findings stop, by place, rising
    bool operator==(const StoppedChain&) const = default;
    /// Takes in what a finding about the chain stops.
    void add(const Finding& finding);
};
using StoppedChains = std::vector<StoppedChain>;

/// A chain as it runs: branches that findings stop are switched off.
Chain asItRuns(Chain chain, const StoppedChain& stopped);

/// What does not run: what a finding stops, and what is switched off.
struct Stopped {
    std::vector<bool> instruments;
    std::vector<StoppedChains> chains;  ///< for each instrument
    StoppedChains shared;               ///< shared chains
    std::vector<StoppedChains> alone;   ///< as `chains`, by what can be told from the instrument alone
};
/// known: for each instrument what `alone` was when it was looked at before, or nullptr to look at it. An
/// instrument may be known as long as it and all that it refers to are the same.
Stopped stoppedBy(const Directory& directory, const std::vector<const StoppedChains*>& known = {});

}  // namespace mellow
