// Questions that a plan answers about one of its ears or branches.
#include "core/engine/state.h"

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
    if (at.kind == MessageKind::program && at.choices > 1)
        return static_cast<double>(value) / (at.choices - 1);
    return at.kind == MessageKind::note ? value : decode(at.scale, value, at.max);
}

double placeOf(const Ear& ear, int raw) {
    return raw > ear.max ? decode(ear.scale, raw - ear.max - 1, midi::max7) : decode(ear.scale, raw, ear.max);
}

int rawOf(const Ear& ear, const midi::PairReading& reading) {
    // Behind the values of two bytes lie those of one, for controls that turned out to send no more.
    if (!reading.fine) return ear.max + 1 + reading.value;
    if (ear.max != pitchRangeMax) return reading.value;
    return (reading.value >> 7) * centsASemitone + std::min(reading.value & midi::max7, centsASemitone - 1);
}

}  // namespace mellow::engine
