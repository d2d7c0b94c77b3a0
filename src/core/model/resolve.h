// What references stand for.
//
// A source may name a control of a controller instead of a message, so that the keyboard can be swapped
// without touching the chains; a branch may lead to a parameter of its instrument, to a tie line, or from a
// shared chain to a parameter of any instrument. Here such names are followed, once, for everybody.
#pragma once

#include <optional>

#include "core/model/directory.h"
#include "core/model/ensemble.h"
#include "core/model/law.h"

namespace mellow {

/// The source as a message: a `control` becomes what the control sends, from its controller's port, resting
/// where the control rests. Other sources are as they are. A control that does not exist stays a `control`.
Source resolved(const Directory& directory, const Source& source);

/// The source that a control which sends a message is; of one that no control sends, a source that hears
/// nothing.
Source sourceOf(const Message& message);

/// Where a resolved source stands before it has spoken: a position.
double restOf(const Directory& directory, const Source& source);

/// The port that a source listens to; nullptr: any, or its controller does not exist.
const std::string* portOf(const Directory& directory, const Source& source);
/// Whether what comes in at a port comes to a source (resolved) of a chain; owner: nullptr of a shared one.
bool isHeardFrom(const Directory& directory, const Instrument* owner, const Source& source,
                 const std::string& port);

/// The handover that a chain asks for, or its source's controller, or `jump`.
Handover handoverOf(const Directory& directory, const Chain& chain);

/// A branch's end: a parameter, a tie line, the hand, or nothing.
struct Target {
    const Instrument* instrument = nullptr;
    const Parameter* parameter = nullptr;
    const TieLine* tieLine = nullptr;
    const Ensemble* hand = nullptr;  ///< whose hand it chooses
    [[nodiscard]] bool exists() const {
        return parameter != nullptr || tieLine != nullptr || hand != nullptr;
    }
};

/// instrument: the one the chain belongs to; null for a shared chain.
Target targetOf(const Directory& directory, const Instrument* instrument, std::string_view target);

/// The range of a target in display units; a tie line's is 0 to 1, the hand's are the ids of its order.
Range rangeOf(const Target& target);
/// Its name for people: a parameter of another instrument with the instrument's in front.
std::string nameOf(const Target& target, bool withInstrument);

/// Calls visit(source) for each source of a chain: what moves it, what its `combine` steps name, its chooser.
template<class ChainType, class Visit>
void forEachSource(ChainType& chain, Visit&& visit) {
    visit(chain.source);
    const auto ofSteps = [&visit](auto& steps) {
        for (auto& step : steps) {
            if (step.on && step.with) visit(*step.with);
        }
    };
    ofSteps(chain.steps);
    for (auto& branch : chain.branches) {
        if (branch.on) ofSteps(branch.steps);
    }
    if (chain.fan.by) visit(*chain.fan.by);
}

/// The instruments that an entry of the hand's order names: one, or those of a section, in document order.
std::vector<const Instrument*> instrumentsOf(const Ensemble& ensemble, std::string_view entry);
/// The name for people of an entry of the hand's order.
std::string handName(const Ensemble& ensemble, const std::string& entry);

/// Ids of the tie lines that a chain writes, by its branches that are on, and reads, by any of its sources.
std::vector<std::string> tieLinesWritten(const Chain& chain);
std::vector<std::string> tieLinesRead(const Chain& chain);

}  // namespace mellow
