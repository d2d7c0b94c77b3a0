// All tracks of a file become one list by time, with the tempo changes in a list of their own; sorting is
// stable, so that events of one time stay in the order of their tracks.
#include "core/takes/take.h"

#include <algorithm>

#include "core/smf/tempo_map.h"

namespace mellow {

Take takeFrom(const smf::File& file) {
    std::vector<const smf::Track*> tracks;
    for (const smf::Track& track : file.tracks) {
        if (file.format != 2 || tracks.empty()) tracks.push_back(&track);
    }
    const smf::TempoMap times(file, tracks);
    Take take;
    for (const smf::Track* track : tracks) {
        take.length = std::max(take.length, times.microseconds(track->endTick));
        for (const smf::Event& event : track->events) {
            const midi::Bytes body = file.body(event);
            if (event.kind == smf::EventKind::meta && file.metaType(event) == smf::tempo) {
                if (const auto tempo = smf::beatsAMinute(body))
                    take.tempos.push_back({times.microseconds(event.tick), *tempo});
            }
            if (event.kind != smf::EventKind::channel) continue;
            midi::Short message;
            std::copy(body.begin(), body.end(), message.data.begin());
            message.size = static_cast<std::uint8_t>(body.size());
            take.events.push_back({times.microseconds(event.tick), message});
        }
    }
    const auto byTime = [](const auto& a, const auto& b) { return a.time < b.time; };
    std::stable_sort(take.events.begin(), take.events.end(), byTime);
    std::stable_sort(take.tempos.begin(), take.tempos.end(), byTime);
    return take;
}

}  // namespace mellow
