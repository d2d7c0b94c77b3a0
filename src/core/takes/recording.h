// A recording: everything that hands did while somebody listened, and what becomes of it.
//
// It is kept as it came: messages with the player's times, and, where a take played along, where in it that
// was. Out of that comes a take of its own, or another version of the take that played: new hands over old
// ones, lane by lane. What was touched takes over from the touch to the end of the pass; notes are added, and
// end an old note of their key that sounds at the same time; what was not touched stays as it was.
//
// While it lasts a recording is a text that only grows, so that whatever happens to the program loses no more
// than the last line: a first line that says what it is, then
//
//   P NUMBER NAME         a port, before its first use
//   T TIME TEMPO          the tempo, in quarter notes a minute
//   R TIME POSITION       from here on a take plays, which stands at that position; -1: none does
//   E TIME NUMBER BODY    a message in hexadecimal, or a line of OSC
//
// Times are microseconds of the player.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/result.h"
#include "core/takes/take.h"

namespace mellow {

struct Recording {
    Take heard;  ///< at the player's times
    /// From a time on, the take that plays stands at a position; −1: none plays.
    struct Pass {
        std::int64_t time = 0;
        std::int64_t position = -1;
    };
    std::vector<Pass> passes;  ///< in order of time
    std::int64_t begins = 0;
    std::int64_t ends = 0;
    std::uint64_t lost = 0;    ///< messages that found no room
    std::uint64_t unread = 0;  ///< lines of its log that are none

    [[nodiscard]] bool empty() const { return heard.events.empty(); }
    /// Notes where a take stands when something is heard. Nothing is added where that was known.
    void follow(std::int64_t time, std::int64_t position);
    /// Notes the tempo. The same.
    void follow(std::int64_t time, double tempo);
};

/// How long nothing has to come, with no key down, for a pause between two things that were played.
inline constexpr std::int64_t leastPause = 3'000'000;  // µs
/// The times at which something begins that was played: the first, and behind each pause.
std::vector<std::int64_t> beginningsIn(const Recording& recording, std::int64_t pause = leastPause);
/// The recording from a time on.
Recording since(const Recording& recording, std::int64_t time);

/// A take of what was recorded, from its beginning to its end.
Take takeOf(const Recording& recording);
/// What hands played over a take: heard between two positions of it, in one pass after the other.
Take overdubbed(const Take& under, const Recording& over, std::int64_t from, std::int64_t to);

namespace recording_log {

std::string head();
std::string port(std::uint16_t number, std::string_view name);
std::string tempo(std::int64_t time, double tempo);
std::string pass(std::int64_t time, std::int64_t position);
std::string event(const Take& take, const TakeEvent& event);

/// What can be read of a log: lines that are none are passed over and counted, but for a last one that was
/// cut short. Error: it is no log, or one of a newer version.
Result<Recording> read(std::string_view text);

}  // namespace recording_log

}  // namespace mellow
