// Changes to an ensemble, as plain functions on the value.
//
// Everything that the window can do to a document's structure is here, so that it can be tested without one.
// Each function leaves the ensemble valid: new ids are unique, and what refers to something that is removed
// is removed with it. Positions out of range change nothing.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow {

/// An id made of a name ("Bass flute" gives "bass-flute"), with a number behind it where it is taken.
template<class List>
std::string newId(const List& list, std::string_view name);
std::string idFrom(std::string_view name);

/// Ids for many things that join one list: as newId, and each as quickly as the first.
class FreshIds {
 public:
    FreshIds() = default;
    template<class List>
    explicit FreshIds(const List& list) {
        for (const auto& each : list) taken_.insert(each.id);
    }
    std::string make(std::string_view name);

 private:
    std::unordered_set<std::string> taken_;
    std::unordered_map<std::string, int> next_;  ///< by what an id begins with: the number to try next
};

/// The first channel of an output port (1..16) that no instrument plays on, or 1.
int freeChannel(const Ensemble& ensemble, const std::string& port);

/// An instrument with the parameters that nearly every one listens to, on the practice rack's first free
/// channel.
Instrument newInstrument(const Ensemble& ensemble);
/// A chain from the mod wheel (or the first control that no chain of the instrument uses) to the first
/// parameter that none of its chains leads to, or to the first of all.
Chain newChain(const Instrument& instrument);
/// The first parameter, in order, that no chain of the instrument leads to; nullptr: there is none.
const Parameter* nextParameter(const Instrument& instrument);
/// A branch over the whole range of a parameter that the chain does not reach yet, if there is one.
Branch newBranch(const Instrument& instrument, const Chain& chain);
/// A branch of a shared chain over the whole range of some parameter that it does not reach yet.
Branch newSharedBranch(const Ensemble& ensemble, const Chain& chain);
/// A shared chain from the mod wheel to a tie line, or to a parameter where there is none.
Chain newSharedChain(const Ensemble& ensemble);
Parameter newParameter(const Instrument& instrument);
/// Gives a parameter another law. What the law can say of its range, unit and rest stays; what it cannot is
/// told, a sentence each.
std::vector<std::string> changeLaw(Parameter& parameter, Law law);
TieLine newTieLine(const Ensemble& ensemble);
/// A control that a chain does not use yet, for its chooser or a combine step.
Source ccSource(const Ensemble& ensemble, const Chain& chain);
/// A branch over the whole range of a parameter.
Branch wholeBranch(const Parameter& parameter);
/// A branch over the whole range of whatever a target names; nothing when it names nothing.
std::optional<Branch> wholeBranch(const Ensemble& ensemble, const Instrument* instrument,
                                  const std::string& target);
/// Every target that a chain can lead to: its instrument's parameters, or all instruments' where it is null;
/// then the tie lines.
std::vector<std::string> targetsFor(const Ensemble& ensemble, const Instrument* instrument);

/// Fills in what a source's kind refers to with the first there is, where it names nothing that exists.
void giveReferences(const Ensemble& ensemble, Source& source);

/// Copies, with new ids and "copy" in the name, put behind the original. Returns the copy's id.
std::string duplicateInstrument(Ensemble& ensemble, std::string_view id);
std::string duplicateChain(std::vector<Chain>& chains, std::string_view id);

/// Removes a parameter and every branch that leads to it, those of shared chains included.
void removeParameter(Ensemble& ensemble, Instrument& instrument, std::string_view id);
/// Removes an instrument, and what leads to it from shared chains.
void removeInstrument(Ensemble& ensemble, std::string_view id);
/// Removes a tie line and every branch that leads to it. Chains that read it are kept, for checks to name.
void removeTieLine(Ensemble& ensemble, std::string_view id);

// New ids for things by their place; what referred to the old one refers to the new one, unless an earlier
// thing has the old one too, to which it referred.
void renewInstrument(Ensemble& ensemble, std::size_t place);
void renewParameter(Ensemble& ensemble, std::size_t instrument, std::size_t place);
void renewTieLine(Ensemble& ensemble, std::size_t place);
void renewController(Ensemble& ensemble, std::size_t place);
void renewControl(Ensemble& ensemble, std::size_t controller, std::size_t place);

/// Moves an element of a list from one place to another.
template<class List>
void moveWithin(List& list, std::size_t from, std::size_t to) {
    if (from >= list.size() || to >= list.size()) return;
    auto element = std::move(list[from]);
    list.erase(list.begin() + static_cast<std::ptrdiff_t>(from));
    list.insert(list.begin() + static_cast<std::ptrdiff_t>(to), std::move(element));
}

template<class List>
std::string newId(const List& list, std::string_view name) {
    const std::string base = idFrom(name);
    std::string id = base;
    for (int number = 2; findById(list, id) != nullptr; ++number) id = base + "-" + std::to_string(number);
    return id;
}

}  // namespace mellow
