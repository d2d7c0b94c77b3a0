// Playing and rendering take turns: the take is played up to a message, and the synthesizer renders what lies
// before it. Frames go to the file in blocks. Behind the take's end the rack rings on until it is silent, ten
// seconds at most.
#include "io/bounce/bounce.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <optional>

#include "core/engine/compiling/compile.h"
#include "core/takes/playback.h"
#include "core/text/printable.h"
#include "io/playing/happenings.h"
#include "io/sound/level_meter.h"
#include "io/sound/practice_sound.h"

namespace mellow::io {

namespace {

namespace fs = std::filesystem;

constexpr int blockFrames = 1024;
constexpr engine::Time longestTail = 10'000'000;  // µs
constexpr float silence = 1e-4F;                  // −80 dB

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
        : rack_(rack),
          written_(std::make_shared<IntoFile>(file)),
          rate_(options.sampleRate),
          from_(options.from) {
        rack_.frames().add(written_);
        rack_.frames().add(meter_);
    }
    ~Rendering() {
        rack_.frames().remove(*written_);
        rack_.frames().remove(*meter_);
    }
    Rendering(const Rendering&) = delete;
    Rendering& operator=(const Rendering&) = delete;

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
    [[nodiscard]] bool failed() const { return written_->file.failed(); }
    /// The loudest sample since the last call.
    float loudest() {
        const auto peaks = meter_->take();
        return std::max(peaks[0], peaks[1]);
    }

 private:
    struct IntoFile : FrameListener {
        explicit IntoFile(SoundFile& into) : file(into) {}
        void hear(const Frames& frames) override { file.write(frames); }
        SoundFile& file;
    };

    void renderFrames(std::int64_t count) {
        queued_ = 0;
        while (count > 0 && !failed()) {
            const int now = static_cast<int>(std::min<std::int64_t>(count, blockFrames));
            rack_.render(left_.data(), right_.data(), now);
            frame_ += now;
            count -= now;
        }
    }

    PracticeRack& rack_;
    std::shared_ptr<IntoFile> written_;
    std::shared_ptr<LevelMeter> meter_ = std::make_shared<LevelMeter>();
    double rate_;
    engine::Time from_;
    std::int64_t frame_ = 0;
    int queued_ = 0;
    std::array<float, blockFrames> left_{};
    std::array<float, blockFrames> right_{};
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
