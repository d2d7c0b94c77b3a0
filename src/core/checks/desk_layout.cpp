// Elements of the desk that cover one another or lie beside their page's grid, and tiles without a name.
#include <algorithm>

#include "core/checks/rules.h"
#include "core/model/edit_desk.h"

namespace mellow::checks {

namespace {

/// The same size elsewhere on its page, or smaller, or on a page with more rows.
void replace(Ensemble& ensemble, const std::string& id) {
    DeskPage* page = pageOf(ensemble.desk, id);
    DeskElement* element = findElement(ensemble.desk, id);
    if (page == nullptr || element == nullptr) return;
    page->columns = std::clamp(page->columns, 1, mostColumns);
    page->rows = std::clamp(page->rows, 1, mostRows);
    int width = std::clamp(element->place[2], 1, page->columns);
    int height = std::clamp(element->place[3], 1, page->rows);
    while (true) {
        if (const auto place = freePlace(*page, width, height, id)) {
            element->place = *place;
            return;
        }
        if (width == 1 && height == 1) {
            if (page->rows == mostRows) return;
            ++page->rows;
        }
        (width >= height ? width : height) = std::max(1, (width >= height ? width : height) - 1);
    }
}

void lookAtPage(const DeskPage& page, Findings& findings) {
    const auto tell = [&](const DeskElement& element, Severity severity, std::string what, std::string mend,
                          Mend cure) {
        findings.push_back({severity,
                            Stops::nothing,
                            {},
                            {"Desk, " + nameOf(element), std::move(what), std::move(mend)},
                            {std::move(cure)}});
    };
    for (const DeskElement& element : page.elements) {
        const auto isOther = [&](const DeskElement& each) {
            return &each < &element && overlap(each.place, element.place);
        };
        const auto covered = std::find_if(page.elements.begin(), page.elements.end(), isOther);
        DeskPage alone = page;
        alone.elements.clear();
        const Mend cure{"Find it a free place", [id = element.id](Ensemble& mended) { replace(mended, id); }};
        if (!isFree(alone, element.place)) {
            tell(element, Severity::note, "it lies outside the grid of " + nameOf(page),
                 "move it onto the grid", cure);
        } else if (covered != page.elements.end()) {
            tell(element, Severity::note, "it covers " + nameOf(*covered), "move one of them", cure);
        }
        if (element.kind == ElementKind::articulations && element.names.empty())
            tell(element, Severity::note, "it has no tile", "give it names, or remove it",
                 {"Remove it", [id = element.id](Ensemble& mended) { removeElement(mended, id); }});
        if (element.lowestKey < 0 || element.lowestKey > mostLowestKey)
            tell(element, Severity::note, "its lowest key is outside 0 to 115", "begin on another key",
                 {"Use the nearest that can be", [id = element.id](Ensemble& mended) {
                      if (DeskElement* found = findElement(mended.desk, id))
                          found->lowestKey = std::clamp(found->lowestKey, 0, mostLowestKey);
                  }});
        if (element.rest < 0 || element.rest > 1)
            tell(element, Severity::note, "it rests outside 0 to 1", "let it rest inside",
                 {"Use the nearest that can be", [id = element.id](Ensemble& mended) {
                      if (DeskElement* found = findElement(mended.desk, id))
                          found->rest = std::clamp(found->rest, 0.0, 1.0);
                  }});
    }
}

void look(const Whole& whole, Findings& findings) {
    for (const DeskPage& page : whole.ensemble().desk.pages) lookAtPage(page, findings);
}

}  // namespace

extern const Rule deskLayout{.whole = look};

}  // namespace mellow::checks
