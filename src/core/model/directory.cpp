// The index is hash maps from ids, as views of the strings in the document, to the things. The first of
// two with one id is kept, as walking through the list would find it.
#include "core/model/directory.h"

#include <optional>
#include <unordered_map>

namespace mellow {

namespace {

template<class Thing>
using Places = std::unordered_map<std::string_view, const Thing*>;

template<class List>
auto placesOf(const List& list) {
    Places<typename List::value_type> places;
    places.reserve(list.size());
    for (const auto& each : list) places.try_emplace(each.id, &each);
    return places;
}

template<class List>
const typename List::value_type* in(std::optional<Places<typename List::value_type>>& places,
                                    const List& list, std::string_view id) {
    if (!places) places = placesOf(list);
    const auto found = places->find(id);
    return found == places->end() ? nullptr : found->second;
}

}  // namespace

/// Each made when it is first asked for: most compilations ask for none.
struct Directory::Index {
    std::optional<Places<Controller>> controllers;
    std::optional<Places<TieLine>> tieLines;
    std::optional<Places<Instrument>> instruments;
    std::optional<Places<DeskElement>> deskElements;
};

Directory Directory::indexed(const Ensemble& ensemble) {
    Directory directory(ensemble);
    directory.index_ = std::make_shared<Index>();
    return directory;
}

const Controller* Directory::controller(std::string_view id) const {
    return index_ == nullptr ? findById(ensemble_->controllers, id)
                             : in(index_->controllers, ensemble_->controllers, id);
}
const TieLine* Directory::tieLine(std::string_view id) const {
    return index_ == nullptr ? findById(ensemble_->tieLines, id)
                             : in(index_->tieLines, ensemble_->tieLines, id);
}
const Instrument* Directory::instrument(std::string_view id) const {
    return index_ == nullptr ? findById(ensemble_->instruments, id)
                             : in(index_->instruments, ensemble_->instruments, id);
}

const DeskElement* Directory::deskElement(std::string_view id) const {
    if (index_ == nullptr) {
        const DeskElement* found = nullptr;
        forEachElement(ensemble_->desk, [&](const DeskElement& element) {
            if (found == nullptr && element.id == id) found = &element;
        });
        return found;
    }
    auto& places = index_->deskElements;
    if (!places) {
        places.emplace();
        forEachElement(ensemble_->desk,
                       [&](const DeskElement& element) { places->try_emplace(element.id, &element); });
    }
    const auto found = places->find(id);
    return found == places->end() ? nullptr : found->second;
}

}  // namespace mellow
