// A part: what is taken out of an ensemble to be used again.
//
// What is copied, what is given to another instrument and what lies in the library are one thing: some
// instruments, controllers, chains, branches, steps or elements of the desk, and beside them as much of their
// surroundings as they need to be understood elsewhere: the parameters that chains lead to, the controllers
// and tie lines that sources name. As text it is JSON like the document's, with a name and a sentence where
// it lies in a library.
#pragma once

#include <string>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow {

struct Part {
    std::string name;
    std::string about;  ///< one sentence: what it is for
    /// The parts proper. Chains beside an instrument are its own; these are an instrument's or shared ones.
    std::vector<Instrument> instruments;
    std::vector<Controller> controllers;
    std::vector<Chain> chains;
    std::vector<Branch> branches;
    std::vector<Step> steps;
    std::vector<DeskElement> elements;
    // What they refer to. A parameter's id is written as a branch's target would be.
    std::vector<Parameter> parameters;
    std::vector<Articulation> articulations;  ///< which those of them choose that choose one
    std::vector<Controller> usedControllers;
    std::vector<TieLine> tieLines;
    /// What was measured of its instruments; each carries its curve (core/balance/curve_folder.h).
    std::vector<KeptCurve> measurements;
    Extras extras;
    bool operator==(const Part&) const = default;

    /// Whether there is anything in it to use.
    [[nodiscard]] bool isEmpty() const {
        return instruments.empty() && controllers.empty() && chains.empty() && branches.empty() &&
               steps.empty() && elements.empty() && parameters.empty();
    }
};

}  // namespace mellow
