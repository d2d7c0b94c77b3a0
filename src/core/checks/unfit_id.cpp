// Ids that are no ids: with spaces or line breaks in them, or none at all, or twice in their list. Everything
// refers to ids, and the command line writes them between spaces.
#include <set>

#include "core/checks/rules.h"
#include "core/text/printable.h"

namespace mellow::checks {

namespace {

constexpr const char* mend = "give it an id of printable characters without spaces";

std::string flawOfId(const std::string& what, const std::string& id) {
    if (text::isOneWord(id)) return {};
    return id.empty() ? what + " has no id"
                      : what + " has the id " + text::quoted(id) + ", which is not one word";
}

/// Calls tell(what) for each id of a list that is unfit. twice: also for those that come again; lists whose
/// doubles stop something tell of those elsewhere.
template<class List, class Tell>
void lookAt(const List& list, const std::string& what, bool twice, Tell&& tell) {
    std::set<std::string_view> seen;
    for (const auto& each : list) {
        const std::string flaw = flawOfId(what, each.id);
        if (!flaw.empty()) tell(flaw, mend);
        if (!seen.insert(each.id).second && twice)
            tell("two of the same kind have the id " + text::quoted(each.id) + ", and only the first is used",
                 "give each an id of its own");
    }
}

}  // namespace

void unfitId(const Whole& whole, Findings& findings) {
    const Ensemble& ensemble = whole.ensemble();
    const auto tellOf = [&findings](const std::string& where) {
        return [&findings, where](std::string what, std::string cure) {
            findings.push_back(
                {Severity::trouble, Stops::nothing, {}, {where, std::move(what), std::move(cure)}});
        };
    };
    lookAt(ensemble.controllers, "a controller", true, tellOf("Controllers"));
    for (const Controller& controller : ensemble.controllers)
        lookAt(controller.controls, "a control", true, tellOf("Controller " + nameOf(controller)));
    lookAt(ensemble.tieLines, "a tie line", true, tellOf("Tie lines"));
    for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
        const Instrument& instrument = ensemble.instruments[i];
        const auto tell = [&](std::string what, std::string cure) {
            findings.push_back(
                about(whole, i, Severity::trouble, Stops::nothing, std::move(what), std::move(cure)));
        };
        const std::string flaw = flawOfId("it", instrument.id);
        if (!flaw.empty()) tell(flaw, mend);
        lookAt(instrument.parameters, "a parameter", false, tell);
    }
    forEachChain(whole, [&](const ChainAt& at) {
        const std::string flaw = flawOfId("it", at.chain.id);
        if (!flaw.empty()) findings.push_back(about(at, {}, Severity::trouble, Stops::nothing, flaw, mend));
    });
}

}  // namespace mellow::checks
