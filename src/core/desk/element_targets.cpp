// Names are given as the document has them; whoever shows them makes them fit to be shown.
#include "core/desk/element_targets.h"

#include <algorithm>

#include "core/model/resolve.h"
#include "core/model/visit.h"

namespace mellow::desk {

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
            made.name = nameOf(target, false);
            if (target.instrument != nullptr) made.instrument = nameOf(*target.instrument);
            made.range = rangeOf(target);
            if (target.hand == nullptr) continue;
            for (std::string& entry : made.range.choices) entry = handName(ensemble, entry);
        }
    });
    return all;
}

Readout readoutOf(const std::vector<ElementTarget>& targets, Axis axis, const Stands& stands) {
    const ElementTarget* shown = nullptr;
    for (const ElementTarget& target : targets) {
        if (target.axis != axis) continue;
        if (shown == nullptr) shown = &target;
        if (target.owner == sharedOwner || !stands.inHand(target.owner)) continue;
        shown = &target;
        break;
    }
    if (shown == nullptr) return {};
    const double raw = stands.branch(*shown);
    return {raw < 0 ? "–" : displayText(shown->range, raw), shown->name};
}

std::vector<Answer> answersTo(const Ensemble& ensemble, const DeskElement& element, const Stands& stands) {
    std::vector<Answer> all(element.names.size());
    for (const Instrument& instrument : ensemble.instruments) {
        const bool inHand = stands.inHand(instrument.id);
        const int playing = inHand ? stands.articulation(instrument.id) : -1;
        for (std::size_t n = 0; n < all.size(); ++n) {
            Answer& answer = all[n];
            if (inHand) ++answer.inHand;
            const auto& articulations = instrument.articulations;
            const auto found =
                std::find_if(articulations.begin(), articulations.end(),
                             [&](const Articulation& each) { return answers(each, element.names[n]); });
            if (found == articulations.end()) continue;
            ++answer.anywhere;
            if (!inHand) continue;
            ++answer.answering;
            answer.chosen = answer.chosen || playing == static_cast<int>(found - articulations.begin());
        }
    }
    return all;
}

}  // namespace mellow::desk
