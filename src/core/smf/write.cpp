#include "core/smf/write.h"

#include <algorithm>

namespace mellow::smf {

namespace {

using Out = std::vector<std::uint8_t>;

constexpr std::uint64_t longestDelta = 0x0FFFFFFF;

void number(Out& out, std::uint32_t value, int bytes) {
    for (int shift = (bytes - 1) * 8; shift >= 0; shift -= 8)
        out.push_back(static_cast<std::uint8_t>(value >> shift));
}

void quantity(Out& out, std::uint32_t value) {
    for (int shift = 21; shift > 0; shift -= 7) {
        if ((value >> shift) != 0) out.push_back(static_cast<std::uint8_t>(0x80 | ((value >> shift) & 0x7F)));
    }
    out.push_back(static_cast<std::uint8_t>(value & 0x7F));
}

void append(Out& out, midi::Bytes bytes) {
    for (const std::uint8_t byte : bytes) out.push_back(byte);
}

void delta(Out& out, std::uint64_t ticks) {
    while (ticks > longestDelta) {
        quantity(out, longestDelta);
        append(out, std::array<std::uint8_t, 3>{0xFF, 0x01, 0x00});
        ticks -= longestDelta;
    }
    quantity(out, static_cast<std::uint32_t>(ticks));
}

void event(Out& out, const File& file, const Event& event) {
    const midi::Bytes body = file.body(event);
    if (event.kind == EventKind::channel) return append(out, body);
    if (event.kind == EventKind::meta) {
        out.push_back(0xFF);
        out.push_back(file.metaType(event));
    } else {
        out.push_back(event.kind == EventKind::sysex ? 0xF0 : 0xF7);
    }
    quantity(out, static_cast<std::uint32_t>(body.size()));
    append(out, body);
}

std::uint32_t divisionWord(const Division& division) {
    if (division.ticksPerQuarter > 0) return static_cast<std::uint32_t>(division.ticksPerQuarter);
    return static_cast<std::uint32_t>(((256 - division.framesPerSecond) << 8) | division.ticksPerFrame);
}

}  // namespace

std::vector<std::uint8_t> write(const File& file) {
    constexpr std::size_t usualEvent = 5;  // bytes
    std::size_t events = 0;
    for (const Track& track : file.tracks) events += track.events.size();
    Out out;
    out.reserve(events * usualEvent + file.store.size());
    append(out, std::array<std::uint8_t, 4>{'M', 'T', 'h', 'd'});
    number(out, 6, 4);
    number(out, 1, 2);
    number(out, static_cast<std::uint32_t>(file.tracks.size()), 2);
    number(out, divisionWord(file.division), 2);
    for (const Track& track : file.tracks) {
        append(out, std::array<std::uint8_t, 8>{'M', 'T', 'r', 'k', 0, 0, 0, 0});
        const std::size_t start = out.size();
        std::uint64_t tick = 0;
        for (const Event& each : track.events) {
            delta(out, each.tick - tick);
            event(out, file, each);
            tick = each.tick;
        }
        delta(out, std::max(track.endTick, tick) - tick);
        append(out, std::array<std::uint8_t, 3>{0xFF, endOfTrack, 0x00});
        const std::size_t length = out.size() - start;
        for (std::size_t i = 1; i <= 4; ++i)
            out[start - i] = static_cast<std::uint8_t>(length >> 8 * (i - 1));
    }
    return out;
}

}  // namespace mellow::smf
