#include "core/filling/filling.h"

#include <algorithm>
#include <optional>

#include "core/model/edit.h"
#include "core/model/edit_desk.h"
#include "core/model/resolve.h"
#include "core/model/visit.h"

namespace mellow::filling {

namespace {

constexpr std::array levelControls{7, 11, 2, 1};  // volume, expression, breath, mod wheel

/// Articulations have tiles.
bool keepsAValue(const Parameter& parameter) {
    return row(parameter.message.kind).stays && parameter.message.kind != MessageKind::articulation;
}

bool isFromDesk(const Chain& chain) {
    return chain.source.kind == SourceKind::desk;
}

/// True where a chain from the desk leads to a parameter already.
bool hasElement(const Instrument& instrument, const Parameter& parameter) {
    return std::any_of(instrument.chains.begin(), instrument.chains.end(), [&](const Chain& chain) {
        return isFromDesk(chain) &&
               std::any_of(chain.branches.begin(), chain.branches.end(),
                           [&](const Branch& branch) { return branch.target == parameter.id; });
    });
}

Source fromElement(const std::string& element, Axis axis = Axis::x) {
    Source source = makeSource(SourceKind::desk);
    source.values = {element, static_cast<int>(axis)};
    return source;
}

/// Where an element fits: at its usual size, or the page is given more rows.
GridPlace placeOn(DeskPage& page, int width, int height) {
    page.columns = std::clamp(page.columns, 1, mostColumns);
    page.rows = std::clamp(page.rows, 1, mostRows);
    width = std::min(width, page.columns);
    while (true) {
        if (const auto place = freePlace(page, width, std::min(height, page.rows))) return *place;
        if (page.rows == mostRows) return {0, 0, width, height};
        ++page.rows;
    }
}

/// Puts an element on a page, and returns its id.
std::string put(Ensemble& ensemble, std::size_t page, DeskElement element) {
    const auto [width, height] = usualSize(element.kind);
    element.place = placeOn(ensemble.desk.pages[page], width, height);
    std::string id = element.id;
    ensemble.desk.pages[page].elements.push_back(std::move(element));
    return id;
}

Chain chainFrom(const Instrument& instrument, const std::string& name, Source source) {
    Chain chain;
    chain.name = name;
    chain.id = newId(instrument.chains, name);
    chain.source = std::move(source);
    return chain;
}

/// A slider that leads to a parameter over its whole range.
std::string slider(Ensemble& ensemble, std::size_t page, Instrument& instrument, const Parameter& parameter,
                   const std::string& name) {
    DeskElement element = newElement(ensemble, ElementKind::slider, name);
    element.rest = restPosition(parameter);
    Chain chain = chainFrom(instrument, name, fromElement(element.id));
    chain.branches.push_back(wholeBranch(parameter));
    instrument.chains.push_back(std::move(chain));
    return put(ensemble, page, std::move(element));
}

}  // namespace

const Parameter* levelOf(const Instrument& instrument) {
    for (const int control : levelControls) {
        for (const Parameter& parameter : instrument.parameters) {
            if (parameter.message.kind == MessageKind::cc && parameter.message.number == control)
                return &parameter;
        }
    }
    const auto found = std::find_if(instrument.parameters.begin(), instrument.parameters.end(), keepsAValue);
    return found == instrument.parameters.end() ? nullptr : &*found;
}

std::vector<std::string> sliders(Ensemble& ensemble, std::size_t page, const std::string& id) {
    std::vector<std::string> made;
    Instrument* instrument = findById(ensemble.instruments, id);
    if (instrument == nullptr || page >= ensemble.desk.pages.size()) return made;
    const std::vector<Parameter> parameters = instrument->parameters;
    for (const Parameter& parameter : parameters) {
        if (!keepsAValue(parameter) || hasElement(*instrument, parameter)) continue;
        made.push_back(slider(ensemble, page, *instrument, parameter, nameOf(parameter)));
    }
    return made;
}

std::vector<std::string> tiles(Ensemble& ensemble, std::size_t page, const std::string& entry) {
    if (page >= ensemble.desk.pages.size()) return {};
    std::vector<std::string> names;
    for (const Instrument* instrument : instrumentsOf(ensemble, entry)) {
        for (const Articulation& articulation : instrument->articulations) {
            const auto isThere = [&](const std::string& name) { return answers(articulation, name); };
            if (std::none_of(names.begin(), names.end(), isThere)) names.push_back(nameOf(articulation));
        }
    }
    if (names.empty()) return {};
    DeskElement element = newElement(ensemble, ElementKind::articulations, "Articulations");
    element.names = std::move(names);
    DeskPage& on = ensemble.desk.pages[page];
    element.place = placeOn(on, on.columns, 1);
    on.elements.push_back(element);
    return {element.id};
}

std::vector<std::string> pad(Ensemble& ensemble, std::size_t page, const std::string& id) {
    Instrument* instrument = findById(ensemble.instruments, id);
    if (instrument == nullptr || page >= ensemble.desk.pages.size()) return {};
    std::vector<Chain> chains;
    std::copy_if(
        instrument->chains.begin(), instrument->chains.end(), std::back_inserter(chains),
        [](const Chain& chain) { return chain.on && !isFromDesk(chain) && !chain.branches.empty(); });
    std::stable_sort(chains.begin(), chains.end(),
                     [](const Chain& a, const Chain& b) { return a.branches.size() > b.branches.size(); });
    if (chains.empty()) return {};
    DeskElement element = newElement(ensemble, ElementKind::pad, nameOf(*instrument));
    // Up does what leads farthest.
    const std::array axes{Axis::y, Axis::x};
    for (std::size_t i = 0; i < std::min(axes.size(), chains.size()); ++i) {
        Chain chain = chains[i];
        chain.id = newId(instrument->chains, nameOf(chain));
        chain.source = fromElement(element.id, axes.at(i));
        instrument->chains.push_back(std::move(chain));
    }
    return {put(ensemble, page, std::move(element))};
}

std::vector<std::string> faders(Ensemble& ensemble, std::size_t page, const std::string& entry) {
    std::vector<std::string> made;
    if (page >= ensemble.desk.pages.size()) return made;
    std::vector<std::string> ids;
    for (const Instrument* instrument : instrumentsOf(ensemble, entry)) ids.push_back(instrument->id);
    for (const std::string& id : ids) {
        Instrument& instrument = *findById(ensemble.instruments, id);
        const Parameter* level = levelOf(instrument);
        if (level == nullptr || hasElement(instrument, *level)) continue;
        made.push_back(slider(ensemble, page, instrument, Parameter(*level), nameOf(instrument)));
    }
    return made;
}

namespace {

/// The element that a chain of an instrument has as its source and that has the instrument's name.
const DeskElement* faderOf(const Ensemble& ensemble, const Instrument& instrument) {
    for (const Chain& chain : instrument.chains) {
        if (!isFromDesk(chain)) continue;
        const DeskElement* element = findElement(ensemble.desk, elementOf(chain.source));
        if (element != nullptr && element->name == nameOf(instrument)) return element;
    }
    return nullptr;
}

/// A fader, and which instrument's it is.
struct Fader {
    std::string instrument;
    std::string element;
    GridPlace place;
};

/// Those of a row of a page, from left to right.
std::vector<std::vector<Fader>> rowsOfFaders(const Ensemble& ensemble) {
    std::vector<std::vector<Fader>> rows;
    for (const DeskPage& page : ensemble.desk.pages) {
        std::vector<Fader> faders;
        for (const Instrument& instrument : ensemble.instruments) {
            const DeskElement* element = faderOf(ensemble, instrument);
            if (element != nullptr && findById(page.elements, element->id) == element)
                faders.push_back({instrument.id, element->id, element->place});
        }
        std::sort(faders.begin(), faders.end(), [](const Fader& a, const Fader& b) {
            return std::pair(a.place[1], a.place[0]) < std::pair(b.place[1], b.place[0]);
        });
        if (!faders.empty()) rows.push_back(std::move(faders));
    }
    return rows;
}

std::vector<std::string> inOrder(const Ensemble& ensemble, const std::vector<Fader>& faders) {
    std::vector<std::string> ids;
    for (const Instrument& instrument : ensemble.instruments) {
        for (const Fader& fader : faders) {
            if (fader.instrument == instrument.id) ids.push_back(fader.element);
        }
    }
    return ids;
}

}  // namespace

void followInstruments(const Ensemble& before, Ensemble& after) {
    if (before.desk.pages.empty() || after.desk.pages.empty()) return;
    for (const Instrument& was : before.instruments) {
        const Instrument* now = findById(std::as_const(after.instruments), was.id);
        if (now == nullptr || now->name == was.name) continue;
        const DeskElement* fader = faderOf(before, was);
        DeskElement* element = fader == nullptr ? nullptr : findElement(after.desk, fader->id);
        if (element != nullptr && element->name == fader->name) element->name = nameOf(*now);
    }
    for (const std::vector<Fader>& row : rowsOfFaders(before)) {
        std::vector<std::string> stood;
        for (const Fader& fader : row) stood.push_back(fader.element);
        if (inOrder(before, row) != stood) continue;
        const std::vector<std::string> ids = inOrder(after, row);
        if (ids.size() != row.size() || ids == stood) continue;
        for (std::size_t i = 0; i < ids.size(); ++i) {
            if (DeskElement* element = findElement(after.desk, ids[i])) element->place = row[i].place;
        }
    }
}

}  // namespace mellow::filling
