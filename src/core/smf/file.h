// A Standard MIDI File in memory.
//
// A file is a header (format, number of tracks, division) and tracks of events, each some ticks after the one
// before it (Standard MIDI Files 1.0, RP-001). Channel messages, meta events and SysEx are kept as they were;
// what a tick lasts follows from the division and, for divisions in ticks a quarter note, from the tempo
// events. Channel messages are nearly all there is, and are part of their events; longer bodies lie end to
// end in one byte store. So a file of a million events is a few allocations that grow and not a million small
// ones.
//
// read.h and write.h turn bytes into this and back; tempo_map.h turns ticks into microseconds.
#pragma once

#include <algorithm>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/midi/message.h"

namespace mellow::smf {

enum class EventKind : std::uint8_t {
    channel,  ///< body: the whole channel message, status byte first
    sysex,    ///< body: what follows F0 and its length; a complete one ends in F7
    escape,  ///< body: what follows F7 and its length: a continued SysEx, or any bytes to be sent as they are
    meta,    ///< body: the meta event's data
};

/// Meta event types that this program reads. All others are carried along.
enum Meta : std::uint8_t {
    textEvent = 0x01,
    trackName = 0x03,
    marker = 0x06,
    cuePoint = 0x07,
    endOfTrack = 0x2F,
    tempo = 0x51,
    timeSignature = 0x58,
    sequencerSpecific = 0x7F,
};

/// What a tempo event's body says, in quarter notes a minute; nothing when it is not three bytes or says 0.
inline std::optional<double> beatsAMinute(midi::Bytes body) {
    if (body.size() != 3) return std::nullopt;
    const int quarter = body[0] << 16 | body[1] << 8 | body[2];  // µs
    return quarter > 0 ? std::optional(60e6 / quarter) : std::nullopt;
}

/// Sixteen bytes, since long files hold millions. A channel message stands in the event itself; of anything
/// longer the event says where it stands in the file's store. A file's own limits leave room: lengths have 28
/// bits there, and ticks are sums of numbers of 28 bits.
struct Event {
    struct Stored {
        std::uint64_t offset : 36;  ///< in File::store
        std::uint64_t length : 28;  ///< in bytes
    };
    std::uint64_t tick : 62;  ///< from the start of the track
    EventKind kind : 2;
    union {
        midi::Short message{};  ///< of a channel event
        Stored stored;          ///< of any other
    };
};
static_assert(sizeof(Event) == 16);

struct Track {
    std::vector<Event> events;  ///< in rising order of ticks, without the end-of-track event
    std::uint64_t endTick = 0;  ///< where the end-of-track event stands; never before the last event

    /// A new last event, to be filled in. Its tick must not fall; endTick is left to the caller.
    Event& append(std::uint64_t tick, EventKind kind) {
        Event& event = events.emplace_back();
        event.tick = tick;
        event.kind = kind;
        return event;
    }
};

/// What a tick is. Source: RP-001, "division".
struct Division {
    int ticksPerQuarter = 480;  ///< 1..32767, or 0 when the file counts frames
    int framesPerSecond = 0;    ///< 24, 25, 29 (which means 30000/1001) or 30
    int ticksPerFrame = 0;      ///< 1..255
    bool operator==(const Division&) const = default;
};

struct File {
    int format = 1;
    Division division;
    std::vector<Track> tracks;
    std::vector<std::uint8_t> store;
    std::vector<std::uint8_t> otherChunks;  ///< chunks of unknown kinds, whole, end to end

    /// What an event consists of; valid as long as the event and the store are.
    [[nodiscard]] midi::Bytes body(const Event& event) const {
        if (event.kind == EventKind::channel) return event.message.bytes();
        return {store.data() + event.stored.offset, event.stored.length};
    }
    /// The type of a meta event, which stands in the store before its body; 0 of other events.
    [[nodiscard]] std::uint8_t metaType(const Event& event) const {
        return event.kind == EventKind::meta ? store[event.stored.offset - 1] : std::uint8_t{0};
    }
    /// Appends an event to a track; its tick must not fall. A channel message must be whole.
    void add(Track& track, std::uint64_t tick, EventKind kind, midi::Bytes body, std::uint8_t metaType = 0) {
        if (kind == EventKind::meta) store.push_back(metaType);
        Event& event = track.append(tick, kind);
        track.endTick = std::max(track.endTick, tick);
        if (kind == EventKind::channel) {
            event.message = midi::shortOf(body);
        } else {
            event.stored = {store.size(), body.size()};
            store.insert(store.end(), body.begin(), body.end());
        }
    }
};

}  // namespace mellow::smf
