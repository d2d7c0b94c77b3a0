// Tracks merged into one stream: by tick, then track, then place in the track, as the signal rules (section
// 7) have the events of a file arrive. From a heap, so that many tracks cost their logarithm and nothing is
// copied.
#pragma once

#include <cstdint>
#include <functional>
#include <queue>
#include <vector>

#include "core/smf/file.h"

namespace mellow::smf {

/// Calls visit(event, place of its track in the list) for all events of some tracks, in order; where visit
/// returns false it was the last.
template<class Visit>
void forEachInTime(const std::vector<const Track*>& tracks, Visit&& visit) {
    struct Next {
        std::uint64_t tick;
        std::size_t track;
        bool operator>(const Next& other) const {
            return tick != other.tick ? tick > other.tick : track > other.track;
        }
    };
    std::priority_queue<Next, std::vector<Next>, std::greater<>> next;
    std::vector<std::size_t> places(tracks.size(), 0);
    const auto queue = [&](std::size_t track) {
        const auto& events = tracks[track]->events;
        if (places[track] < events.size()) next.push({events[places[track]].tick, track});
    };
    for (std::size_t track = 0; track < tracks.size(); ++track) queue(track);
    while (!next.empty()) {
        const auto [tick, track] = next.top();
        next.pop();
        // What follows in the same track goes on as long as nothing of another comes before it.
        const auto& events = tracks[track]->events;
        std::size_t& place = places[track];
        const bool alone = next.empty();
        const Next other = alone ? Next{tick, track} : next.top();
        while (place < events.size()) {
            const Next here{events[place].tick, track};
            if (!alone && here > other) break;
            if (!visit(events[place++], track)) return;
        }
        queue(track);
    }
}

}  // namespace mellow::smf
