// Ticks are cut where the tempo map says that the times are, and a part keeps the division.
#include "core/smf/cut.h"

#include <array>
#include <map>
#include <tuple>

#include "core/smf/tempo_map.h"

namespace mellow::smf {

namespace {

/// Whether a meta event says something that stands until the next of its type.
bool stands(std::uint8_t type) {
    constexpr std::uint8_t keySignature = 0x59;
    return type == tempo || type == timeSignature || type == keySignature;
}

/// Cuts one track.
class Cutting {
 public:
    Cutting(const File& file, const Track& track, File& part, std::uint64_t from, std::uint64_t to)
        : file_(file), track_(track), part_(part), from_(from), to_(to) {}

    Track cut() {
        std::size_t next = 0;
        for (; next < track_.events.size() && track_.events[next].tick < from_; ++next) before(next);
        sayWhatStands();
        for (; next < track_.events.size() && track_.events[next].tick < to_; ++next)
            within(track_.events[next]);
        for (const auto& [key, count] : sounding_) {
            const std::array<std::uint8_t, 3> off{static_cast<std::uint8_t>(midi::noteOff | key.first),
                                                  key.second, midi::middleVelocity};
            for (int left = count; left > 0; --left) part_.add(made_, to_ - from_, EventKind::channel, off);
        }
        made_.endTick = std::max(
            made_.endTick, std::min(track_.endTick, to_) > from_ ? std::min(track_.endTick, to_) - from_ : 0);
        return std::move(made_);
    }

 private:
    using Key = std::pair<std::uint8_t, std::uint8_t>;  // channel and key

    void before(std::size_t place) {
        const Event& event = track_.events[place];
        const midi::Bytes body = file_.body(event);
        if (event.kind == EventKind::meta) {
            const std::uint8_t type = file_.metaType(event);
            if (type == trackName && event.tick == 0) last_.insert_or_assign({type, 0, 1}, place);
            if (stands(type)) last_.insert_or_assign({type, 0, 1}, place);
        } else if (event.kind == EventKind::channel) {
            const int kind = midi::kindOf(body);
            if (kind == midi::noteOn || kind == midi::noteOff) return;
            const int number = kind == midi::controlChange || kind == midi::keyPressure ? body[1] : 0;
            last_.insert_or_assign({body[0], number, 0}, place);
        }
    }

    void sayWhatStands() {
        std::map<std::size_t, bool> places;
        for (const auto& [subject, place] : last_) places[place] = true;
        for (const auto& [place, said] : places) add(track_.events[place], 0);
    }

    void within(const Event& event) {
        const midi::Bytes body = file_.body(event);
        if (event.kind == EventKind::channel) {
            const Key key{static_cast<std::uint8_t>(midi::channelOf(body)), body[1]};
            if (midi::isNoteOn(body)) {
                ++sounding_[key];
            } else if (midi::isNoteOff(body)) {
                const auto found = sounding_.find(key);
                if (found == sounding_.end() || found->second == 0) return;
                --found->second;
            }
        }
        // It speaks of every event of the track, and of this part's it does not.
        if (event.kind == EventKind::meta && file_.metaType(event) == sequencerSpecific) return;
        add(event, event.tick - from_);
    }

    void add(const Event& event, std::uint64_t tick) {
        part_.add(made_, tick, event.kind, file_.body(event), file_.metaType(event));
    }

    const File& file_;
    const Track& track_;
    File& part_;
    std::uint64_t from_;
    std::uint64_t to_;
    Track made_;
    std::map<std::tuple<int, int, int>, std::size_t>
        last_;  ///< by status or type, number, and which of these
    std::map<Key, int> sounding_;
};

}  // namespace

File cut(const File& file, std::int64_t from, std::int64_t to) {
    File part;
    part.format = file.format;
    part.division = file.division;
    part.otherChunks = file.otherChunks;
    std::vector<const Track*> all;
    for (const Track& track : file.tracks) all.push_back(&track);
    for (const Track& track : file.tracks) {
        const TempoMap times(file, file.format == 2 ? std::vector<const Track*>{&track} : all);
        const std::uint64_t begin = times.nearestTick(from);
        const std::uint64_t end = std::max(begin, times.nearestTick(to));
        part.tracks.push_back(Cutting(file, track, part, begin, end).cut());
    }
    return part;
}

}  // namespace mellow::smf
