// A sound file that is written as sound is made, and takes its place at the end.
#pragma once

#include <sndfile.h>

#include <filesystem>
#include <memory>
#include <vector>

#include "core/files/files.h"
#include "core/result.h"
#include "io/sound/frames.h"

namespace mellow::io {

class SoundFile {
 public:
    /// WAV or FLAC by its ending, of two channels of 24 bits. Error: an ending that is neither; what speaks
    /// against the file.
    static Result<SoundFile> make(const std::filesystem::path& path, int sampleRate);

    /// Where it fails, failed() says so from then on, and nothing more is written.
    void write(const Frames& frames);
    [[nodiscard]] bool failed() const { return failed_; }
    /// What write() failed of.
    [[nodiscard]] Problem full() const;
    /// Ends it; it is not in its place yet.
    Outcome finish();
    Outcome commit() { return file_.commit(); }

 private:
    SoundFile(files::NewFile file, std::filesystem::path path)
        : file_(std::move(file)), path_(std::move(path)) {}
    struct Close {
        void operator()(SNDFILE* sound) const { sf_close(sound); }
    };
    files::NewFile file_;
    std::filesystem::path path_;
    std::unique_ptr<SNDFILE, Close> sound_;
    std::vector<float> both_;  ///< of a block, frame by frame
    bool failed_ = false;
};

/// The bytes of sound that so many microseconds come to, uncompressed.
double bytesOfSound(std::int64_t length, int sampleRate);
/// Whether it is written as RF64 (EBU Tech 3306), as a WAV beyond 4 GB is, which not every program reads.
bool isLongWav(const std::filesystem::path& output, std::int64_t length, int sampleRate);

}  // namespace mellow::io
