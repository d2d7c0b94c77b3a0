// Putting things that were read into a list that has things already.
#pragma once

#include <string>
#include <unordered_map>
#include <vector>

#include "core/model/edit.h"
#include "core/model/ensemble.h"

namespace mellow::profiles {

/// Adds things to a list, with ids of their own; one with the same keyOf(thing) as one that is there takes
/// the place and the id of the first such. Returns how many are new.
template<class Thing, class KeyOf>
int mergeInto(std::vector<Thing>& list, std::vector<Thing> things, KeyOf&& keyOf) {
    std::unordered_map<std::string, std::size_t> places;
    for (std::size_t i = 0; i < list.size(); ++i) places.try_emplace(keyOf(list[i]), i);
    FreshIds ids(list);
    int added = 0;
    for (Thing& thing : things) {
        const auto [place, isNew] = places.try_emplace(keyOf(thing), list.size());
        if (!isNew) {
            thing.id = list[place->second].id;
            list[place->second] = std::move(thing);
            continue;
        }
        thing.id = ids.make(nameOf(thing));
        list.push_back(std::move(thing));
        ++added;
    }
    return added;
}

}  // namespace mellow::profiles
