// How loud, how high and how bright a held note is.
//
// Loudness is integrated K-weighted loudness with both gates (ITU-R BS.1770-4, EBU R128) of what is held, by
// libebur128: blocks of 400 ms, of which those below −70 LUFS count for nothing, so a note that is quieter is
// too quiet to say. The true peak is that of a note from its beginning until it is let go, four times
// oversampled (BS.1770-4, annex 2). Brightness is the spectral centroid, the mean of the frequencies weighted
// by their amplitude, over windows of 4096 frames (Hann), weighted by their energy; it tells apart what is
// brighter from what is only louder.
#pragma once

#include <cstddef>
#include <cstdint>
#include <limits>
#include <optional>
#include <span>
#include <vector>

#include "core/result.h"

namespace mellow::balance {

/// Sound of one or two channels, frame by frame: left, right, left, right.
struct Sound {
    std::vector<float> samples;
    int channels = 2;  ///< 1 or 2
    int rate = 48000;  ///< frames a second
    [[nodiscard]] std::int64_t frames() const {
        return channels > 0 ? static_cast<std::int64_t>(samples.size()) / channels : 0;
    }
    [[nodiscard]] std::int64_t frameAt(std::int64_t time) const;  ///< of microseconds
};

/// What a note comes to.
struct Heard {
    std::optional<double> loudness;                          ///< LUFS; nothing: below the gate of −70 LUFS
    double peak = -std::numeric_limits<double>::infinity();  ///< dB true peak
    double centroid = 0;                                     ///< Hz; 0: silence
    bool dies = false;  ///< it falls away so fast while it is held that no loudness of it stands
    bool operator==(const Heard&) const = default;
};

/// Rates that can be measured, frames a second.
inline constexpr int lowestRate = 8000;
inline constexpr int highestRate = 384000;

/// Measures a note that begins at a frame and of which what lies between two frames is held; what lies
/// outside the sound is silence.
Heard measure(const Sound& sound, std::int64_t begins, std::int64_t from, std::int64_t to);

/// Integrated loudness and true peak of frames, LUFS and dB.
struct Loudness {
    std::optional<double> integrated;
    double peak = -std::numeric_limits<double>::infinity();
};
Loudness loudnessOf(const Sound& sound, std::int64_t from, std::int64_t to);

}  // namespace mellow::balance
