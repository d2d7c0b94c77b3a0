// Ids that are no ids: with spaces or line breaks in them, or none at all, or twice in their list. Everything
// refers to ids, and the command line writes them between spaces.
#include <set>

#include "core/checks/rules.h"
#include "core/model/edit.h"
#include "core/model/edit_desk.h"
#include "core/model/edit_hands.h"
#include "core/text/printable.h"

namespace mellow::checks {

namespace {

constexpr const char* mend = "give it an id of printable characters without spaces";
constexpr const char* cure = "Give it an id of its own";

std::string flawOfId(const std::string& what, const std::string& id) {
    if (text::isOneWord(id)) return {};
    return id.empty() ? what + " has no id"
                      : what + " has the id " + text::quoted(id) + ", which is not one word";
}

/// Calls tell(place, what, mend) for each id of a list that is unfit, and for those that come again.
template<class List, class Tell>
void lookAt(const List& list, const std::string& what, Tell&& tell) {
    std::set<std::string_view> seen;
    for (std::size_t place = 0; place < list.size(); ++place) {
        const std::string& id = list[place].id;
        const std::string flaw = flawOfId(what, id);
        if (!flaw.empty()) tell(place, flaw, mend);
        if (!seen.insert(id).second)
            tell(place,
                 "two of the same kind have the id " + text::quoted(id) + ", and only the first is used",
                 "give each an id of its own");
    }
}

/// Elements are one list, whatever page they are on.
void lookAtElements(const Desk& desk, Findings& findings) {
    std::set<std::string_view> seen;
    for (std::size_t page = 0; page < desk.pages.size(); ++page) {
        const auto& elements = desk.pages[page].elements;
        for (std::size_t place = 0; place < elements.size(); ++place) {
            std::string flaw = flawOfId("an element", elements[place].id);
            if (!seen.insert(elements[place].id).second)
                flaw = "two elements have the id " + text::quoted(elements[place].id) +
                       ", and only the first is used";
            if (flaw.empty()) continue;
            findings.push_back(
                {Severity::trouble,
                 Stops::nothing,
                 {},
                 {"Desk, " + nameOf(desk.pages[page]), flaw, mend},
                 {{cure, [page, place](Ensemble& mended) { renewElement(mended, page, place); }}}});
        }
    }
}

void lookAtLists(const Whole& whole, Findings& findings) {
    const Ensemble& ensemble = whole.ensemble();
    const auto tellOf = [&findings](const std::string& where, auto renew) {
        return [&findings, where, renew](std::size_t place, std::string what, std::string words) {
            findings.push_back({Severity::trouble,
                                Stops::nothing,
                                {},
                                {where, std::move(what), std::move(words)},
                                {{cure, [place, renew](Ensemble& mended) { renew(mended, place); }}}});
        };
    };
    lookAt(ensemble.controllers, "a controller", tellOf("Controllers", renewController));
    for (std::size_t c = 0; c < ensemble.controllers.size(); ++c) {
        const auto renew = [c](Ensemble& mended, std::size_t place) { renewControl(mended, c, place); };
        lookAt(ensemble.controllers[c].controls, "a control",
               tellOf("Controller " + nameOf(ensemble.controllers[c]), renew));
    }
    lookAt(ensemble.tieLines, "a tie line", tellOf("Tie lines", renewTieLine));
    lookAt(ensemble.sections, "a section", tellOf("Sections", renewSection));
    lookAt(ensemble.desk.pages, "a page", tellOf("Desk", [](Ensemble& mended, std::size_t place) {
               if (place >= mended.desk.pages.size()) return;
               DeskPage& page = mended.desk.pages[place];
               page.id = newId(mended.desk.pages, nameOf(page));
           }));
    lookAtElements(ensemble.desk, findings);
    lookAt(ensemble.measurements, "a measurement",
           tellOf("Measurements", [](Ensemble& mended, std::size_t place) {
               if (place >= mended.measurements.size()) return;
               KeptCurve& curve = mended.measurements[place];
               curve.id = newId(mended.measurements, nameOf(curve));
           }));
    lookAt(ensemble.takes, "a take", tellOf("Takes", [](Ensemble& mended, std::size_t place) {
               if (place >= mended.takes.size()) return;
               KeptTake& take = mended.takes[place];
               take.id = newId(mended.takes, nameOf(take));
           }));
}

void lookAtInstrument(const InstrumentAt& at, Findings& findings) {
    const auto tell = [&](std::string what, std::function<void(Ensemble&)> edit) {
        findings.push_back(about(at.place, Severity::trouble, Stops::nothing, std::move(what), mend,
                                 {{cure, std::move(edit)}}));
    };
    const std::string flaw = flawOfId("it", at.instrument.id);
    if (!flaw.empty()) tell(flaw, [place = at.place](Ensemble& mended) { renewInstrument(mended, place); });
    for (std::size_t a = 0; a < at.instrument.articulations.size(); ++a) {
        const std::string unfit = flawOfId("an articulation", at.instrument.articulations[a].id);
        if (unfit.empty()) continue;
        tell(unfit, [place = at.place, a](Ensemble& mended) {
            if (place >= mended.instruments.size() || a >= mended.instruments[place].articulations.size())
                return;
            auto& all = mended.instruments[place].articulations;
            all[a].id = newId(all, nameOf(all[a]));
        });
    }
    for (std::size_t p = 0; p < at.instrument.parameters.size(); ++p) {
        const std::string unfit = flawOfId("a parameter", at.instrument.parameters[p].id);
        if (!unfit.empty())
            tell(unfit, [place = at.place, p](Ensemble& mended) { renewParameter(mended, place, p); });
    }
}

void lookAtChain(const ChainAt& at, Findings& findings) {
    const std::string flaw = flawOfId("it", at.chain.id);
    if (flaw.empty()) return;
    findings.push_back(about(at, {}, Severity::trouble, Stops::nothing, flaw, mend,
                             {mendChain(at, cure, [](Chain& chain) { chain.id = idFrom(nameOf(chain)); })}));
}

}  // namespace

extern const Rule unfitId{
    .chain = lookAtChain, .instrument = lookAtInstrument, .whole = lookAtLists, .everyChain = true};

}  // namespace mellow::checks
