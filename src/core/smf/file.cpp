#include "core/smf/file.h"

#include <algorithm>

namespace mellow::smf {

void File::add(Track& track, std::uint64_t tick, EventKind kind, midi::Bytes body, std::uint8_t metaType) {
    track.events.push_back({tick, store.size(), static_cast<std::uint32_t>(body.size()), kind, metaType});
    store.insert(store.end(), body.begin(), body.end());
    track.endTick = std::max(track.endTick, tick);
}

}  // namespace mellow::smf
