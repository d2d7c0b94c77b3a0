// An address names anything of the document that can be shown: one alternative a page, each by ids, so that
// it outlives edits and undo. Whatever it names may be gone, and asking for it then gives nothing.
//
// A page that comes adds its alternative here and its row in app/frame/pages.cpp; nothing else asks which
// there are.
#pragma once

#include <optional>
#include <string>
#include <variant>

#include "core/assignments/assignments.h"
#include "core/checks/check.h"
#include "core/model/ensemble.h"

namespace mellow::app {

enum class Part { instrument, source, step, branch, branchStep };

/// On the Chains page: an instrument, one of its chains, and a part of that chain.
struct Selected {
    std::string instrument;  ///< its id; sharedOwner: what belongs to the whole ensemble
    std::string chain;
    Part part = Part::instrument;
    int index = 0;  ///< of the step or branch
    int inner = 0;  ///< of the step in the branch
    bool operator==(const Selected&) const = default;
};

/// On the Gear page: a port of the document.
struct GearPlace {
    bool input = true;
    std::string port;  ///< its name; empty: none
    bool operator==(const GearPlace&) const = default;
};

/// On the Desk page: a page of the desk.
struct DeskPlace {
    std::string page;  ///< its id; empty: the first
    bool operator==(const DeskPlace&) const = default;
};

/// On the Takes page: one of the takes.
struct TakePlace {
    std::string take;  ///< its id; empty: the newest
    bool operator==(const TakePlace&) const = default;
};

/// On the Sheet page: one of its rows.
struct SheetPlace {
    AssignmentId row;  ///< naming nothing: none
    bool operator==(const SheetPlace&) const = default;
};

/// On the Balance page: an instrument.
struct BalancePlace {
    std::string instrument;  ///< its id; empty: the first
    bool operator==(const BalancePlace&) const = default;
};

using Address = std::variant<Selected, DeskPlace, TakePlace, GearPlace, SheetPlace, BalancePlace>;

/// The branch of a row on the Chains page, or its source where it leads nowhere. row: of a chain.
Selected selectedOf(const AssignmentId& row);

/// Where something that checks found can be seen and mended.
Address addressOf(const Ensemble& ensemble, const Place& place);

template<class EnsembleType>
auto* instrumentOf(EnsembleType& ensemble, const Selected& selected) {
    return findById(ensemble.instruments, selected.instrument);
}

/// The chains among which the selected one is: an instrument's, or the shared ones; nullptr when there is no
/// such instrument.
template<class EnsembleType>
auto* chainsOf(EnsembleType& ensemble, const Selected& selected) {
    auto* instrument = instrumentOf(ensemble, selected);
    using Chains = decltype(&ensemble.sharedChains);
    if (selected.instrument == sharedOwner) return &ensemble.sharedChains;
    return instrument == nullptr ? Chains{} : &instrument->chains;
}

template<class EnsembleType>
auto* chainOf(EnsembleType& ensemble, const Selected& selected) {
    auto* chains = chainsOf(ensemble, selected);
    using ChainPointer = decltype(&chains->front());
    return chains == nullptr ? ChainPointer{} : findById(*chains, selected.chain);
}

template<class EnsembleType>
auto* branchOf(EnsembleType& ensemble, const Selected& selected) {
    auto* chain = chainOf(ensemble, selected);
    using BranchPointer = decltype(&chain->branches.front());
    const bool there =
        chain != nullptr && selected.index >= 0 && selected.index < static_cast<int>(chain->branches.size());
    return there ? &chain->branches[static_cast<std::size_t>(selected.index)] : BranchPointer{};
}

/// The selected step, in the trunk or in a branch.
template<class EnsembleType>
auto* stepOf(EnsembleType& ensemble, const Selected& selected) {
    auto* chain = chainOf(ensemble, selected);
    using StepPointer = decltype(&chain->steps.front());
    if (chain == nullptr) return StepPointer{};
    auto* branch = selected.part == Part::branchStep ? branchOf(ensemble, selected) : nullptr;
    auto* steps = branch != nullptr ? &branch->steps : &chain->steps;
    const int place = branch != nullptr ? selected.inner : selected.index;
    return place >= 0 && place < static_cast<int>(steps->size()) ? &(*steps)[static_cast<std::size_t>(place)]
                                                                 : StepPointer{};
}

inline bool isShared(const Selected& selected) {
    return selected.instrument == sharedOwner;
}

/// The place of a chain's owner in a finding: an instrument's, or none for shared chains.
inline std::optional<std::size_t> ownerPlace(const Ensemble& ensemble, const Selected& selected) {
    const Instrument* instrument = instrumentOf(ensemble, selected);
    if (instrument == nullptr) return std::nullopt;
    return placeOf(ensemble.instruments, instrument->id);
}

}  // namespace mellow::app
