// A take: what hands did, as messages, the ports through which they came, and the times at which they did it.
//
// A take holds the hands and not the results, so it can be played through the chains again after they change.
// Beside messages it knows the tempo at which it was played, and marks on its time line: cues, metres and
// whatever else a file says of its time. What came by OSC, from a tablet or the desk, is an event too, with
// its line as the body: "/ADDRESS NUMBER".
//
// An event is sixteen bytes, since a long take holds millions; channel messages stand in it, and of what is
// longer it says where that lies.
#pragma once

#include <algorithm>
#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "core/midi/message.h"
#include "core/smf/file.h"
#include "core/text/osc_line.h"

namespace mellow {

struct TakeEvent {
    std::int64_t time = 0;   ///< microseconds from the start
    midi::Short message;     ///< of more than three bytes: size 0, and a number of Take::bodyOf() in its data
    std::uint16_t port = 0;  ///< place in Take::ports

    [[nodiscard]] bool isLong() const { return message.size == 0; }
};
static_assert(sizeof(TakeEvent) == 16);

struct TempoChange {
    std::int64_t time = 0;  ///< microseconds from the start
    double tempo = 0;       ///< quarter notes a minute
    bool operator==(const TempoChange&) const = default;
};

/// Something that a file says of a moment: a meta event.
struct TakeMark {
    std::int64_t time = 0;  ///< microseconds from the start
    std::uint8_t type = smf::marker;
    std::string body;

    [[nodiscard]] bool isCue() const { return type == smf::marker || type == smf::cuePoint; }
    bool operator==(const TakeMark&) const = default;
};

struct Take {
    std::vector<std::string> ports;   ///< names
    std::vector<TakeEvent> events;    ///< in order of time
    std::vector<TempoChange> tempos;  ///< in order of time
    std::vector<TakeMark> marks;      ///< in order of time
    std::int64_t length = 0;          ///< microseconds; never before the last event

    /// What an event consists of: a whole message, or, where it begins with '/', a line of OSC.
    [[nodiscard]] midi::Bytes bodyOf(const TakeEvent& event) const {
        if (!event.isLong()) return event.message.bytes();
        const std::size_t place = longPlace(event);
        const std::size_t first = place == 0 ? 0 : ends_[place - 1];
        return midi::Bytes(store_).subspan(first, ends_[place] - first);
    }
    /// Adds a whole message, or a line of OSC, behind those that are there. port: place in `ports`.
    void add(std::int64_t time, std::uint16_t port, midi::Bytes body);
    /// An event of another take, at another time or through another port.
    void addFrom(const Take& other, const TakeEvent& event, std::int64_t time, std::uint16_t port);
    /// The place of a port, which is added where it is new.
    std::uint16_t portNumber(std::string_view name);
    /// The place of the first event at a time or later.
    [[nodiscard]] std::size_t placeAt(std::int64_t time) const {
        const auto found = std::partition_point(events.begin(), events.end(),
                                                [time](const TakeEvent& each) { return each.time < time; });
        return static_cast<std::size_t>(found - events.begin());
    }
    /// How many bytes of memory its events take.
    [[nodiscard]] std::size_t memory() const {
        return events.capacity() * sizeof(TakeEvent) + store_.capacity() +
               ends_.capacity() * sizeof(ends_[0]);
    }

 private:
    static std::size_t longPlace(const TakeEvent& event) {
        return static_cast<std::size_t>(event.message.data[0]) |
               static_cast<std::size_t>(event.message.data[1]) << 8 |
               static_cast<std::size_t>(event.message.data[2]) << 16;
    }

    std::vector<std::uint8_t> store_;  ///< long bodies, end to end
    std::vector<std::size_t> ends_;    ///< of each of them
};

/// The time of so many quarter notes from a take's start, by its tempos; 120 a minute before any.
std::int64_t timeOfQuarters(const Take& take, double quarters);

/// Two takes hold the same: ports, events, tempos, marks and length.
bool operator==(const Take& one, const Take& other);

/// What a take wants to know of a file's track.
struct TakeTrack {
    std::string name;    ///< empty: it has none
    bool plays = false;  ///< it holds messages
};
/// One for each track.
std::vector<TakeTrack> tracksOf(const smf::File& file);

/// Says through which port a track plays, by its name (which may be empty) and its place among those that
/// hold messages, from 0.
using PortOfTrack = std::function<std::string(const std::string& name, std::size_t place)>;

/// The messages of a file, merged by tick, then track. Of a format-2 file, the first sequence.
Take takeFrom(const smf::File& file, const PortOfTrack& portOf);
/// The same, all as if they had come through one port.
Take takeFrom(const smf::File& file, const std::string& port);

}  // namespace mellow
