// A name on articulation tiles that no instrument has or answers to.
#include <algorithm>

#include "core/checks/rules.h"
#include "core/model/edit_desk.h"
#include "core/text/printable.h"

namespace mellow::checks {

namespace {

bool somebodyAnswers(const Ensemble& ensemble, const std::string& name) {
    return std::any_of(
        ensemble.instruments.begin(), ensemble.instruments.end(), [&name](const Instrument& instrument) {
            return std::any_of(instrument.articulations.begin(), instrument.articulations.end(),
                               [&name](const Articulation& each) { return answers(each, name); });
        });
}

void look(const Whole& whole, Findings& findings) {
    forEachElement(whole.ensemble().desk, [&](const DeskElement& element) {
        if (element.kind != ElementKind::articulations) return;
        for (const std::string& name : element.names) {
            if (somebodyAnswers(whole.ensemble(), name)) continue;
            findings.push_back({Severity::note,
                                Stops::nothing,
                                {},
                                {"Desk, " + nameOf(element), "nobody answers to " + text::quoted(name),
                                 "let an articulation answer to it, or take the tile off"},
                                {{"Take the tile off", [id = element.id, name](Ensemble& mended) {
                                      if (DeskElement* found = findElement(mended.desk, id))
                                          std::erase(found->names, name);
                                  }}}});
        }
    });
}

}  // namespace

extern const Rule tileWithoutAnswer{.whole = look};

}  // namespace mellow::checks
