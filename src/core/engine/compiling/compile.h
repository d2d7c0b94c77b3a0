// From the ensemble to a plan.
#pragma once

#include <memory>

#include "core/engine/program/state.h"

namespace mellow::engine {

/// A parameter by the ids of its instrument and itself.
struct Unled {
    std::string instrument;
    std::string parameter;
};

/// Compiles everything that can run; a chain or instrument that checks say cannot is left out.
/// previous: the plan that this one will take over from; its numbering is kept, and chains that have not
/// changed are taken from it as they are. May be null; may be playing.
/// besides: parameters that nothing leads to, and to which something is sent all the same
/// (Plan::firstBeside). ports: names of ports with their numbers, where others than the previous plan knows
/// have been used since. Allocates; to be called on the editing side.
std::unique_ptr<Program> compile(const Ensemble& ensemble, const Plan* previous = nullptr,
                                 const Names* ports = nullptr, const std::vector<Unled>& besides = {});

}  // namespace mellow::engine
