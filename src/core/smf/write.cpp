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
    out.insert(out.end(), bytes.begin(), bytes.end());
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
    if (event.kind == EventKind::meta) {
        out.push_back(0xFF);
        out.push_back(file.metaType(event));
    } else if (event.kind != EventKind::channel) {
        out.push_back(event.kind == EventKind::sysex ? 0xF0 : 0xF7);
    }
    if (event.kind != EventKind::channel) quantity(out, static_cast<std::uint32_t>(event.length));
    append(out, body);
}

std::uint32_t divisionWord(const Division& division) {
    if (division.ticksPerQuarter > 0) return static_cast<std::uint32_t>(division.ticksPerQuarter);
    return static_cast<std::uint32_t>(((256 - division.framesPerSecond) << 8) | division.ticksPerFrame);
}

}  // namespace

std::vector<std::uint8_t> write(const File& file) {
    Out out{'M', 'T', 'h', 'd'};
    number(out, 6, 4);
    number(out, 1, 2);
    number(out, static_cast<std::uint32_t>(file.tracks.size()), 2);
    number(out, divisionWord(file.division), 2);
    for (const Track& track : file.tracks) {
        Out body;
        std::uint64_t tick = 0;
        for (const Event& each : track.events) {
            delta(body, each.tick - tick);
            event(body, file, each);
            tick = each.tick;
        }
        delta(body, std::max(track.endTick, tick) - tick);
        append(body, std::array<std::uint8_t, 3>{0xFF, endOfTrack, 0x00});
        append(out, std::array<std::uint8_t, 4>{'M', 'T', 'r', 'k'});
        number(out, static_cast<std::uint32_t>(body.size()), 4);
        append(out, body);
    }
    return out;
}

}  // namespace mellow::smf
