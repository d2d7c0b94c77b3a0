// A sweep that was rendered or recorded elsewhere, laid over the sweep that was played.
//
// The click says where in the sound the sweep begins: it is the first thing that is heard, and a pause
// follows it. What begins it is where the sound first comes within 26 dB of the click's own peak, so that
// hiss before it, and how loud it is at all, make no difference. Where there is no click somebody says by
// hand where the sweep begins.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/balance/curve.h"
#include "core/balance/sweep.h"
#include "core/midi/message.h"

namespace mellow::balance {

/// What has to be known of a sweep to measure its sound: it stands in the file that is played elsewhere.
struct KnownSweep {
    std::string instrument;      ///< id
    std::string instrumentName;  ///< for people
    std::string moved;           ///< as printMotion() has it
    std::string movedName;       ///< for people
    bool overKeys = false;
    std::vector<Segment> segments;
    std::optional<std::int64_t> click;  ///< microseconds
    std::string state;  ///< how the instrument was (core/store/instrument_state.h); empty: nobody said
    bool operator==(const KnownSweep&) const = default;
};
/// ensemble: whose sweep it is.
KnownSweep knownOf(const Ensemble& ensemble, const SweepPlan& plan, const Sweep& sweep);

/// A Standard MIDI File of what the instrument is sent, with a marker for each note and with what
/// readSweep() needs. Error: what a MIDI file cannot say.
Result<std::vector<std::uint8_t>> printSweep(const Sweep& sweep, const KnownSweep& known);
/// Error: no MIDI file, or not one of a sweep.
Result<KnownSweep> readSweep(midi::Bytes bytes);

/// The frame at which a click begins. Error: the sound is silent; no pause follows what is heard first.
Result<std::int64_t> findClick(const Sound& sound);

/// begins: the frame at which the sweep begins, where somebody knows. Error: as findClick(); the sound ends
/// before the sweep does.
Result<Curve> measureRecorded(const Sound& sound, const KnownSweep& known,
                              std::optional<std::int64_t> begins);

/// What a picture of a sound needs: the loudest sample of each of `count` equal stretches, 0 to 1 and above.
std::vector<float> outlineOf(const Sound& sound, std::size_t count);

}  // namespace mellow::balance
