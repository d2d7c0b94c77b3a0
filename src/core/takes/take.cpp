// Tracks of a file are merged as they are played, so nothing is sorted. A SysEx in packets is put together,
// and comes when the last of them does. Where a track says to which microsecond its events belong
// (take_file.h), that is believed as far as it fits.
#include "core/takes/take.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "core/smf/merged.h"
#include "core/smf/tempo_map.h"
#include "core/takes/remainders.h"

namespace mellow {

void Take::add(std::int64_t time, std::uint16_t port, midi::Bytes body) {
    TakeEvent event;
    event.time = time;
    event.port = port;
    const bool isShort = body.size() <= 3 && !body.empty() && body[0] >= midi::noteOff;
    if (isShort) {
        event.message = midi::shortOf(body);
    } else {
        const std::size_t place = ends_.size();
        event.message.size = 0;
        for (std::size_t byte = 0; byte < 3; ++byte)
            event.message.data.at(byte) = static_cast<std::uint8_t>(place >> (8 * byte));
        store_.insert(store_.end(), body.begin(), body.end());
        ends_.push_back(store_.size());
    }
    events.push_back(event);
    length = std::max(length, time);
}

void Take::addFrom(const Take& other, const TakeEvent& event, std::int64_t time, std::uint16_t port) {
    if (event.isLong()) return add(time, port, other.bodyOf(event));
    events.push_back({time, event.message, port});
    length = std::max(length, time);
}

std::uint16_t Take::portNumber(std::string_view name) {
    const auto place = static_cast<std::size_t>(std::find(ports.begin(), ports.end(), name) - ports.begin());
    if (place == ports.size()) ports.emplace_back(name);
    return static_cast<std::uint16_t>(place);
}

std::int64_t timeOfQuarters(const Take& take, double quarters) {
    constexpr double microsecondsAMinute = 60e6;
    TempoChange now{0, 120};
    double left = quarters;
    for (const TempoChange& next : take.tempos) {
        const double until = static_cast<double>(next.time - now.time) * now.tempo / microsecondsAMinute;
        if (until > left) break;
        left -= until;
        now = next;
    }
    return now.time + std::llround(left * microsecondsAMinute / now.tempo);
}

bool operator==(const Take& one, const Take& other) {
    const auto same = [&](const TakeEvent& a, const TakeEvent& b) {
        const midi::Bytes first = one.bodyOf(a);
        const midi::Bytes second = other.bodyOf(b);
        return a.time == b.time && a.port == b.port &&
               std::equal(first.begin(), first.end(), second.begin(), second.end());
    };
    return one.ports == other.ports && one.tempos == other.tempos && one.marks == other.marks &&
           one.length == other.length &&
           std::equal(one.events.begin(), one.events.end(), other.events.begin(), other.events.end(), same);
}

namespace {

/// Whether something of a track is an event of a take.
bool isPlayed(const smf::File& file, const smf::Event& event) {
    if (event.kind != smf::EventKind::meta) return true;
    return file.metaType(event) == smf::textEvent && text::oscLineOf(file.body(event)).has_value();
}

struct TrackHead {
    TakeTrack track;
    std::size_t events = 0;  ///< that are played
    Remainders remainders;
};

TrackHead headOf(const smf::File& file, const smf::Track& track) {
    TrackHead head;
    bool named = false;
    for (const smf::Event& event : track.events) {
        if (event.kind == smf::EventKind::channel || isPlayed(file, event)) {
            ++head.events;
        } else if (file.metaType(event) == smf::trackName && !std::exchange(named, true)) {
            const midi::Bytes body = file.body(event);
            head.track.name.assign(body.begin(), body.end());
        } else if (file.metaType(event) == smf::sequencerSpecific) {
            head.remainders = Remainders::in(file.body(event));
        }
    }
    head.track.plays = head.events > 0;
    if (!head.remainders.fit(head.events)) head.remainders = {};
    return head;
}

/// Puts the events of a file's tracks into a take, one by one.
class Reader {
 public:
    Reader(const smf::File& file, std::vector<const smf::Track*> tracks, const PortOfTrack& portOf)
        : file_(file), tracks_(std::move(tracks)), times_(file, tracks_), heads_(tracks_.size()) {
        std::size_t count = 0;
        std::size_t place = 0;
        for (std::size_t track = 0; track < tracks_.size(); ++track) {
            count += tracks_[track]->events.size();
            take_.length = std::max(take_.length, times_.microseconds(tracks_[track]->endTick));
            TrackHead head = headOf(file, *tracks_[track]);
            heads_[track].remainders = std::move(head.remainders);
            if (head.track.plays) heads_[track].port = take_.portNumber(portOf(head.track.name, place++));
        }
        take_.events.reserve(count);
    }

    Take read() {
        smf::forEachInTime(tracks_, [this](const smf::Event& event, std::size_t track) {
            if (event.tick != tick_ || take_.events.empty()) {
                tick_ = event.tick;
                time_ = times_.microseconds(tick_);
            }
            take(event, heads_[track]);
            return true;
        });
        // Inside a tick what is left of a microsecond decides.
        const auto byTime = [](const TakeEvent& one, const TakeEvent& other) {
            return one.time < other.time;
        };
        if (!std::is_sorted(take_.events.begin(), take_.events.end(), byTime))
            std::stable_sort(take_.events.begin(), take_.events.end(), byTime);
        return std::move(take_);
    }

 private:
    struct Head {
        std::uint16_t port = 0;
        Remainders remainders;
        std::size_t next = 0;               ///< of its events
        std::vector<std::uint8_t> packets;  ///< of a SysEx that is under way
    };

    void take(const smf::Event& event, Head& head) {
        const midi::Bytes body = file_.body(event);
        switch (event.kind) {
            case smf::EventKind::channel:
                return add(head, body);
            case smf::EventKind::sysex:
                head.packets.assign(1, midi::sysexStart);
                [[fallthrough]];
            case smf::EventKind::escape:
                return takePacket(head, body);
            case smf::EventKind::meta:
                return takeMeta(head, file_.metaType(event), body);
        }
    }

    void takePacket(Head& head, midi::Bytes body) {
        const std::int64_t late = head.remainders.at(head.next++);
        if (head.packets.empty()) return;
        head.packets.insert(head.packets.end(), body.begin(), body.end());
        if (head.packets.back() != midi::sysexEnd) return;
        addAt(time_ + late, head.port, head.packets);
        head.packets.clear();
    }

    void takeMeta(Head& head, std::uint8_t type, midi::Bytes body) {
        if (type == smf::textEvent && text::oscLineOf(body)) return add(head, body);
        if (type == smf::tempo) {
            if (const auto tempo = smf::beatsAMinute(body)) take_.tempos.push_back({time_, *tempo});
        } else if (type != smf::trackName && !Remainders::are(body) && !body.empty()) {
            take_.marks.push_back({time_, type, std::string(body.begin(), body.end())});
        }
    }

    void add(Head& head, midi::Bytes body) {
        addAt(time_ + head.remainders.at(head.next++), head.port, body);
    }
    void addAt(std::int64_t time, std::uint16_t port, midi::Bytes body) {
        take_.add(std::max<std::int64_t>(time, 0), port, body);
    }

    const smf::File& file_;
    std::vector<const smf::Track*> tracks_;
    smf::TempoMap times_;
    std::vector<Head> heads_;
    Take take_;
    std::uint64_t tick_ = 0;
    std::int64_t time_ = 0;  ///< of the tick
};

}  // namespace

std::vector<TakeTrack> tracksOf(const smf::File& file) {
    std::vector<TakeTrack> tracks;
    for (const smf::Track& track : file.tracks) tracks.push_back(headOf(file, track).track);
    return tracks;
}

Take takeFrom(const smf::File& file, const PortOfTrack& portOf) {
    std::vector<const smf::Track*> tracks;
    for (const smf::Track& track : file.tracks) {
        if (file.format != 2 || tracks.empty()) tracks.push_back(&track);
    }
    return Reader(file, std::move(tracks), portOf).read();
}

Take takeFrom(const smf::File& file, const std::string& port) {
    Take take = takeFrom(file, [&port](const std::string&, std::size_t) { return port; });
    if (take.ports.empty()) take.ports.push_back(port);
    return take;
}

}  // namespace mellow
