#include "io/balance/sound_reading.h"

#include <sndfile.h>
#include <unistd.h>

#include <cerrno>
#include <cmath>
#include <cstring>
#include <memory>

namespace mellow::io {

namespace {

struct Close {
    void operator()(SNDFILE* file) const { sf_close(file); }
};

}  // namespace

Result<balance::Sound> readSound(const std::filesystem::path& path) {
    const auto problem = [&](std::string what, std::string mend) {
        return Problem{path.string(), std::move(what), std::move(mend)};
    };
    std::error_code error;
    if (std::filesystem::is_directory(path, error)) return problem("it is a folder", "choose a sound file");
    // What is no plain file, a pipe say, may never end.
    if (!std::filesystem::is_regular_file(path, error))
        return problem(error ? error.message() : "it is no file", "choose a sound file");
    SF_INFO info{};
    const std::unique_ptr<SNDFILE, Close> file(sf_open(path.c_str(), SFM_READ, &info));
    if (!file)
        return problem(
            ::access(path.c_str(), R_OK) != 0 ? std::strerror(errno) : "it is no sound file that can be read",
            "choose a WAV, FLAC, AIFF or Ogg file");
    if (info.channels < 1 || info.channels > 2)
        return problem("it has " + std::to_string(info.channels) + " channels",
                       "render it in mono or stereo");
    if (info.samplerate < balance::lowestRate || info.samplerate > balance::highestRate)
        return problem("it has " + std::to_string(info.samplerate) + " frames a second",
                       "render it at 44,100 or 48,000");
    if (static_cast<double>(info.frames) / info.samplerate > longestSound)
        return problem("it lasts longer than two hours", "render the sweep alone");
    balance::Sound sound;
    sound.channels = info.channels;
    sound.rate = info.samplerate;
    // What the header says may be a lie, so it is read in pieces.
    constexpr std::size_t piece = 65536;
    std::vector<float> frames(piece * static_cast<std::size_t>(info.channels));
    const auto most = static_cast<std::size_t>(longestSound * info.samplerate * info.channels);
    while (sound.samples.size() < most) {
        const sf_count_t read = sf_readf_float(file.get(), frames.data(), static_cast<sf_count_t>(piece));
        if (read <= 0) break;
        sound.samples.insert(sound.samples.end(), frames.begin(), frames.begin() + read * info.channels);
    }
    for (float& sample : sound.samples) {
        if (!std::isfinite(sample)) sample = 0;
    }
    if (sound.samples.empty()) return problem("there is no sound in it", "render the sweep again");
    return sound;
}

}  // namespace mellow::io
