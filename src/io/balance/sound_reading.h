// Sound files, read whole: WAV, FLAC, AIFF, Ogg and whatever else libsndfile knows.
#pragma once

#include <filesystem>

#include "core/balance/meter.h"
#include "core/result.h"

namespace mellow::io {

/// Longer sound is not read, seconds: a sweep lasts minutes.
inline constexpr double longestSound = 7200;

/// Error: it cannot be read; it is no sound file; it has more than two channels, a rate that cannot be
/// measured, or lasts too long.
Result<balance::Sound> readSound(const std::filesystem::path& path);

}  // namespace mellow::io
