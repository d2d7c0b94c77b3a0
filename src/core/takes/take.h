// A take: what hands did, as messages, the ports through which they came, and the times at which they did it.
//
// A take holds the hands and not the results, so it can be played through the chains again after they change.
// Here it is read from a Standard MIDI File; channel messages, SysEx and tempo are taken, all else is left
// out.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/midi/message.h"
#include "core/smf/file.h"

namespace mellow {

struct TakeEvent {
    std::int64_t time = 0;    ///< microseconds from the start
    std::uint32_t first = 0;  ///< of Take::bytes
    std::uint32_t size = 0;
    std::uint16_t port = 0;  ///< place in Take::ports
};

struct TempoChange {
    std::int64_t time = 0;  ///< microseconds from the start
    double tempo = 0;       ///< quarter notes a minute
};

struct Take {
    std::vector<std::string> ports;   ///< names
    std::vector<TakeEvent> events;    ///< in order of time
    std::vector<std::uint8_t> bytes;  ///< of all events
    std::vector<TempoChange> tempos;  ///< in order of time
    std::int64_t length = 0;          ///< microseconds; never before the last event

    [[nodiscard]] midi::Bytes bodyOf(const TakeEvent& event) const {
        return midi::Bytes(bytes).subspan(event.first, event.size);
    }
    /// Adds a whole message behind those that are there. port: place in `ports`.
    void add(std::int64_t time, std::uint16_t port, midi::Bytes message);
};

/// The messages of a file, merged by tick, then track, all as if they had come through one port. Of a
/// format-2 file, the first sequence.
Take takeFrom(const smf::File& file, std::string port);

}  // namespace mellow
