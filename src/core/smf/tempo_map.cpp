#include "core/smf/tempo_map.h"

#include <algorithm>
#include <limits>

namespace mellow::smf {

namespace {

struct TempoChange {
    std::uint64_t tick;
    std::uint64_t microsecondsPerQuarter;
};

std::vector<TempoChange> tempoChanges(const File& file, const std::vector<const Track*>& tracks) {
    std::vector<TempoChange> changes;
    for (const Track* track : tracks) {
        for (const Event& event : track->events) {
            if (event.kind != EventKind::meta || file.metaType(event) != tempo) continue;
            const midi::Bytes body = file.body(event);
            if (body.size() != 3) continue;
            const std::uint64_t value =
                (std::uint64_t{body[0]} << 16) | (std::uint64_t{body[1]} << 8) | body[2];
            if (value > 0) changes.push_back({event.tick, value});
        }
    }
    std::stable_sort(changes.begin(), changes.end(), [](auto& a, auto& b) { return a.tick < b.tick; });
    return changes;
}

}  // namespace

TempoMap::TempoMap(const File& file, const std::vector<const Track*>& tracks) {
    const Division& division = file.division;
    if (division.ticksPerQuarter == 0) {
        const bool drop = division.framesPerSecond == 29;
        const std::uint64_t rate = drop ? 30000 : static_cast<std::uint64_t>(division.framesPerSecond);
        denominator_ = rate * static_cast<std::uint64_t>(division.ticksPerFrame);
        segments_.push_back({0, 0, drop ? std::uint64_t{1001} * 1000000 : std::uint64_t{1000000}});
        return;
    }
    denominator_ = static_cast<std::uint64_t>(division.ticksPerQuarter);
    segments_.push_back({0, 0, 500000});
    for (const TempoChange& change : tempoChanges(file, tracks)) {
        const Segment& last = segments_.back();
        if (change.tick == last.tick) {
            segments_.back().perTick = change.microsecondsPerQuarter;
        } else {
            const Wide start = last.start + Wide{change.tick - last.tick} * last.perTick;
            segments_.push_back({change.tick, start, change.microsecondsPerQuarter});
        }
    }
}

std::int64_t TempoMap::microseconds(std::uint64_t tick) const {
    const auto next = std::upper_bound(segments_.begin(), segments_.end(), tick,
                                       [](std::uint64_t t, const Segment& s) { return t < s.tick; });
    const Segment& segment = *(next - 1);
    const Wide time = (segment.start + Wide{tick - segment.tick} * segment.perTick) / denominator_;
    constexpr auto latest = static_cast<Wide>(std::numeric_limits<std::int64_t>::max() / 4);
    return static_cast<std::int64_t>(std::min(time, latest));
}

std::uint64_t TempoMap::nearestTick(std::int64_t microseconds) const {
    const Wide time =
        Wide{static_cast<std::uint64_t>(std::max<std::int64_t>(microseconds, 0))} * denominator_;
    const auto next = std::upper_bound(segments_.begin(), segments_.end(), time,
                                       [](Wide t, const Segment& s) { return t < s.start; });
    const Segment& segment = *(next - 1);
    // Halves: (2·elapsed + perTick) / (2·perTick), rounded down, is the nearest with ties to the later.
    const Wide ticks = (2 * (time - segment.start) + segment.perTick) / (2 * Wide{segment.perTick});
    return segment.tick + static_cast<std::uint64_t>(ticks);
}

}  // namespace mellow::smf
