// Tempo events come in order of time from all tracks together, and each begins a segment at the time to which
// the one before it leads. A time is found by the segment before it, and rounded once. What a tempo event
// says that is not three bytes, or 0, is passed over.
#include "core/smf/tempo_map.h"

#include <algorithm>
#include <limits>

#include "core/smf/merged.h"

namespace mellow::smf {

namespace {

/// What a tempo event says, in microseconds a quarter note; 0 of everything else.
std::uint32_t quarterOf(const File& file, const Event& event) {
    if (event.kind != EventKind::meta || file.metaType(event) != tempo) return 0;
    const midi::Bytes body = file.body(event);
    if (body.size() != 3) return 0;
    return std::uint32_t{body[0]} << 16 | std::uint32_t{body[1]} << 8 | body[2];
}

std::size_t countTempos(const File& file, const std::vector<const Track*>& tracks) {
    std::size_t count = 0;
    for (const Track* track : tracks)
        count += static_cast<std::size_t>(
            std::count_if(track->events.begin(), track->events.end(),
                          [&file](const Event& event) { return quarterOf(file, event) > 0; }));
    return count;
}

}  // namespace

TempoMap::TempoMap(const File& file, const std::vector<const Track*>& tracks) {
    const Division& division = file.division;
    if (division.ticksPerQuarter == 0) {
        const bool drop = division.framesPerSecond == 29;
        const std::uint64_t rate = drop ? 30000 : static_cast<std::uint64_t>(division.framesPerSecond);
        denominator_ = rate * static_cast<std::uint64_t>(division.ticksPerFrame);
        segments_.push_back({0, 0, 0, drop ? 1'001'000'000U : 1'000'000U});
        return;
    }
    *this = TempoMap(division);
    segments_.reserve(1 + countTempos(file, tracks));
    forEachInTime(tracks, [&](const Event& event, std::size_t) {
        if (const std::uint32_t quarter = quarterOf(file, event)) set(event.tick, quarter);
        return true;
    });
}

TempoMap::TempoMap(const Division& division)
    : segments_{{0, 0, 0, 500000}}, denominator_(static_cast<std::uint64_t>(division.ticksPerQuarter)) {}

void TempoMap::set(std::uint64_t tick, std::uint32_t perTick) {
    Segment& last = segments_.back();
    if (tick == last.tick) {
        last.perTick = perTick;
    } else {
        const Wide start = startOf(last) + Wide{tick - last.tick} * last.perTick;
        segments_.push_back(
            {tick, static_cast<std::uint64_t>(start >> 64), static_cast<std::uint64_t>(start), perTick});
    }
}

std::int64_t TempoMap::microseconds(std::uint64_t tick) const {
    const auto next = std::upper_bound(segments_.begin(), segments_.end(), tick,
                                       [](std::uint64_t t, const Segment& s) { return t < s.tick; });
    const Segment& segment = *(next - 1);
    const Wide units = startOf(segment) + Wide{tick - segment.tick} * segment.perTick;
    // Nearly always it fits, and dividing the half is many times quicker.
    const bool isSmall = units >> 64 == 0;
    const Wide time = isSmall ? Wide{static_cast<std::uint64_t>(units) / denominator_} : units / denominator_;
    constexpr auto latest = static_cast<Wide>(std::numeric_limits<std::int64_t>::max() / 4);
    return static_cast<std::int64_t>(std::min(time, latest));
}

std::uint64_t TempoMap::nearestTick(std::int64_t microseconds) const {
    const Wide time =
        Wide{static_cast<std::uint64_t>(std::max<std::int64_t>(microseconds, 0))} * denominator_;
    const auto next = std::upper_bound(segments_.begin(), segments_.end(), time,
                                       [](Wide t, const Segment& s) { return t < startOf(s); });
    const Segment& segment = *(next - 1);
    // Halves: (2·elapsed + perTick) / (2·perTick), rounded down, is the nearest with ties to the later.
    const Wide ticks = (2 * (time - startOf(segment)) + segment.perTick) / (2 * Wide{segment.perTick});
    return segment.tick + static_cast<std::uint64_t>(ticks);
}

}  // namespace mellow::smf
