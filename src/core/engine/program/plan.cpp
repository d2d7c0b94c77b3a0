// What a plan answers about one of its branches.
#include "core/engine/program/state.h"

#include <algorithm>

namespace mellow::engine {

double presentPosition(const Program& program, const PlanChain& chain, std::uint32_t branch, int raw) {
    const std::uint32_t place = chain.firstBranch + branch;
    if (chain.isEvaluated()) return program.state.branchLive[place].value.load(std::memory_order_relaxed);
    if (raw < 0) return -1;
    const Payload found = chain.table[static_cast<std::size_t>(raw) * chain.branchCount + branch];
    if (found == noPayload) return -1;
    const BranchBody& at = *program.plan.branches[place].body;
    const int value = valueOf(at, found);
    const bool isLabel = at.kind == MessageKind::program || at.kind == MessageKind::articulation;
    if (isLabel && at.choices > 1) return static_cast<double>(value) / (at.choices - 1);
    return at.kind == MessageKind::note ? value : decode(at.scale, value, at.max);
}

}  // namespace mellow::engine
