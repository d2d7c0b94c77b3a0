// An instrument that nobody can take into hand: it is in no section and not in the hand's order, where there
// are such.
#include <algorithm>

#include "core/checks/rules.h"

namespace mellow::checks {

namespace {

bool isIn(const std::vector<std::string>& ids, const std::string& id) {
    return std::find(ids.begin(), ids.end(), id) != ids.end();
}

void look(const Whole& whole, Findings& findings) {
    const Ensemble& ensemble = whole.ensemble();
    if (ensemble.sections.empty() && ensemble.handOrder.empty()) return;
    for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
        const std::string& id = ensemble.instruments[i].id;
        const bool inSection = std::any_of(ensemble.sections.begin(), ensemble.sections.end(),
                                           [&id](const Section& each) { return isIn(each.instruments, id); });
        if (inSection || isIn(ensemble.handOrder, id)) continue;
        findings.push_back(about(
            i, Severity::note, Stops::nothing, "it is in no section and not in the hand order",
            "put it into a section or the order", {{"Put it at the end of the order", [id](Ensemble& mended) {
                                                        if (!isIn(mended.handOrder, id))
                                                            mended.handOrder.push_back(id);
                                                    }}}));
    }
}

}  // namespace

extern const Rule outsideTheHand{.whole = look};

}  // namespace mellow::checks
