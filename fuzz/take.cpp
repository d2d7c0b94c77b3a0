// A take from any file at all: reading, sorting into lanes, chasing, tidying and printing never crash, and
// what is printed is read as the same.
#include <algorithm>
#include <cstdlib>

#include "core/takes/chase.h"
#include "core/takes/take_file.h"
#include "core/takes/tidy.h"

using namespace mellow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto reading = readTake({data, size}, {});
    if (!reading) return 0;
    const Take& take = reading->take;
    constexpr std::int64_t longest = std::int64_t{400} * 24 * 3600 * 1'000'000;
    if (take.length > longest) return 0;
    const TakeLanes lanes = lanesOf(take, {{"any", 1}});
    std::vector<LaneEdit> edits;
    for (const TakeLane& lane : lanes.lanes) {
        const LaneStretch stretch = stretchOf(take, lane, take.length / 4, take.length / 2);
        edits.push_back(smoothed(stretch, 100'000));
        if (thinned(stretch, 3).points.size() > stretch.points.size()) std::abort();
    }
    const Take tidied = withEdits(take, edits);
    for (const std::uint32_t place : eventsToChase(take, take.length / 2)) {
        if (place >= take.events.size()) std::abort();
    }
    const auto printed = printTake(tidied);
    if (!printed) return 0;
    const auto again = readTake(*printed, {});
    if (!again || again->take.events.size() != tidied.events.size()) std::abort();
    return 0;
}
