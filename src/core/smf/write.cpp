// A track's state is where its last event stands; everything else is bytes in the spool. The first thing that
// cannot be said is kept as the writer's problem and writing goes on, so that callers ask once, at the end.
// The length of a track is known when it is handed out, so nothing is patched.
#include "core/smf/write.h"

#include <algorithm>
#include <array>

namespace mellow::smf {

namespace {

using Out = std::vector<std::uint8_t>;

constexpr std::uint64_t longestDelta = 0x0FFFFFFF;
constexpr std::uint64_t longestTrack = 0xFFFFFFFF;

void number(Out& out, std::uint32_t value, int bytes) {
    for (int shift = (bytes - 1) * 8; shift >= 0; shift -= 8)
        out.push_back(static_cast<std::uint8_t>(value >> shift));
}

/// A variable-length quantity, in at most four bytes.
struct Quantity {
    std::array<std::uint8_t, 4> bytes{};
    std::size_t size = 0;

    explicit Quantity(std::uint64_t value) {
        for (int shift = 21; shift > 0; shift -= 7) {
            if ((value >> shift) != 0)
                bytes.at(size++) = static_cast<std::uint8_t>(0x80 | (value >> shift & 0x7F));
        }
        bytes.at(size++) = static_cast<std::uint8_t>(value & 0x7F);
    }
    operator midi::Bytes() const { return midi::Bytes(bytes).first(size); }
};

std::uint32_t divisionWord(const Division& division) {
    if (division.ticksPerQuarter > 0) return static_cast<std::uint32_t>(division.ticksPerQuarter);
    return static_cast<std::uint32_t>(((256 - division.framesPerSecond) << 8) | division.ticksPerFrame);
}

}  // namespace

Writer::Writer(const Division& division, std::size_t tracks)
    : division_(division), tracks_(tracks), spool_(tracks) {}

void Writer::delta(std::size_t track, std::uint64_t tick) {
    while (tick - tracks_[track].last > longestDelta) {
        spool_.append(track, Quantity(longestDelta));
        spool_.append(track, std::array<std::uint8_t, 3>{0xFF, textEvent, 0x00});
        tracks_[track].last += longestDelta;
    }
    spool_.append(track, Quantity(tick - tracks_[track].last));
    tracks_[track].last = tick;
}

void Writer::add(std::size_t track, std::uint64_t tick, EventKind kind, midi::Bytes body,
                 std::uint8_t metaType) {
    delta(track, tick);
    if (kind != EventKind::channel) {
        const std::array<std::uint8_t, 2> head{static_cast<std::uint8_t>(kind == EventKind::meta    ? 0xFF
                                                                         : kind == EventKind::sysex ? 0xF0
                                                                                                    : 0xF7),
                                               metaType};
        spool_.append(track, midi::Bytes(head).first(kind == EventKind::meta ? 2 : 1));
        spool_.append(track, Quantity(body.size()));
    }
    spool_.append(track, body);
}

void Writer::endAt(std::size_t track, std::uint64_t tick) {
    tracks_[track].end = tick;
}

Outcome Writer::print(const std::function<bool(midi::Bytes)>& out) {
    const Problem full{"temporary files", "the disk is full", "make room and try again"};
    for (std::size_t track = 0; track < tracks_.size(); ++track) {
        delta(track, std::max(tracks_[track].end, tracks_[track].last));
        spool_.append(track, std::array<std::uint8_t, 3>{0xFF, endOfTrack, 0x00});
        if (spool_.sizeOf(track) > longestTrack && !problem_)
            problem_ = Problem{"track " + std::to_string(track + 1), "it is longer than the 4 GB of a track",
                               "shorten the file"};
    }
    if (problem_) return *problem_;
    if (!spool_.isWhole()) return full;
    Out head{'M', 'T', 'h', 'd'};
    number(head, 6, 4);
    number(head, 1, 2);
    number(head, static_cast<std::uint32_t>(tracks_.size()), 2);
    number(head, divisionWord(division_), 2);
    bool goesOn = out(head);
    for (std::size_t track = 0; goesOn && track < tracks_.size(); ++track) {
        head = {'M', 'T', 'r', 'k'};
        number(head, static_cast<std::uint32_t>(spool_.sizeOf(track)), 4);
        goesOn = out(head) && spool_.read(track, out);
    }
    return goesOn && out(chunks_) ? Outcome(Done{}) : full;
}

Result<std::vector<std::uint8_t>> write(const File& file) {
    Writer writer(file.division, file.tracks.size());
    for (std::size_t track = 0; track < file.tracks.size(); ++track) {
        for (const Event& event : file.tracks[track].events)
            writer.add(track, event.tick, event.kind, file.body(event), file.metaType(event));
        writer.endAt(track, file.tracks[track].endTick);
    }
    writer.addChunks(file.otherChunks);
    Out bytes;
    const auto printed = writer.print([&bytes](midi::Bytes piece) {
        bytes.insert(bytes.end(), piece.begin(), piece.end());
        return true;
    });
    if (!printed) return printed.problem();
    return bytes;
}

}  // namespace mellow::smf
