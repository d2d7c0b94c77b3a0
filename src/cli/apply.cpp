// Playing a file or a take through an ensemble into a file. Outputs are files beside their places until all
// of them are whole (files/files.h).
#include "cli/calls.h"
#include "cli/loading.h"

#include <cmath>
#include <filesystem>
#include <iostream>
#include <utility>

#include "core/engine/driving/file_run.h"
#include "core/engine/playing/engine.h"
#include "core/files/files.h"
#include "core/smf/read.h"
#include "core/takes/export_take.h"
#include "core/takes/take_file.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::cli {

namespace {

std::string numbered(const std::string& path, std::size_t number) {
    const std::filesystem::path whole(path);
    std::filesystem::path name = whole.stem();
    name += "-" + std::to_string(number);
    name += whole.extension();
    return (whole.parent_path() / name).string();
}

/// The files that a call reads.
std::vector<std::string> inputsOf(const ApplyOptions& options) {
    std::vector<std::string> inputs{options.ensemble};
    if (options.take.empty()) inputs.push_back(options.input);
    return inputs;
}

/// The files that a call writes: all of them or none.
class Results {
 public:
    explicit Results(const ApplyOptions& options, std::size_t count) : options_(options), count_(count) {}

    Outcome add(smf::Writer& writer) {
        const std::string path = count_ == 0 ? options_.output : numbered(options_.output, files_.size() + 1);
        if (const auto apart = checkFiles(inputsOf(options_), path); !apart) return apart;
        auto file = files::NewFile::open(path);
        if (!file) return file.problem();
        files_.push_back(std::move(*file));
        files::NewFile& opened = files_.back();
        const auto printed = writer.print([&opened](midi::Bytes bytes) { return opened.write(bytes); });
        if (const auto finished = opened.finish(); !finished) return finished;
        return printed;
    }
    Outcome commit() {
        for (files::NewFile& file : files_) {
            if (const auto committed = file.commit(); !committed) return committed;
        }
        return Done{};
    }

 private:
    const ApplyOptions& options_;
    std::size_t count_;  ///< 0: one, with the output's own name
    std::vector<files::NewFile> files_;
};

/// True of what is there and is no regular file, so that nothing can be made beside it.
bool isStream(const std::string& path) {
    std::error_code error;
    const auto status = std::filesystem::status(path, error);
    return path == standardStream ||
           (std::filesystem::exists(status) && !std::filesystem::is_regular_file(status));
}

/// What is played: a file, and the ports of its tracks where it is a take.
struct Input {
    smf::File file;
    std::vector<std::string> trackPorts;
};

Result<Input> loadInput(const ApplyOptions& options, const Ensemble& ensemble, std::ostream& err) {
    if (options.take.empty()) {
        auto file = loadMidi(options.input, err);
        if (!file) return file.problem();
        return Input{std::move(*file), {}};
    }
    const auto take = loadTake(ensemble, options.ensemble, options.take);
    if (!take) return take.problem();
    if (files::isSameFile(take->path, options.output))
        return Problem{options.output, "is the file of the take that is read", "write to another file"};
    auto reading = smf::read(take->bytes);
    if (!reading) return files::inFile(take->path.string(), reading.problem());
    warnOfDoubts(*take, reading->warnings, err);
    std::vector<std::string> ports = trackPorts(take->kept, reading->file);
    if (options.port != anyPort) ports.assign(ports.size(), options.port);
    return Input{std::move(reading->file), std::move(ports)};
}

/// The same for a take, or a part of it.
int applyTake(const ApplyOptions& options, const Ensemble& ensemble, const Input& input, std::ostream& err) {
    constexpr double longest = 1e9;  // s
    constexpr double micro = 1e6;
    std::optional<TakeRange> range;
    if (options.from || options.to) {
        range = TakeRange{std::llround(std::min(options.from.value_or(0), longest) * micro),
                          std::llround(std::min(options.to.value_or(longest), longest) * micro)};
        if (range->to <= range->from)
            return refuse(err, {"apply", "--to must be later than --from", "swap the two"});
    }
    const auto bytes = renderedTake(ensemble, input.file, input.trackPorts, options.instruments, range);
    if (!bytes) return refuse(err, bytes.problem());
    const auto written = files::writeFile(options.output, *bytes);
    return written ? clear : refuse(err, written.problem());
}

}  // namespace

int runApply(const ApplyOptions& options, std::ostream& err) {
    if (options.output.empty())
        return refuse(err, {"apply", "-o names no file", "name the file to write, or - for standard output"});
    if (options.take.empty() && (options.from || options.to)) {
        return refuse(err, {"apply", "--from and --to are about a take", "name one with --take"});
    }
    if (options.input.empty() == options.take.empty()) {
        return refuse(err,
                      {"apply",
                       options.take.empty() ? "IN.mid is required, or --take with one of the ensemble's takes"
                                            : "IN.mid and --take are two things to play",
                       "name one of the two"});
    }
    if (const auto apart = checkFiles(inputsOf(options), options.output); !apart)
        return refuse(err, apart.problem());
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    const auto there = checkInstruments(*ensemble, options.ensemble, options.instruments);
    if (!there) return refuse(err, there.problem());
    const auto input = loadInput(options, *ensemble, err);
    if (!input) return refuse(err, input.problem());
    const bool isMany = input->file.format == 2 && options.take.empty();
    if (isMany && isStream(options.output)) {
        return refuse(err, {options.output,
                            "a format-2 file gives a file for each of its sequences, and a stream holds one",
                            "name a file to number them by"});
    }
    warnOfSilence(*ensemble, err);
    if (engine::isUnknownPort(*ensemble, options.port)) {
        const Problem unknown{options.ensemble,
                              "nothing in it listens on a port " + text::quoted(options.port) +
                                  ", so only what listens on any port hears the file",
                              "use one of its ports"};
        err << "warning: " << unknown.sentence() << ".\n";
    }
    if (!options.take.empty()) return applyTake(options, *ensemble, *input, err);
    Results results(options, isMany ? input->file.tracks.size() : 0);
    const auto played =
        engine::runFile(*ensemble, input->file, {options.instruments, options.port, input->trackPorts},
                        [&results](smf::Writer& writer) { return results.add(writer); });
    if (!played) {
        Problem problem = played.problem();
        // What is too much is too much of the document.
        if (problem.where == "the ensemble")
            problem = files::inFile(options.ensemble, {"instruments", problem.what, problem.mend});
        return refuse(err, problem);
    }
    const auto committed = results.commit();
    return committed ? clear : refuse(err, committed.problem());
}

}  // namespace mellow::cli
