// The notation of `feed`: one message a line, as people can read and write it.
//
// A message of MIDI is "TIME_US PORT HEXBYTES", such as "1500 keys B0 01 40"; one of OSC is "TIME_US PORT
// /address value" (ensemble-format, "The command-line tool"). What comes out has the instrument's id in place
// of the port, but for OSC, which names the port in both directions.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/engine/playing/engine.h"
#include "core/result.h"

namespace mellow::engine {

struct FeedLine {
    Time time = 0;
    std::string port;
    std::vector<std::uint8_t> bytes;  ///< one whole message; empty: it is OSC
    std::string address;
    double number = 0;
};

/// Reads a line. earliest: no time may be below it. The problem's place is left to the caller.
Result<FeedLine> parseFeedLine(std::string_view written, Time earliest);

/// Plays a line that came in.
void playFeedLine(Engine& engine, const FeedLine& line, PortId port, const Sink& sink);

/// A line for what went out, without its end.
std::string feedLine(const Plan& plan, const Output& output);

}  // namespace mellow::engine
