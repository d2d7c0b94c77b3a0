// The MIDI file reader: never a crash, never more memory than the file is worth, and what was read is written
// and read again unchanged.
#include <cstdlib>

#include "core/smf/read.h"
#include "core/smf/tempo_map.h"
#include "core/smf/write.h"
#include "core/takes/take.h"

using namespace mellow;

namespace {

void require(bool holds) {
    if (!holds) std::abort();
}

bool sameEvents(const smf::File& one, const smf::File& other) {
    if (one.tracks.size() != other.tracks.size()) return false;
    for (std::size_t t = 0; t < one.tracks.size(); ++t) {
        const auto& a = one.tracks[t].events;
        const auto& b = other.tracks[t].events;
        if (a.size() != b.size() || one.tracks[t].endTick != other.tracks[t].endTick) return false;
        for (std::size_t i = 0; i < a.size(); ++i) {
            const auto x = one.body(a[i]);
            const auto y = other.body(b[i]);
            if (a[i].tick != b[i].tick || a[i].kind != b[i].kind ||
                !std::equal(x.begin(), x.end(), y.begin(), y.end()))
                return false;
        }
    }
    return true;
}

/// A gap longer than one event can express is refused.
bool hasLongGap(const smf::File& file) {
    for (const smf::Track& track : file.tracks) {
        std::uint64_t last = 0;
        for (const smf::Event& event : track.events) {
            if (event.tick - last > 0x0FFFFFFF) return true;
            last = event.tick;
        }
        if (track.endTick - last > 0x0FFFFFFF) return true;
    }
    return false;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto reading = smf::read({data, size});
    if (!reading) return 0;
    const smf::File& file = reading->file;
    std::size_t events = 0;
    for (const smf::Track& track : file.tracks) events += track.events.size();
    require(events <= size && file.store.size() + file.otherChunks.size() <= 2 * size + 64);
    const Take take = takeFrom(file, "hands");
    std::size_t bytes = 0;
    for (const TakeEvent& event : take.events) bytes += take.bodyOf(event).size();
    require(bytes <= 3 * size);
    const auto written = smf::write(file);
    if (!written) {
        require(hasLongGap(file));
        return 0;
    }
    const auto again = smf::read(*written);
    require(static_cast<bool>(again) && again->warnings.empty());
    require(!hasLongGap(file) && sameEvents(file, again->file));
    return 0;
}
