// Events go to the tick that is nearest to them. Reading rounds a tick's time down to a microsecond, which
// leads back to the same tick as long as a tick lasts longer than two; so a file that is read and written
// again is the same file.
#include "core/takes/take_file.h"

#include <array>
#include <cmath>
#include <limits>

#include "core/files/sum.h"
#include "core/smf/tempo_map.h"
#include "core/smf/write.h"
#include "core/takes/remainders.h"

namespace mellow {

namespace {

midi::Bytes bytesOf(const std::string& text) {
    return {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()};
}

/// A tempo as a file says it: microseconds a quarter note, in three bytes.
std::uint32_t quarterOf(double tempo) {
    constexpr double longest = 0xFFFFFF;
    return static_cast<std::uint32_t>(std::clamp(std::round(60e6 / tempo), 1.0, longest));
}

/// Writes tempos and marks into the first track, in order of time, and the tempos into a map.
void printFirst(const Take& take, smf::TempoMap& times, smf::Writer& writer) {
    std::size_t mark = 0;
    const auto tickOf = [&](std::int64_t time) {
        return std::max(times.nearestTick(time), writer.lastTick(0));
    };
    const auto addMarks = [&](std::int64_t before) {
        for (; mark < take.marks.size() && take.marks[mark].time < before; ++mark) {
            const TakeMark& each = take.marks[mark];
            writer.add(0, tickOf(each.time), smf::EventKind::meta, bytesOf(each.body), each.type);
        }
    };
    for (const TempoChange& change : take.tempos) {
        addMarks(change.time);
        const std::uint64_t tick = tickOf(change.time);
        const std::uint32_t quarter = quarterOf(change.tempo);
        const std::array<std::uint8_t, 3> body{static_cast<std::uint8_t>(quarter >> 16),
                                               static_cast<std::uint8_t>(quarter >> 8),
                                               static_cast<std::uint8_t>(quarter)};
        writer.add(0, tick, smf::EventKind::meta, body, smf::tempo);
        times.set(tick, quarter);
    }
    addMarks(std::numeric_limits<std::int64_t>::max());
    writer.endAt(0, times.nearestTick(take.length));
}

/// Writes the events of a take into their tracks.
class Printer {
 public:
    Printer(const Take& take, const smf::TempoMap& times, smf::Writer& writer)
        : take_(take), times_(times), writer_(writer), remainders_(take.ports.size()) {}

    void print() {
        for (std::size_t port = 0; port < take_.ports.size(); ++port) {
            writer_.add(port + 1, 0, smf::EventKind::meta, bytesOf(take_.ports[port]), smf::trackName);
        }
        for (const TakeEvent& event : take_.events) {
            const std::uint64_t tick = times_.nearestTick(event.time);
            remainders_[event.port].add(event.time - times_.microseconds(tick));
            add(event.port + std::size_t{1}, tick, take_.bodyOf(event));
        }
        const std::uint64_t end = times_.nearestTick(take_.length);
        for (std::size_t port = 0; port < take_.ports.size(); ++port) {
            if (remainders_[port].any()) {
                writer_.add(port + 1, writer_.lastTick(port + 1), smf::EventKind::meta,
                            remainders_[port].body(), smf::sequencerSpecific);
            }
            writer_.endAt(port + 1, end);
        }
    }

 private:
    void add(std::size_t track, std::uint64_t tick, midi::Bytes body) {
        if (midi::isChannelStatus(body[0])) {
            writer_.add(track, tick, smf::EventKind::channel, body);
        } else if (body[0] == midi::sysexStart) {
            writer_.add(track, tick, smf::EventKind::sysex, body.subspan(1));
        } else {
            writer_.add(track, tick, smf::EventKind::meta, body, smf::textEvent);
        }
    }

    const Take& take_;
    const smf::TempoMap& times_;
    smf::Writer& writer_;
    std::vector<Remainders> remainders_;  ///< by port
};

}  // namespace

Result<std::vector<std::uint8_t>> printTake(const Take& take) {
    smf::Division division;
    division.ticksPerQuarter = ticksPerQuarter;
    smf::TempoMap times(division);
    smf::Writer writer(division, 1 + take.ports.size());
    printFirst(take, times, writer);
    Printer(take, times, writer).print();
    std::vector<std::uint8_t> bytes;
    const auto printed = writer.print([&bytes](midi::Bytes piece) {
        bytes.insert(bytes.end(), piece.begin(), piece.end());
        return true;
    });
    if (!printed) return printed.problem();
    return bytes;
}

std::string portOfTrack(const KeptTake& kept, const std::string& name, std::size_t place) {
    const std::string& key = name.empty() ? std::to_string(place + 1) : name;
    if (const auto found = kept.ports.find(key); found != kept.ports.end()) return found->second;
    return name.empty() ? "any" : name;
}

std::vector<std::string> trackPorts(const KeptTake& kept, const smf::File& file) {
    std::vector<std::string> ports;
    std::size_t place = 0;
    for (const TakeTrack& track : tracksOf(file))
        ports.push_back(track.plays ? portOfTrack(kept, track.name, place++) : "any");
    return ports;
}

Result<TakeReading> readTake(midi::Bytes bytes, const KeptTake& kept) {
    auto reading = smf::read(bytes);
    if (!reading) return reading.problem();
    TakeReading result;
    result.take = takeFrom(reading->file, [&kept](const std::string& name, std::size_t place) {
        return portOfTrack(kept, name, place);
    });
    result.warnings = std::move(reading->warnings);
    return result;
}

std::string sha256Of(midi::Bytes bytes) {
    return files::sha256Of(bytes);
}

std::string takeFileName(const std::string& name, const std::string& sha256) {
    return files::summedName(name, sha256, ".mid");
}

}  // namespace mellow
