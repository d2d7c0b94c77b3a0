// A cursor that cannot leave its bytes, and a reader of tracks upon it. Nearly all of a long file is short
// channel messages close together, so these are taken in a loop of their own, with everything it needs in
// local variables; whatever it does not know ends it, and the careful way goes on from there. Warnings are
// kept to a hundred, so that a file of nothing but damage costs no more than its size.
#include "core/smf/read.h"

#include <algorithm>
#include <cstring>
#include <optional>
#include <utility>

namespace mellow::smf {

namespace {

constexpr std::size_t chunkHeaderSize = 8;

Problem notMidi(std::uint64_t offset, std::string what) {
    return {"byte " + std::to_string(offset), std::move(what), "choose a Standard MIDI File"};
}

/// The bytes from one place to another, read from the front. `at` counts from the start of the file.
class Cursor {
 public:
    Cursor(midi::Bytes file, std::size_t from, std::size_t to) : file_(file), at_(from), end_(to) {}

    [[nodiscard]] std::size_t at() const { return at_; }
    [[nodiscard]] std::size_t left() const { return end_ - at_; }
    [[nodiscard]] std::uint8_t peek() const { return file_[at_]; }
    [[nodiscard]] midi::Bytes rest() const { return file_.subspan(at_, left()); }
    void skip(std::size_t count) { at_ += count; }
    std::uint8_t byte() { return file_[at_++]; }
    midi::Bytes take(std::size_t count) {
        const midi::Bytes bytes = file_.subspan(at_, count);
        at_ += count;
        return bytes;
    }
    std::uint32_t number(int count) {
        std::uint32_t value = 0;
        for (int i = 0; i < count; ++i) value = (value << 8) | byte();
        return value;
    }
    /// A variable-length quantity: at most four bytes, seven bits each. Nothing when it is cut or longer.
    std::optional<std::uint32_t> quantity() {
        std::uint32_t value = 0;
        for (int i = 0; i < 4 && left() > 0; ++i) {
            const std::uint8_t next = byte();
            value = (value << 7) | (next & 0x7F);
            if ((next & 0x80) == 0) return value;
        }
        return std::nullopt;
    }

 private:
    midi::Bytes file_;
    std::size_t at_;
    std::size_t end_;
};

/// The first hundred are kept, and the first that tells of something lost.
void warn(Reading& reading, Warning warning) {
    constexpr std::size_t enough = 100;
    const bool isNews = warning.lost && reading.firstLoss() == nullptr;
    if (reading.warnings.size() < enough || isNews) reading.warnings.push_back(std::move(warning));
}

/// Follows the events of one track chunk.
class TrackReader {
 public:
    TrackReader(Reading& reading, Cursor cursor) : reading_(reading), cursor_(cursor) {}

    Track read() {
        constexpr std::size_t shortEvent = 3;  // bytes
        constexpr std::size_t atMost = 4'000'000;
        track_.events.reserve(std::min(cursor_.left() / shortEvent, atMost));
        while (!ended_ && !broken_) {
            plainEvents();
            if (cursor_.left() == 0) {
                warn(cursor_.at(), "the track has no end-of-track event", false);
                break;
            }
            event();
        }
        if (ended_ && cursor_.left() > 0)
            warn(cursor_.at(), "bytes after the end of the track were ignored", false);
        return std::move(track_);
    }

 private:
    void warn(std::size_t at, std::string what, bool lost) {
        smf::warn(reading_, {at, std::move(what), lost});
        broken_ = broken_ || lost;
    }

    void event() {
        const std::size_t start = cursor_.at();
        const auto delta = cursor_.quantity();
        if (!delta) return warn(start, "the time before an event is cut off or longer than four bytes", true);
        tick_ += *delta;
        if (cursor_.left() == 0)
            return warn(cursor_.at(), "the track ends where an event should follow", true);
        const std::uint8_t first = cursor_.peek();
        if (first == 0xFF) return meta();
        if (first == 0xF0 || first == 0xF7) return sysex();
        channelMessage(first);
    }

    /// What nearly all of a long track is: whole channel messages, each less than 128 ticks after the one
    /// before it. Stops in front of anything else.
    void plainEvents() {
        constexpr std::size_t longest = 4;
        const midi::Bytes bytes = cursor_.rest();
        std::size_t at = 0;
        // Members would be read and written anew for each event.
        std::uint64_t tick = tick_;
        std::uint8_t running = running_;
        while (bytes.size() - at >= longest && bytes[at] < 0x80) {
            const bool hasStatus = bytes[at + 1] >= 0x80;
            const std::uint8_t status = hasStatus ? bytes[at + 1] : running;
            if (!midi::isChannelStatus(status)) break;
            const std::size_t data = at + (hasStatus ? 2 : 1);
            const std::uint8_t size = midi::dataLength(status) == 2 ? 3 : 2;
            const std::uint8_t second = size == 3 ? bytes[data + 1] : std::uint8_t{0};
            if ((bytes[data] | second) >= 0x80) break;
            tick += bytes[at];
            running = status;
            track_.append(tick, EventKind::channel).message = {{status, bytes[data], second}, size};
            at = data + size - 1;
        }
        cursor_.skip(at);
        tick_ = tick;
        running_ = running;
        track_.endTick = std::max(track_.endTick, tick);
    }

    void meta() {
        cursor_.skip(1);
        if (cursor_.left() == 0) return warn(cursor_.at(), "a meta event is cut off", true);
        const std::uint8_t type = cursor_.byte();
        const auto body = sizedBody("a meta event");
        if (!body) return;
        if (type == endOfTrack) {
            track_.endTick = std::max(track_.endTick, tick_);
            ended_ = true;
        } else {
            reading_.file.add(track_, tick_, EventKind::meta, *body, type);
        }
    }

    void sysex() {
        const EventKind kind = cursor_.byte() == 0xF0 ? EventKind::sysex : EventKind::escape;
        if (const auto body = sizedBody("a SysEx event")) reading_.file.add(track_, tick_, kind, *body);
    }

    std::optional<midi::Bytes> sizedBody(const std::string& name) {
        const std::size_t start = cursor_.at();
        const auto length = cursor_.quantity();
        if (!length) {
            warn(start, "the length of " + name + " is cut off or longer than four bytes", true);
            return std::nullopt;
        }
        if (*length > cursor_.left()) {
            warn(start,
                 name + " says it is " + std::to_string(*length) + " bytes long, but only " +
                     std::to_string(cursor_.left()) + " are there",
                 true);
            return std::nullopt;
        }
        return cursor_.take(*length);
    }

    void channelMessage(std::uint8_t first) {
        if (first >= 0xF0) return warn(cursor_.at(), "a byte that starts no event of a MIDI file", true);
        if (first >= 0x80) {
            running_ = first;
            cursor_.skip(1);
        }
        if (running_ == 0) return warn(cursor_.at(), "a data byte stands where an event should start", true);
        const auto length = static_cast<std::size_t>(midi::dataLength(running_));
        if (cursor_.left() < length) return warn(cursor_.at(), "a channel message is cut off", true);
        midi::Short message{{running_, 0, 0}, static_cast<std::uint8_t>(length + 1)};
        for (std::size_t i = 1; i <= length; ++i) {
            if (cursor_.peek() >= 0x80)
                return warn(cursor_.at(), "a channel message has a data byte above 127", true);
            message.data[i] = cursor_.byte();
        }
        reading_.file.add(track_, tick_, EventKind::channel, message.bytes());
    }

    Reading& reading_;
    Cursor cursor_;
    Track track_;
    std::uint64_t tick_ = 0;
    std::uint8_t running_ = 0;
    bool ended_ = false;
    bool broken_ = false;
};

bool hasTag(midi::Bytes bytes, std::size_t at, const char* tag) {
    return bytes.size() >= at + 4 && std::memcmp(bytes.data() + at, tag, 4) == 0;
}

Result<Division> readDivision(std::uint32_t word) {
    if ((word & 0x8000) == 0) {
        if (word == 0) return notMidi(12, "the division of the file is 0 ticks a quarter note");
        return Division{static_cast<int>(word), 0, 0};
    }
    const int frames = 256 - static_cast<int>(word >> 8);
    const int ticks = static_cast<int>(word & 0xFF);
    if ((frames != 24 && frames != 25 && frames != 29 && frames != 30) || ticks == 0) {
        return notMidi(12, "the division of the file is " + std::to_string(frames) + " frames of " +
                               std::to_string(ticks) + " ticks, which is no SMPTE division");
    }
    return Division{0, frames, ticks};
}

void readChunks(midi::Bytes bytes, std::size_t at, std::size_t declaredTracks, Reading& reading) {
    bool tooMany = false;
    while (at < bytes.size()) {
        if (bytes.size() - at < chunkHeaderSize) {
            warn(reading, {at, "the last bytes are too few to be a chunk", false});
            break;
        }
        const bool isTrack = hasTag(bytes, at, "MTrk");
        const bool looksLikeTag = std::all_of(bytes.begin() + static_cast<std::ptrdiff_t>(at),
                                              bytes.begin() + static_cast<std::ptrdiff_t>(at) + 4,
                                              [](std::uint8_t byte) { return byte >= 0x20 && byte < 0x7F; });
        if (!looksLikeTag) {
            warn(reading, {at, "a chunk was expected here", reading.file.tracks.size() < declaredTracks});
            break;
        }
        const std::uint32_t length = Cursor(bytes, at + 4, bytes.size()).number(4);
        const std::size_t start = at + chunkHeaderSize;
        const std::size_t there = std::min<std::size_t>(length, bytes.size() - start);
        if (there < length) {
            warn(reading, {at + 4,
                           "a chunk says it is " + std::to_string(length) + " bytes long, but only " +
                               std::to_string(there) + " are there",
                           isTrack && reading.file.tracks.size() < declaredTracks});
        }
        if (isTrack && reading.file.tracks.size() == declaredTracks) {
            if (std::exchange(tooMany, true) == false)
                warn(reading, {at,
                               "the header says there are " + std::to_string(declaredTracks) +
                                   " tracks, and those beyond are left out",
                               false});
        } else if (isTrack) {
            reading.file.tracks.push_back(TrackReader(reading, Cursor(bytes, start, start + there)).read());
        } else {
            const midi::Bytes chunk = bytes.subspan(at, chunkHeaderSize + there);
            auto& kept = reading.file.otherChunks;
            if (there == length) kept.insert(kept.end(), chunk.begin(), chunk.end());
        }
        at = start + there;
    }
    if (reading.file.tracks.size() < declaredTracks) {
        warn(reading, {at,
                       "the file ends after " + std::to_string(reading.file.tracks.size()) + " of " +
                           std::to_string(declaredTracks) + " tracks",
                       true});
    }
}

}  // namespace

const Warning* Reading::firstLoss() const {
    const auto found =
        std::find_if(warnings.begin(), warnings.end(), [](const Warning& w) { return w.lost; });
    return found == warnings.end() ? nullptr : &*found;
}

Result<Reading> read(midi::Bytes bytes) {
    if (bytes.empty()) return notMidi(0, "the file is empty");
    if (!hasTag(bytes, 0, "MThd"))
        return notMidi(0, "a Standard MIDI File starts with MThd, and this one does not");
    if (bytes.size() < 14) return notMidi(bytes.size(), "the header is cut off: it needs 14 bytes");
    Cursor header(bytes, 4, bytes.size());
    const std::uint32_t length = header.number(4);
    if (length < 6 || length > bytes.size() - chunkHeaderSize) {
        return notMidi(4, "the header says it is " + std::to_string(length) + " bytes long");
    }
    const std::uint32_t format = header.number(2);
    if (format > 2)
        return notMidi(8, "the format is " + std::to_string(format) + ", and only 0, 1 and 2 exist");
    const std::uint32_t tracks = header.number(2);
    const auto division = readDivision(header.number(2));
    if (!division) return division.problem();

    Reading reading;
    reading.file.format = static_cast<int>(format);
    reading.file.division = *division;
    readChunks(bytes, chunkHeaderSize + length, tracks, reading);
    if (reading.file.tracks.empty()) return notMidi(bytes.size(), "the file has no track");
    return reading;
}

}  // namespace mellow::smf
