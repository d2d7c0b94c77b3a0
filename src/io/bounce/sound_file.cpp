// libsndfile writes into a file of ours, which stands nowhere until it is whole.
#include "io/bounce/sound_file.h"

#include <algorithm>
#include <string>

namespace mellow::io {

namespace {

namespace fs = std::filesystem;

/// The format of a file by its ending.
Result<int> formatOf(const fs::path& path) {
    std::string ending = path.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(), [](char letter) {
        return letter >= 'A' && letter <= 'Z' ? static_cast<char>(letter + 32) : letter;
    });
    // A WAV beyond 4 GB is an RF64 (EBU Tech 3306), which is what is begun; a shorter one becomes a plain
    // WAV.
    if (ending == ".wav") return SF_FORMAT_RF64 | SF_FORMAT_PCM_24;
    if (ending == ".flac") return SF_FORMAT_FLAC | SF_FORMAT_PCM_24;
    return Problem{path.string(), "a bounce is a WAV or a FLAC file, which its name must say",
                   "let it end in .wav or .flac"};
}

}  // namespace

Result<SoundFile> SoundFile::make(const fs::path& path, int sampleRate) {
    const auto format = formatOf(path);
    if (!format) return format.problem();
    auto file = files::NewFile::open(path);
    if (!file) return file.problem();
    SF_INFO info{};
    info.samplerate = sampleRate;
    info.channels = 2;
    info.format = *format;
    SoundFile made(std::move(*file), path);
    made.sound_.reset(sf_open_fd(made.file_.descriptor(), SFM_WRITE, &info, SF_FALSE));
    if (made.sound_ == nullptr)
        return Problem{path.string(), std::string("cannot be written: ") + sf_strerror(nullptr),
                       "write to another file"};
    sf_command(made.sound_.get(), SFC_SET_CLIPPING, nullptr, SF_TRUE);
    sf_command(made.sound_.get(), SFC_RF64_AUTO_DOWNGRADE, nullptr, SF_TRUE);
    return made;
}

void SoundFile::write(const Frames& frames) {
    if (failed_) return;
    both_.resize(2 * frames.left.size());
    for (std::size_t i = 0; i < frames.left.size(); ++i) {
        both_[2 * i] = frames.left[i];
        both_[2 * i + 1] = frames.right[i];
    }
    const auto count = static_cast<sf_count_t>(frames.left.size());
    failed_ = sf_writef_float(sound_.get(), both_.data(), count) != count;
}

Outcome SoundFile::finish() {
    const bool closed = sf_close(sound_.release()) == 0;
    const auto finished = file_.finish();
    if (!finished) return finished;
    if (!closed) return Problem{path_.string(), "it could not be written to its end", "make room"};
    return Done{};
}

Problem SoundFile::full() const {
    return {path_.string(), std::string("cannot be written: ") + sf_strerror(sound_.get()), "make room"};
}

double bytesOfSound(std::int64_t length, int sampleRate) {
    constexpr double bytesAFrame = 6;  // two channels of 24 bits
    return static_cast<double>(length) / 1e6 * sampleRate * bytesAFrame;
}

bool isLongWav(const std::filesystem::path& output, std::int64_t length, int sampleRate) {
    constexpr double mostOfAWav = 4294967295.0;
    const auto format = formatOf(output);
    const bool isWav = format && (*format & SF_FORMAT_TYPEMASK) == SF_FORMAT_RF64;
    return isWav && bytesOfSound(length, sampleRate) > mostOfAWav;
}

}  // namespace mellow::io
