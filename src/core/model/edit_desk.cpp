#include "core/model/edit_desk.h"

#include <algorithm>

#include "core/model/edit.h"
#include "core/model/visit.h"

namespace mellow {

bool overlap(const GridPlace& one, const GridPlace& other) {
    const auto [x, y, width, height] = one;
    const auto [left, top, across, down] = other;
    return x < left + across && left < x + width && y < top + down && top < y + height;
}

bool isFree(const DeskPage& page, const GridPlace& place, std::string_view except) {
    const auto [x, y, width, height] = place;
    if (x < 0 || y < 0 || width < 1 || height < 1 || width > page.columns || height > page.rows) return false;
    if (x > page.columns - width || y > page.rows - height) return false;
    return std::none_of(page.elements.begin(), page.elements.end(), [&](const DeskElement& element) {
        return element.id != except && overlap(place, element.place);
    });
}

std::optional<GridPlace> freePlace(const DeskPage& page, int width, int height, std::string_view except) {
    for (int row = 0; row + height <= std::min(page.rows, mostRows); ++row) {
        for (int column = 0; column + width <= std::min(page.columns, mostColumns); ++column) {
            const GridPlace place{column, row, width, height};
            if (isFree(page, place, except)) return place;
        }
    }
    return std::nullopt;
}

namespace {

bool hasElement(const Desk& desk, std::string_view id) {
    return findElement(desk, id) != nullptr;
}

std::string freeElementId(const Desk& desk, std::string_view name) {
    const std::string base = idFrom(name);
    std::string id = base;
    for (int number = 2; hasElement(desk, id); ++number) id = base + "-" + std::to_string(number);
    return id;
}

}  // namespace

DeskElement newElement(const Ensemble& ensemble, ElementKind kind, std::string_view name) {
    DeskElement element;
    element.kind = kind;
    element.name = name;
    element.id = freeElementId(ensemble.desk, name);
    return element;
}

DeskPage newDeskPage(const Ensemble& ensemble, std::string_view name) {
    DeskPage page;
    page.name = name;
    page.id = newId(ensemble.desk.pages, name);
    return page;
}

std::array<int, 2> usualSize(ElementKind kind) {
    switch (kind) {
        case ElementKind::pad:
            return {5, 5};
        case ElementKind::slider:
            return {1, 5};
        case ElementKind::dial:
            return {2, 2};
        case ElementKind::button:
            return {1, 2};
        case ElementKind::articulations:
            return {6, 1};
        case ElementKind::keys:
            return {8, 2};
    }
    return {1, 1};
}

const DeskElement* findElement(const Desk& desk, std::string_view id) {
    const DeskElement* found = nullptr;
    forEachElement(desk, [&](const DeskElement& element) {
        if (found == nullptr && element.id == id) found = &element;
    });
    return found;
}

DeskElement* findElement(Desk& desk, std::string_view id) {
    return const_cast<DeskElement*>(findElement(std::as_const(desk), id));
}

DeskPage* pageOf(Desk& desk, std::string_view element) {
    const auto found = std::find_if(desk.pages.begin(), desk.pages.end(), [&](const DeskPage& page) {
        return findById(page.elements, element) != nullptr;
    });
    return found == desk.pages.end() ? nullptr : &*found;
}

void removeElement(Ensemble& ensemble, std::string_view id) {
    if (DeskPage* page = pageOf(ensemble.desk, id))
        page->elements.erase(page->elements.begin() +
                             static_cast<std::ptrdiff_t>(placeOf(page->elements, id)));
}

void leadElement(Ensemble& ensemble, const std::string& id, Axis axis, const std::string& owner,
                 const std::string& target) {
    const DeskElement* element = findElement(std::as_const(ensemble).desk, id);
    Instrument* instrument = owner == sharedOwner ? nullptr : findById(ensemble.instruments, owner);
    const auto branch = wholeBranch(ensemble, instrument, target);
    if (element == nullptr || !branch || (instrument == nullptr && owner != sharedOwner)) return;
    std::vector<Chain>& chains = instrument == nullptr ? ensemble.sharedChains : instrument->chains;
    Chain chain;
    chain.name = nameOf(*element);
    chain.id = newId(chains, chain.name);
    chain.source = makeSource(SourceKind::desk);
    chain.source.values = {id, static_cast<int>(axis)};
    chain.branches.push_back(*branch);
    chains.push_back(std::move(chain));
}

namespace {

/// Copies all chains that are moved so. change(Chain&) makes a copy another.
template<class Moves, class Change>
std::vector<ChainOfOwner> copyChains(Ensemble& ensemble, Moves&& moves, Change&& change) {
    std::vector<ChainOfOwner> made;
    const auto inList = [&](std::vector<Chain>& chains, const std::string& owner) {
        const std::vector<Chain> before = chains;
        for (const Chain& chain : before) {
            if (!moves(chain.source)) continue;
            Chain another = chain;
            another.id = newId(chains, nameOf(chain));
            change(another);
            made.push_back({owner, another.id});
            chains.push_back(std::move(another));
        }
    };
    inList(ensemble.sharedChains, std::string(sharedOwner));
    for (std::size_t i = 0; i < ensemble.instruments.size(); ++i) {
        // What has none stays shared with the ensemble of before.
        const auto& chains = std::as_const(ensemble.instruments)[i].chains;
        const bool any = std::any_of(chains.begin(), chains.end(),
                                     [&](const Chain& chain) { return moves(chain.source); });
        if (any) inList(ensemble.instruments[i].chains, std::as_const(ensemble.instruments)[i].id);
    }
    return made;
}

}  // namespace

void duplicateChainsOf(Ensemble& ensemble, std::string_view element, const std::string& copy) {
    copyChains(
        ensemble,
        [element](const Source& source) {
            return source.kind == SourceKind::desk && elementOf(source) == element;
        },
        [&copy](Chain& another) { another.source.values[0] = copy; });
}

std::vector<ChainOfOwner> followElement(Ensemble& ensemble, std::string_view element, Axis axis,
                                        const Source& source) {
    return copyChains(
        ensemble,
        [element, axis](const Source& each) {
            return each.kind == SourceKind::desk && elementOf(each) == element && axisOf(each) == axis;
        },
        [&source](Chain& another) { another.source = source; });
}

void renewElement(Ensemble& ensemble, std::size_t page, std::size_t place) {
    if (page >= ensemble.desk.pages.size() || place >= ensemble.desk.pages[page].elements.size()) return;
    DeskElement& element = ensemble.desk.pages[page].elements[place];
    const std::string old = element.id;
    const bool isFirst = findElement(ensemble.desk, old) == &element;
    element.id = freeElementId(ensemble.desk, nameOf(element));
    if (!isFirst) return;
    forEachChain(ensemble, [&](Chain& chain, const Instrument*) {
        forEachWritten(chain, [&](Source& source) {
            if (source.kind == SourceKind::desk && elementOf(source) == old) source.values[0] = element.id;
        });
    });
}

}  // namespace mellow
