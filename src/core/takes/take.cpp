// All tracks of a file become one list by time, with the tempo changes in a list of their own; sorting is
// stable, so that events of one time stay in the order of their tracks. A SysEx in packets is put together,
// and comes when the last of them does.
#include "core/takes/take.h"

#include <algorithm>

#include "core/smf/tempo_map.h"

namespace mellow {

void Take::add(std::int64_t time, std::uint16_t port, midi::Bytes message) {
    events.push_back(
        {time, static_cast<std::uint32_t>(bytes.size()), static_cast<std::uint32_t>(message.size()), port});
    bytes.insert(bytes.end(), message.begin(), message.end());
}

namespace {

/// Adds the messages of a track.
void addTrack(Take& take, const smf::File& file, const smf::Track& track, const smf::TempoMap& times) {
    std::vector<std::uint8_t> packets;
    for (const smf::Event& event : track.events) {
        const midi::Bytes body = file.body(event);
        const std::int64_t time = times.microseconds(event.tick);
        switch (event.kind) {
            case smf::EventKind::channel:
                take.add(time, 0, body);
                break;
            case smf::EventKind::sysex:
                packets.assign(1, midi::sysexStart);
                [[fallthrough]];
            case smf::EventKind::escape:
                if (packets.empty()) break;
                packets.insert(packets.end(), body.begin(), body.end());
                if (packets.back() != midi::sysexEnd) break;
                take.add(time, 0, packets);
                packets.clear();
                break;
            case smf::EventKind::meta:
                if (file.metaType(event) == smf::tempo) {
                    if (const auto tempo = smf::beatsAMinute(body)) take.tempos.push_back({time, *tempo});
                }
                break;
        }
    }
}

}  // namespace

Take takeFrom(const smf::File& file, std::string port) {
    std::vector<const smf::Track*> tracks;
    for (const smf::Track& track : file.tracks) {
        if (file.format != 2 || tracks.empty()) tracks.push_back(&track);
    }
    const smf::TempoMap times(file, tracks);
    Take take;
    take.ports.push_back(std::move(port));
    for (const smf::Track* track : tracks) {
        take.length = std::max(take.length, times.microseconds(track->endTick));
        addTrack(take, file, *track, times);
    }
    const auto byTime = [](const auto& a, const auto& b) { return a.time < b.time; };
    std::stable_sort(take.events.begin(), take.events.end(), byTime);
    std::stable_sort(take.tempos.begin(), take.tempos.end(), byTime);
    return take;
}

}  // namespace mellow
