// A take: what hands did, as messages and the times at which they did it.
//
// A take holds the hands and not the results, so it can be played through the chains again after they change.
// Here it is read from a Standard MIDI File; everything but channel messages and tempo is left out.
#pragma once

#include <cstdint>
#include <vector>

#include "core/midi/message.h"
#include "core/smf/file.h"

namespace mellow {

struct TakeEvent {
    std::int64_t time = 0;  ///< microseconds from the start
    midi::Short message;
};

struct TempoChange {
    std::int64_t time = 0;  ///< microseconds from the start
    double tempo = 0;       ///< quarter notes a minute
};

struct Take {
    std::vector<TakeEvent> events;    ///< in order of time
    std::vector<TempoChange> tempos;  ///< in order of time
    std::int64_t length = 0;          ///< microseconds; never before the last event
};

/// The channel messages of a file, merged by tick, then track. Of a format-2 file, the first sequence.
Take takeFrom(const smf::File& file);

}  // namespace mellow
