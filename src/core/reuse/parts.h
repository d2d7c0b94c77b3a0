// Taking parts out of an ensemble, and putting them into one.
//
// A part takes what it refers to along (model/part.h), so that it can be put anywhere: its targets are
// matched to what is there (matching.h) or made, a reach is carried over between ranges that differ by its
// place in the range, and a source that names a control of a controller finds that control, or one that sends
// the same, or becomes the message itself, so that it works at once. Ids are made anew where they are taken.
#pragma once

#include <set>
#include <string>
#include <vector>

#include "core/model/part.h"
#include "core/reuse/matching.h"

namespace mellow::reuse {

/// All that chains of an owner (an instrument's id, or sharedOwner) can lead to, with targets for ids.
std::vector<Parameter> targetsOf(const Ensemble& ensemble, const std::string& owner);

// Taking. What does not exist is left out.
Part takeInstrument(const Ensemble& ensemble, const std::string& id);
/// With the shared chains that follow this controller alone, where `chains`.
Part takeController(const Ensemble& ensemble, const std::string& id, bool chains);
Part takeChains(const Ensemble& ensemble, const std::string& owner, const std::vector<std::string>& ids);
Part takeBranches(const Ensemble& ensemble, const std::string& owner, const std::vector<Branch>& branches);
Part takeSteps(const Ensemble& ensemble, const std::vector<Step>& steps);
/// As they are, without chains: what an element moves is another ensemble's affair.
Part takeElements(const Ensemble& ensemble, const std::set<std::string>& ids);

/// What the chains and branches of a part lead to, matched to what an owner has.
Matches proposal(const Ensemble& ensemble, const std::string& owner, const Part& part);

// Putting. matches: of the part's parameters. What they leave out is left out, and a chain that then leads
// nowhere comes without targets.
/// Behind the owner's chains, or behind the chain `behind`. Returns the new ids.
std::vector<std::string> putChains(Ensemble& ensemble, const std::string& owner, const Part& part,
                                   const Matches& matches, std::string_view behind = {});
/// The branches, fit for that owner; parameters that are to be made are made.
std::vector<Branch> putBranches(Ensemble& ensemble, const std::string& owner, const Part& part,
                                const Matches& matches);
std::vector<Step> putSteps(Ensemble& ensemble, const Part& part);
/// Onto a page of the desk, where there is room for them. Returns the ids of those that found some.
std::vector<std::string> putElements(Ensemble& ensemble, const std::string& page, const Part& part);
/// At the end, on a free channel where its own is taken, with what was measured of it. Returns the new ids.
std::vector<std::string> putInstruments(Ensemble& ensemble, const Part& part);
/// At the end, or in the place of one of the same name and controls. Returns their ids.
std::vector<std::string> putControllers(Ensemble& ensemble, const Part& part);

/// What stood here and what took its place, in words: for a person.
struct LeftOver {
    std::string what;   ///< "Rasp"
    std::string where;  ///< the chain that used it
};

/// An instrument takes another's parameters; its chains lead to them as matches say. Its ports, name and
/// sound stay. What is left over is returned; its branches go.
std::vector<LeftOver> swapInstrument(Ensemble& ensemble, const std::string& id, const Instrument& other,
                                     const Matches& matches);
/// A controller's controls are replaced by another's; every source that named one of them, or its message on
/// its port, follows as matches say. What is left over keeps its message, so that nothing falls silent
/// unseen.
std::vector<LeftOver> swapController(Ensemble& ensemble, const std::string& id, const Controller& other,
                                     const Matches& matches);

}  // namespace mellow::reuse
