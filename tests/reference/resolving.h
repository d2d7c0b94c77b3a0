// What names in an ensemble stand for, what of it can run, and in which order: found by looking through the
// lists every time, as a person with the document in hand would.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::reference {

/// A branch's end: a parameter of an instrument, a tie line, the hand, or nothing.
struct End {
    const Instrument* instrument = nullptr;
    const Parameter* parameter = nullptr;
    const TieLine* tieLine = nullptr;
    const std::vector<std::string>* hand = nullptr;  ///< whom it can choose
};
/// The raw position of an entry of the hand's order; nothing where it has none such.
std::optional<double> entryPosition(const std::vector<std::string>& order, const Level& level);
End endOf(const Ensemble& ensemble, const Instrument* owner, const std::string& target);

/// A source as the message that it is; a control that does not exist stays one.
Source heard(const Ensemble& ensemble, const Source& source);
/// The only port that a source listens to, if there is one.
std::optional<std::string> portOf(const Ensemble& ensemble, const Source& source);
double restOf(const Ensemble& ensemble, const Source& heard);
Handover handoverOf(const Ensemble& ensemble, const Chain& chain);
bool isGenerator(const Source& source);
/// True of sources that a control's message moves, which are those that are handed over.
bool isOfControl(const Source& source);

/// What an ear of a chain is for: its source, its chooser, or a combine step of the trunk (branch −1) or of a
/// branch.
struct Ear {
    enum class For { source, chooser, combine } what = For::source;
    int branch = -1;
    int step = 0;
    // NOLINTNEXTLINE(modernize-use-nullptr): the check takes the generated comparison for a 0.
    auto operator<=>(const Ear&) const = default;
};

/// Calls visit(ear, source as written) for each ear of a chain.
template<class Visit>
void forEachEar(const Chain& chain, Visit&& visit) {
    visit(Ear{Ear::For::source, -1, 0}, chain.source);
    const auto ofSteps = [&visit](const std::vector<Step>& steps, int branch) {
        for (std::size_t i = 0; i < steps.size(); ++i) {
            if (steps[i].with) visit(Ear{Ear::For::combine, branch, static_cast<int>(i)}, *steps[i].with);
        }
    };
    ofSteps(chain.steps, -1);
    for (std::size_t b = 0; b < chain.branches.size(); ++b)
        ofSteps(chain.branches[b].steps, static_cast<int>(b));
    if (chain.fan.mode == FanMode::chosen) visit(Ear{Ear::For::chooser, -1, 0}, *chain.fan.by);
}

/// A chain and whose it is; no instrument: it is shared.
struct Placed {
    const Instrument* instrument = nullptr;
    const Chain* chain = nullptr;
};

/// A chain's turn, or that of an instrument to pass on (no chain).
using Turn = Placed;

/// What runs of an ensemble without steps that are off.
struct Running {
    std::map<std::string, bool> instruments;  ///< by id: the first with it
    std::vector<Turn> turns;                  ///< in the order of an event
    [[nodiscard]] bool has(const Chain& chain) const;
};
Running runningOf(const Ensemble& ensemble);

/// The choices of articulation parameters are the names of their instrument's articulations.
Ensemble withArticulationChoices(Ensemble ensemble);
/// Whether an articulation can be sent as it is written.
bool isSound(const Articulation& articulation);
const DeskElement* elementWith(const Ensemble& ensemble, const std::string& id);
/// Whether who is in hand may change while one plays: some chain chooses, or there is somebody to choose
/// from.
bool handCanMove(const Ensemble& ensemble);

/// A branch whose fault is its own is as if it were off.
Ensemble withoutFaultyBranches(Ensemble ensemble);
/// An off step is as if it were not there, and so are the steps of an off branch.
Ensemble withoutOffSteps(Ensemble ensemble);
/// An ensemble as the interpreter takes it, by all three.
inline Ensemble prepared(Ensemble ensemble) {
    return withoutFaultyBranches(withArticulationChoices(withoutOffSteps(std::move(ensemble))));
}

}  // namespace mellow::reference
