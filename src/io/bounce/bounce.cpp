// Playing and rendering take turns: the take is played up to a message, and the synthesizer renders what lies
// before it. Frames go to the file in blocks. Behind the take's end the rack rings on until it is silent, ten
// seconds at most.
#include "io/bounce/bounce.h"

#include <algorithm>
#include <memory>
#include <optional>

#include "core/engine/compiling/compile.h"
#include "core/takes/playback.h"
#include "core/text/printable.h"
#include "io/bounce/rendering.h"
#include "io/playing/happenings.h"
#include "io/sound/level_meter.h"

namespace mellow::io {

namespace {

namespace fs = std::filesystem;

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
class IntoFile {
 public:
    IntoFile(PracticeRack& rack, SoundFile& file, const BounceOptions& options)
        : rack_(rack),
          written_(std::make_shared<Written>(file)),
          rendering_(rack, options.sampleRate, options.from) {
        rack_.frames().add(written_);
        rack_.frames().add(meter_);
    }
    ~IntoFile() {
        rack_.frames().remove(*written_);
        rack_.frames().remove(*meter_);
    }
    IntoFile(const IntoFile&) = delete;
    IntoFile& operator=(const IntoFile&) = delete;

    void hear(const engine::Output& output) { rendering_.hear(output); }
    void renderUntil(engine::Time time) { rendering_.renderUntil(time); }
    [[nodiscard]] bool failed() const { return written_->file.failed(); }
    /// The loudest sample since the last call.
    float loudest() {
        const auto peaks = meter_->take();
        return std::max(peaks[0], peaks[1]);
    }

 private:
    struct Written : FrameListener {
        explicit Written(SoundFile& into) : file(into) {}
        void hear(const Frames& frames) override { file.write(frames); }
        SoundFile& file;
    };

    PracticeRack& rack_;
    std::shared_ptr<Written> written_;
    std::shared_ptr<LevelMeter> meter_ = std::make_shared<LevelMeter>();
    Rendering rendering_;
};

/// One file, finished and not yet in its place; nothing where progress ended it.
Result<std::optional<SoundFile>> render(const Ensemble& ensemble, const Take& take, const fs::path& output,
                                        const BounceOptions& options, const Progress& progress) {
    auto rack = silentRack(ensemble, options.soundfont, options.sampleRate);
    if (!rack) return rack.problem();
    auto file = SoundFile::make(output, options.sampleRate);
    if (!file) return file.problem();
    const auto program = engine::compile(ensemble);
    Playback playback(*program, take);
    IntoFile rendering(**rack, *file, options);
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
