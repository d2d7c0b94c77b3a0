#include "app/acts/element_targets.h"

#include "app/ground/words.h"
#include "core/model/resolve.h"
#include "core/model/visit.h"

namespace mellow::app {

ElementTargets elementTargets(const Ensemble& ensemble) {
    ElementTargets all;
    forEachChain(ensemble, [&](const Chain& chain, const Instrument* instrument) {
        if (chain.source.kind != SourceKind::desk) return;
        for (std::size_t b = 0; b < chain.branches.size(); ++b) {
            const Target target = targetOf(ensemble, instrument, chain.branches[b].target);
            if (!target.exists()) continue;
            ElementTarget& made = all[elementOf(chain.source)].emplace_back();
            made.axis = axisOf(chain.source);
            made.owner = instrument == nullptr ? sharedOwner : instrument->id;
            made.chain = chain.id;
            made.branch = b;
            made.name = nameToShow(nameOf(target, false));
            if (target.instrument != nullptr) made.instrument = nameToShow(nameOf(*target.instrument));
            made.range = rangeOf(target);
            if (target.hand == nullptr) continue;
            for (std::string& entry : made.range.choices) entry = handName(ensemble, entry);
        }
    });
    return all;
}

Readout readoutOf(const std::vector<ElementTarget>& targets, Axis axis, const Live& live) {
    const ElementTarget* shown = nullptr;
    for (const ElementTarget& target : targets) {
        if (target.axis != axis) continue;
        if (shown == nullptr) shown = &target;
        if (target.owner == sharedOwner || !live.readings().instrument(target.owner).inHand) continue;
        shown = &target;
        break;
    }
    if (shown == nullptr) return {};
    const io::ChainReading reading = live.reading(shown->owner, shown->chain);
    const double q = shown->branch < reading.values.size() ? reading.values[shown->branch] : -1;
    return {q < 0 ? QStringLiteral("–") : toQt(displayText(shown->range, q)), shown->name};
}

}  // namespace mellow::app
