// Writing a Standard MIDI File, format 1, event by event.
//
// Tracks are written as they come, all at once, and are handed out one behind the other when all is there
// (files/spool.h). Every event carries its status byte (no running status), so that a damaged byte spoils one
// event and not the rest of the track. What the format cannot say is refused, not bent: a pause of more than
// 0x0FFFFFFF ticks, more than 65,535 tracks, a track of 4 GB.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <vector>

#include "core/files/spool.h"
#include "core/result.h"
#include "core/smf/file.h"

namespace mellow::smf {

inline constexpr std::size_t mostTracks = 65535;

class Writer {
 public:
    /// tracks: at most mostTracks.
    Writer(const Division& division, std::size_t tracks);

    /// The next event of a track; its tick must not fall. A channel message must be whole. Texts of no
    /// letters stand in a pause that is too long for one number (signal rules, section 7): takes count so
    /// finely that an hour and a half is.
    void add(std::size_t track, std::uint64_t tick, EventKind kind, midi::Bytes body,
             std::uint8_t metaType = 0);
    /// The end-of-track event stands here, or behind the last event where that comes later.
    void endAt(std::size_t track, std::uint64_t tick);
    /// What comes behind the tracks as it is.
    void addChunks(midi::Bytes chunks) { chunks_.insert(chunks_.end(), chunks.begin(), chunks.end()); }
    [[nodiscard]] std::size_t trackCount() const { return tracks_.size(); }
    /// Where the last event of a track stands.
    [[nodiscard]] std::uint64_t lastTick(std::size_t track) const { return tracks_[track].last; }

    /// The first thing that could not be written, if there was one.
    [[nodiscard]] const std::optional<Problem>& problem() const { return problem_; }
    /// Hands out the file's bytes in order, until out() returns false. Error: problem(); a disk that is full.
    Outcome print(const std::function<bool(midi::Bytes)>& out);

 private:
    struct State {
        std::uint64_t last = 0;  ///< tick of the last event
        std::uint64_t end = 0;
    };
    void delta(std::size_t track, std::uint64_t tick);

    Division division_;
    std::vector<State> tracks_;
    files::Spool spool_;
    std::vector<std::uint8_t> chunks_;
    std::optional<Problem> problem_;
};

/// A whole file's bytes, as format 1 whatever `file.format` says. Error: as Writer's.
Result<std::vector<std::uint8_t>> write(const File& file);

}  // namespace mellow::smf
