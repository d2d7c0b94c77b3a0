// Words between spaces, numbers by from_chars, which knows no locale; a line is read whole or refused with
// what was expected. Ids that are no words would break the lines that come out, so those are written as far
// as they can be shown.
#include "core/engine/driving/feed.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "core/text/printable.h"

namespace mellow::engine {

namespace {

constexpr Time latest = Time{1} << 61;

std::vector<std::string_view> words(std::string_view text) {
    std::vector<std::string_view> found;
    while (true) {
        const std::size_t start = text.find_first_not_of(" \t\r");
        if (start == std::string_view::npos) return found;
        text.remove_prefix(start);
        const std::size_t end = std::min(text.find_first_of(" \t\r"), text.size());
        found.push_back(text.substr(0, end));
        text.remove_prefix(end);
    }
}

Problem wrong(std::string what) {
    return {"", std::move(what), "write TIME_US PORT HEXBYTES, or TIME_US PORT /address value"};
}

template<class Number>
bool readWhole(std::string_view text, Number& number) {
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
    return error == std::errc() && end == text.data() + text.size();
}

}  // namespace

Result<FeedLine> parseFeedLine(std::string_view written, Time earliest) {
    const auto parts = words(written);
    if (parts.size() < 3) return wrong("expected a time, a port and the bytes of a message");
    FeedLine line;
    if (!readWhole(parts[0], line.time) || line.time < 0 || line.time > latest)
        return wrong(text::quoted(parts[0]) + " is no time in microseconds");
    if (line.time < earliest)
        return wrong("the time " + text::quoted(parts[0]) + " is before that of the line above");
    line.port = parts[1];
    if (parts[2].front() == '/') {
        line.address = parts[2];
        const bool isNumber =
            parts.size() == 4 && readWhole(parts[3], line.number) && std::isfinite(line.number);
        if (!isNumber) return wrong("an OSC address is followed by one number");
        if (line.port == deskPortName && (line.number < 0 || line.number > 1))
            return wrong("an element of the desk is moved between 0 and 1");
        return line;
    }
    for (std::size_t i = 2; i < parts.size(); ++i) {
        const auto byte = midi::byteFromHex(parts[i]);
        if (!byte) return wrong(text::quoted(parts[i]) + " is no byte of two hexadecimal digits");
        line.bytes.push_back(*byte);
    }
    if (!midi::isWhole(line.bytes))
        return wrong(text::quoted(midi::toHex(line.bytes)) + " is not one whole MIDI message");
    return line;
}

void playFeedLine(Engine& engine, const FeedLine& line, PortId port, const Sink& sink) {
    engine.process({line.time, port, line.bytes, line.address, line.number}, sink);
}

namespace {

/// An id as it is, or, of one that would break the line, what can be shown of it without a space.
std::string oneWord(std::string_view id) {
    if (text::isOneWord(id)) return std::string(id);
    constexpr std::size_t enough = 100;
    std::string word = text::printable(id, enough);
    std::replace(word.begin(), word.end(), ' ', '_');
    return word.empty() ? "_" : word;
}

}  // namespace

std::string feedLine(const Plan& plan, const Output& output) {
    std::string line = std::to_string(output.time) + " ";
    if (!output.bytes.empty())
        return line + oneWord(plan.numbering.instruments.name(output.instrument)) + " " +
               midi::toHex(output.bytes);
    std::array<char, 64> digits{};
    const auto end = std::to_chars(digits.data(), digits.data() + digits.size(), output.number).ptr;
    line += oneWord(plan.numbering.ports.name(output.port)) + " ";
    line += oneWord(output.address);
    return line + " " + std::string(digits.data(), end);
}

}  // namespace mellow::engine
