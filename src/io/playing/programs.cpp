// The previous program may be playing, and is not touched; ports that only messages named so far keep their
// numbers all the same.
#include "io/playing/programs.h"

#include <algorithm>

#include "core/engine/compiling/compile.h"
#include "core/model/led.h"

namespace mellow::io {

namespace {

/// Parameters of placements to which nothing leads, those that there are. What waits may be about one to
/// which something leads again by now: that knows better.
std::vector<engine::Unled> unledOf(const Ensemble& ensemble, const Placements& placements) {
    std::vector<engine::Unled> besides;
    for (const Placement& each : placements) {
        if (each.parameter.empty()) continue;
        const Instrument* owner = findById(ensemble.instruments, each.owner);
        if (owner != nullptr && findById(owner->parameters, each.parameter) != nullptr &&
            !isLedTo(ensemble, *owner, each.parameter))
            besides.push_back({each.owner, each.parameter});
    }
    return besides;
}

std::vector<engine::Placed> placedIn(const engine::Plan& plan, const Placements& placements,
                                     const std::vector<engine::Unled>& besides) {
    std::vector<engine::Placed> placed;
    for (const Placement& each : placements) {
        if (!each.parameter.empty()) {
            const auto beside = std::find_if(besides.begin(), besides.end(), [&each](const auto& unled) {
                return unled.instrument == each.owner && unled.parameter == each.parameter;
            });
            const auto place = plan.firstBeside + static_cast<std::uint32_t>(beside - besides.begin());
            if (place < plan.branches.size()) placed.push_back({place, each.position, true, false});
            continue;
        }
        const auto key = plan.numbering.chainKeys->find(each.owner + "/" + each.chain);
        const engine::PlanChain* chain = key ? plan.chainWithKey(*key) : nullptr;
        if (chain == nullptr || each.branch >= chain->branchCount) continue;
        placed.push_back({chain->firstBranch + each.branch, each.position, false, each.unlessSpoken});
    }
    return placed;
}

}  // namespace

Programs::Programs() {
    programs_.push_back(engine::compile(Ensemble{}));
    ports_.take(names().ports);
}

void Programs::make(const Ensemble& ensemble, const Placements& placements) {
    collect();
    // What was to be placed and has not been played yet goes before what is placed now.
    if (next_.load(std::memory_order_acquire) == nullptr) waiting_.clear();
    waiting_.insert(waiting_.end(), placements.begin(), placements.end());
    const std::vector<engine::Unled> besides = unledOf(ensemble, waiting_);
    auto program = engine::compile(ensemble, &newest().plan, &ports_.names(), besides);
    program->placed = placedIn(program->plan, waiting_, besides);
    engine::Program* made = keep(std::move(program), ensemble);
    drop(next_.exchange(made, std::memory_order_acq_rel));
}

engine::Program* Programs::keep(std::unique_ptr<engine::Program> program, const Ensemble& ensemble) {
    program->number = ++made_;
    program->feedback = engine::followControls(ensemble, program->plan);
    programs_.push_back(std::move(program));
    ports_.take(names().ports);
    return programs_.back().get();
}

void Programs::drop(const engine::Program* program) {
    std::erase_if(programs_, [program](const auto& each) { return each.get() == program; });
}

void Programs::collect() {
    for (engine::Program* done = nullptr; retired_.pop(done);) drop(done);
}

bool Programs::hearsOsc() const {
    const auto& ears = newest().plan.ears;
    return std::any_of(ears.begin(), ears.end(),
                       [](const engine::Ear& ear) { return ear.kind == SourceKind::osc; });
}

}  // namespace mellow::io
