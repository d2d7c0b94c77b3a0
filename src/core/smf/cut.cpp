// Ticks are cut where the tempo map says that the times are, and a part keeps the division.
#include "core/smf/cut.h"

#include <array>
#include <map>
#include <set>

#include "core/midi/standing.h"
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
        letGo();
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
            if ((type == trackName && event.tick == 0) || stands(type)) last_.insert_or_assign(type, place);
        } else if (event.kind == EventKind::channel) {
            standing_.hear(0, body, static_cast<std::uint32_t>(place));
        }
    }

    void sayWhatStands() {
        std::set<std::size_t> places;
        for (const auto& [type, place] : last_) places.insert(place);
        for (const std::size_t place : places) add(track_.events[place], 0);
        for (const Standing::Said& said : standing_.all()) {
            add(track_.events[said.tag], 0);
            if (midi::isNoteOn(said.message.bytes())) ++sounding_[keyOf(said.message.bytes())];
        }
    }

    /// What is held at the part's end, as by hands that leave: keys, then pedals, bend and pressure.
    void letGo() {
        const auto say = [this](midi::Bytes message) {
            part_.add(made_, to_ - from_, EventKind::channel, message);
        };
        for (const auto& [key, count] : sounding_) {
            if (count > 0)
                say(midi::make(midi::noteOff, key.first, key.second, midi::middleVelocity).bytes());
        }
        for (const midi::Short& message : standing_.lettingGo()) say(message.bytes());
    }

    static Key keyOf(midi::Bytes note) { return {static_cast<std::uint8_t>(midi::channelOf(note)), note[1]}; }

    void within(const Event& event) {
        const midi::Bytes body = file_.body(event);
        if (event.kind == EventKind::channel) {
            standing_.hear(0, body, 0);
            const Key key = keyOf(body);
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
    std::map<std::uint8_t, std::size_t> last_;  ///< meta events that stand, by type
    Standing standing_;
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
