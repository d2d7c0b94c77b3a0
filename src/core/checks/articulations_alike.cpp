// Two articulations that the same messages select: the instrument cannot tell them apart.
#include <algorithm>

#include "core/checks/rules.h"
#include "core/text/printable.h"

namespace mellow::checks {

namespace {

bool sameSelect(const Select& a, const Select& b) {
    if (a.kind != b.kind) return false;
    switch (a.kind) {
        case SelectKind::note:
            return a.number == b.number;
        case SelectKind::cc:
            return a.number == b.number && a.value == b.value;
        case SelectKind::program:
            return a.value == b.value && a.bank == b.bank;
        case SelectKind::channel:
            return a.value == b.value;
    }
    return false;
}

/// One articulation takes the name of another, and its place in chains.
void unite(Instrument& instrument, const std::string& kept, const std::string& gone) {
    Articulation* first = findById(instrument.articulations, kept);
    const Articulation* second = findById(instrument.articulations, gone);
    if (first == nullptr || second == nullptr) return;
    first->answersTo.push_back(nameOf(*second));
    first->answersTo.insert(first->answersTo.end(), second->answersTo.begin(), second->answersTo.end());
    const auto rename = [from = nameOf(*second), to = nameOf(*first)](Level& level) {
        auto* name = std::get_if<std::string>(&level);
        if (name != nullptr && *name == from) *name = to;
    };
    for (Chain& chain : instrument.chains) {
        for (Branch& branch : chain.branches) {
            const Parameter* parameter = findById(instrument.parameters, branch.target);
            if (parameter == nullptr || parameter->message.kind != MessageKind::articulation) continue;
            rename(branch.low);
            rename(branch.high);
        }
    }
    std::erase_if(instrument.articulations, [&](const Articulation& each) { return each.id == gone; });
    nameArticulations(instrument);
}

void look(const InstrumentAt& at, Findings& findings) {
    const auto& all = at.instrument.articulations;
    for (std::size_t later = 1; later < all.size(); ++later) {
        const auto isAlike = [&](const Articulation& each) {
            return each.id != all[later].id &&
                   std::equal(each.select.begin(), each.select.end(), all[later].select.begin(),
                              all[later].select.end(), sameSelect);
        };
        const auto end = all.begin() + static_cast<std::ptrdiff_t>(later);
        const auto first = std::find_if(all.begin(), end, isAlike);
        if (first == end) continue;
        findings.push_back(
            about(at.place, Severity::note, Stops::nothing,
                  text::quoted(nameOf(all[later])) + " and " + text::quoted(nameOf(*first)) +
                      " are selected by the same messages",
                  "change what selects one of them, or make them one",
                  {mendInstrument(at, "Make them one, which answers to both names",
                                  [kept = first->id, gone = all[later].id](Instrument& instrument) {
                                      unite(instrument, kept, gone);
                                  })}));
    }
}

}  // namespace

extern const Rule articulationsAlike{.instrument = look};

}  // namespace mellow::checks
