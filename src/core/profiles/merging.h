// Putting things that were read into a list that has things already.
#pragma once

#include <algorithm>
#include <vector>

#include "core/model/edit.h"
#include "core/model/ensemble.h"

namespace mellow::profiles {

/// Adds things to a list, with ids of their own; one for which isSame(each, thing) holds takes the place and
/// the id of the first that it holds for. Returns how many are new.
template<class Thing, class IsSame>
int mergeInto(std::vector<Thing>& list, std::vector<Thing> things, IsSame&& isSame) {
    int added = 0;
    for (Thing& thing : things) {
        const auto same =
            std::find_if(list.begin(), list.end(), [&](const Thing& each) { return isSame(each, thing); });
        if (same != list.end()) {
            thing.id = same->id;
            *same = std::move(thing);
            continue;
        }
        thing.id = newId(list, nameOf(thing));
        list.push_back(std::move(thing));
        ++added;
    }
    return added;
}

}  // namespace mellow::profiles
