// Playing and rendering take turns: the take is played up to a message, and the synthesizer renders what lies
// before it. Frames go to the file in blocks. Behind the take's end the rack rings on until it is silent, ten
// seconds at most.
#include "io/bounce/bounce.h"

#include <sndfile.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <optional>

#include "core/engine/compiling/compile.h"
#include "core/files/files.h"
#include "core/takes/playback.h"
#include "core/text/printable.h"
#include "io/playing/player.h"
#include "io/sound/practice_sound.h"

namespace mellow::io {

namespace {

namespace fs = std::filesystem;

constexpr int blockFrames = 1024;
constexpr engine::Time longestTail = 10'000'000;  // µs
constexpr float silence = 1e-4F;                  // −80 dB

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

/// A sound file that takes its place at the end.
class SoundFile {
 public:
    static Result<SoundFile> make(const fs::path& path, int sampleRate) {
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

    bool write(const float* frames, int count) {
        return sf_writef_float(sound_.get(), frames, count) == count;
    }
    Outcome finish() {
        const bool closed = sf_close(sound_.release()) == 0;
        const auto finished = file_.finish();
        if (!finished) return finished;
        if (!closed) return Problem{path_.string(), "it could not be written to its end", "make room"};
        return Done{};
    }
    Outcome commit() { return file_.commit(); }
    [[nodiscard]] Problem full() const {
        return {path_.string(), std::string("cannot be written: ") + sf_strerror(sound_.get()), "make room"};
    }

 private:
    SoundFile(files::NewFile file, fs::path path) : file_(std::move(file)), path_(std::move(path)) {}
    struct Close {
        void operator()(SNDFILE* sound) const { sf_close(sound); }
    };
    files::NewFile file_;
    fs::path path_;
    std::unique_ptr<SNDFILE, Close> sound_;
};

bool isOnRack(const Instrument& instrument) {
    return instrument.output.port == practiceRackPort;
}

/// The ensemble with those instruments alone that are asked for and can be heard.
Result<Ensemble> audible(Ensemble ensemble, const std::vector<std::string>& ids) {
    erase_if(ensemble.instruments, [&ids](const Instrument& instrument) {
        const bool asked = ids.empty() || std::find(ids.begin(), ids.end(), instrument.id) != ids.end();
        return !asked || !isOnRack(instrument);
    });
    if (!ensemble.instruments.empty()) return ensemble;
    return Problem{"The bounce", "none of the instruments plays on the practice rack",
                   "lead an instrument's output to practice-rack"};
}

/// Renders what is played into a file.
class Rendering {
 public:
    Rendering(PracticeRack& rack, SoundFile& file, const BounceOptions& options)
        : rack_(rack), file_(file), rate_(options.sampleRate), from_(options.from) {}

    void hear(const engine::Output& output) {
        if (output.bytes.empty() || output.bytes.size() > 3) return;
        renderUntil(output.time);
        rack_.push(midi::shortOf(output.bytes));
        // The rack's queue is finite, and it is emptied by rendering.
        constexpr int mostQueued = 4096;
        if (++queued_ >= mostQueued) renderFrames(1);
    }
    /// Renders all frames before a time of the take. Those before its range are heard by nobody.
    void renderUntil(engine::Time time) {
        const auto frame =
            static_cast<std::int64_t>(std::floor(static_cast<double>(time - from_) * rate_ / 1e6));
        // The synthesizer takes messages between blocks of its own, so a smaller piece would be no more
        // exact.
        constexpr std::int64_t block = 64;
        const std::int64_t pieces = (frame - frame_) / block * block;
        if (pieces > 0) renderFrames(pieces);
    }
    [[nodiscard]] bool failed() const { return failed_; }
    /// The loudest sample since the last call.
    float loudest() { return std::exchange(loudest_, 0.0F); }

 private:
    void renderFrames(std::int64_t count) {
        queued_ = 0;
        while (count > 0 && !failed_) {
            const int now = static_cast<int>(std::min<std::int64_t>(count, blockFrames));
            rack_.render(left_.data(), right_.data(), now);
            for (std::size_t i = 0; i < static_cast<std::size_t>(now); ++i) {
                both_[2 * i] = left_[i];
                both_[2 * i + 1] = right_[i];
                loudest_ = std::max({loudest_, std::abs(left_[i]), std::abs(right_[i])});
            }
            failed_ = !file_.write(both_.data(), now);
            frame_ += now;
            count -= now;
        }
    }

    PracticeRack& rack_;
    SoundFile& file_;
    double rate_;
    engine::Time from_;
    std::int64_t frame_ = 0;
    int queued_ = 0;
    bool failed_ = false;
    float loudest_ = 0;
    std::array<float, blockFrames> left_{};
    std::array<float, blockFrames> right_{};
    std::array<float, 2 * std::size_t{blockFrames}> both_{};
};

/// One file, finished and not yet in its place; nothing where progress ended it.
Result<std::optional<SoundFile>> render(const Ensemble& ensemble, const Take& take, const fs::path& output,
                                        const BounceOptions& options, const Progress& progress) {
    RackOptions rackOptions;
    rackOptions.soundfont = options.soundfont;
    rackOptions.soundCard = false;
    rackOptions.ownThread = false;
    rackOptions.sampleRate = options.sampleRate;
    auto rack = PracticeRack::open(rackOptions);
    if (!rack) return rack.problem();
    for (const Instrument& instrument : ensemble.instruments) {
        const int channel = instrument.output.channel;
        if (channel >= 1 && channel <= 16) (*rack)->setSound(channel - 1, practiceSound(instrument));
    }
    auto file = SoundFile::make(output, options.sampleRate);
    if (!file) return file.problem();
    const auto program = engine::compile(ensemble);
    Playback playback(*program, take);
    Rendering rendering(**rack, *file, options);
    auto hear = [&](const engine::Output& out) { rendering.hear(out); };
    const engine::Sink sink = engine::sinkTo(hear);
    const engine::Time end = options.to >= 0 ? std::min(options.to, take.length) : take.length;
    constexpr engine::Time slice = 250'000;
    for (engine::Time position = std::min(slice, end);; position = std::min(position + slice, end)) {
        playback.playUntil(position, sink);
        rendering.renderUntil(position);
        if (rendering.failed()) return file->full();
        const double done = end > 0 ? static_cast<double>(position) / static_cast<double>(end) : 1;
        if (progress && !progress(done)) return std::optional<SoundFile>();
        if (position >= end) break;
    }
    playback.engine().silenceAll(sink);
    rendering.loudest();
    for (engine::Time tail = end + slice; tail <= end + longestTail; tail += slice) {
        playback.engine().advance(tail, sink);
        rendering.renderUntil(tail);
        if (rendering.failed()) return file->full();
        if (rendering.loudest() < silence) break;
    }
    if (const auto finished = file->finish(); !finished) return finished.problem();
    return std::optional<SoundFile>(std::move(*file));
}

}  // namespace

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

Result<bool> bounce(const Ensemble& ensemble, const Take& take, const fs::path& output,
                    const BounceOptions& options, const Progress& progress) {
    const auto heard = audible(ensemble, options.instruments);
    if (!heard) return heard.problem();
    auto file = render(*heard, take, output, options, progress);
    if (!file) return file.problem();
    if (!*file) return false;
    if (const auto committed = (*file)->commit(); !committed) return committed.problem();
    return true;
}

Result<std::vector<fs::path>> bounceApart(const Ensemble& ensemble, const Take& take, const fs::path& output,
                                          const BounceOptions& options, const Progress& progress) {
    const auto heard = audible(ensemble, options.instruments);
    if (!heard) return heard.problem();
    std::vector<fs::path> paths;
    std::vector<SoundFile> made;
    const auto count = static_cast<double>(heard->instruments.size());
    for (const Instrument& instrument : heard->instruments) {
        fs::path name = output.stem();
        name += "-";
        name += text::fileWord(instrument.id);
        name += output.extension();
        const auto one = audible(*heard, {instrument.id});
        const auto before = static_cast<double>(paths.size());
        auto file = render(*one, take, output.parent_path() / name, options,
                           [&](double done) { return !progress || progress((before + done) / count); });
        if (!file) return file.problem();
        if (!*file) return std::vector<fs::path>{};
        made.push_back(std::move(**file));
        paths.push_back(output.parent_path() / name);
    }
    for (SoundFile& file : made) {
        if (const auto committed = file.commit(); !committed) return committed.problem();
    }
    return paths;
}

}  // namespace mellow::io
