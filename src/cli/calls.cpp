// Every call has the same three parts: read all that is to be read and refuse what is not as it should be, do
// the work with nothing touched on disk, and only then write. Outputs are files beside their places until all
// of them are whole (files/files.h). One function says refusals, so that they are one sentence each, and exit
// 2.
#include "cli/calls.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <functional>
#include <iostream>
#include <nlohmann/json.hpp>
#include <string_view>
#include <unordered_set>
#include <utility>

#include "core/checks/check.h"
#include "core/describe/sentence.h"
#include "core/engine/compiling/compile.h"
#include "core/engine/driving/feed.h"
#include "core/engine/driving/file_run.h"
#include "core/engine/playing/engine.h"
#include "core/files/files.h"
#include "core/smf/read.h"
#include "core/smf/write.h"
#include "core/store/ensemble_json.h"
#include "core/store/schema.h"
#include "core/takes/export_take.h"
#include "core/takes/take_folder.h"
#include "core/text/numbers.h"
#include "core/text/printable.h"

namespace mellow::cli {

namespace {

constexpr const char* standardStream = "-";

/// Ends a call that has written to standard output: what could not be written there is an error.
int endOf(std::ostream& out, std::ostream& err, int code) {
    if (out.flush()) return code;
    return refuse(err,
                  {"standard output", "not all of it could be written", "make room, or write elsewhere"});
}

}  // namespace

int refuse(std::ostream& err, const Problem& problem) {
    err << problem.sentence() << ".\n";
    return badInput;
}

Result<Ensemble> loadEnsemble(const std::string& path) {
    constexpr std::size_t mostChains = 32768;
    auto text = files::readTextFile(path);
    if (!text) return text.problem();
    auto ensemble = store::parseEnsemble(*text);
    if (!ensemble) return files::inFile(path, ensemble.problem());
    std::size_t chains = ensemble->sharedChains.size();
    for (const Instrument& instrument : std::as_const(ensemble->instruments))
        chains += instrument.chains.size();
    if (chains > mostChains) {
        return files::inFile(
            path, {"", "it has " + std::to_string(chains) + " chains, and 32,768 at most can be played",
                   "take it apart"});
    }
    std::unordered_set<std::string_view> ports;
    for (const Controller& controller : ensemble->controllers) ports.insert(controller.port);
    for (const Instrument& instrument : std::as_const(ensemble->instruments)) {
        ports.insert(instrument.input.port);
        ports.insert(instrument.output.port);
    }
    // Those of what comes in are told apart beside them.
    constexpr std::size_t mostPorts = engine::Hands::portCount - 64;
    if (ports.size() > mostPorts) {
        return files::inFile(path, {"",
                                    "it names " + std::to_string(ports.size()) + " ports, and " +
                                        std::to_string(mostPorts) + " at most can be told apart",
                                    "let some of its controllers and instruments share a port"});
    }
    return ensemble;
}

void warnOfSilence(const Ensemble& ensemble, std::ostream& err) {
    for (const Finding& finding : check(ensemble)) {
        if (finding.stops != Stops::nothing) err << "warning: " << finding.problem.sentence() << ".\n";
    }
}

Outcome checkInstruments(const Ensemble& ensemble, const std::string& file,
                         const std::vector<std::string>& ids) {
    for (const std::string& id : ids) {
        if (findById(ensemble.instruments, id) != nullptr) continue;
        return Problem{file, "has no instrument with the id " + text::quoted(id), "use one of its ids"};
    }
    return Done{};
}

Result<LoadedTake> loadTake(const Ensemble& ensemble, const std::string& ensemblePath,
                            const std::string& take) {
    if (ensemblePath == standardStream) {
        return Problem{"standard input", "takes lie in a folder beside the document, and a stream has none",
                       "name the document's file"};
    }
    const KeptTake* kept = findTake(ensemble, take);
    if (kept == nullptr) {
        return Problem{ensemblePath, "has no take with the name or id " + text::quoted(take),
                       "use one that the call takes lists"};
    }
    const std::filesystem::path folder = takesFolderOf(ensemblePath);
    auto bytes = readTakeBytes(folder, *kept);
    if (!bytes) return bytes.problem();
    return LoadedTake{*kept, *takePath(folder, *kept), std::move(*bytes)};
}

void warnOfDoubts(const LoadedTake& take, const std::vector<smf::Warning>& warnings, std::ostream& err) {
    for (const Problem& doubt : doubtsAbout(take.kept, take.path, take.bytes, warnings))
        err << "warning: " << doubt.sentence() << ".\n";
}

namespace {

Result<smf::File> loadMidi(const std::string& path, std::ostream& err) {
    auto text = files::readTextFile(path);
    if (!text) return text.problem();
    auto reading = smf::read({reinterpret_cast<const std::uint8_t*>(text->data()), text->size()});
    if (!reading) return files::inFile(path, reading.problem());
    if (const smf::Warning* loss = reading->firstLoss()) {
        return files::inFile(
            path, {"byte " + std::to_string(loss->offset), loss->what, "use an undamaged copy of the file"});
    }
    for (const smf::Warning& warning : reading->warnings) {
        const Problem problem =
            files::inFile(path, {"byte " + std::to_string(warning.offset), warning.what, ""});
        err << "warning: " << problem.sentence() << ".\n";
    }
    return std::move(reading->file);
}

std::string numbered(const std::string& path, std::size_t number) {
    const std::filesystem::path whole(path);
    std::filesystem::path name = whole.stem();
    name += "-" + std::to_string(number);
    name += whole.extension();
    return (whole.parent_path() / name).string();
}

/// What a call would read and write at once, or read twice.
Outcome checkFiles(const std::vector<std::string>& inputs, const std::string& output) {
    if (std::count(inputs.begin(), inputs.end(), standardStream) > 1)
        return Problem{"standard input", "two files cannot both come from it", "name one of them"};
    for (const std::string& input : inputs) {
        if (output != standardStream && files::isSameFile(input, output))
            return Problem{output, "is one of the files that are read", "write to another file"};
    }
    return Done{};
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

}  // namespace

namespace {

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

namespace {

/// What the call `takes` says of a take.
struct TakeLine {
    double seconds = 0;
    std::size_t events = 0;
    std::vector<std::string> ports;
    std::string problem;  ///< why it cannot be played; empty: it can
};

TakeLine lookAtTake(const Ensemble& ensemble, const std::string& path, const KeptTake& kept,
                    std::ostream& err) {
    TakeLine line;
    const auto take = loadTake(ensemble, path, kept.id);
    const auto reading = take ? readTake(take->bytes, kept) : Result<TakeReading>(take.problem());
    if (!reading) {
        const Problem problem = take ? files::inFile(take->path.string(), reading.problem()) : take.problem();
        line.problem = problem.sentence();
        err << "warning: " << line.problem << ".\n";
        return line;
    }
    warnOfDoubts(*take, reading->warnings, err);
    line.seconds = static_cast<double>(reading->take.length) / 1e6;
    line.events = reading->take.events.size();
    line.ports = reading->take.ports;
    return line;
}

nlohmann::ordered_json asJson(const KeptTake& kept, const TakeLine& line) {
    nlohmann::ordered_json json;
    json["id"] = kept.id;
    json["name"] = nameOf(kept);
    json["file"] = kept.file;
    json["recorded"] = kept.recorded;
    json["seconds"] = line.seconds;
    json["events"] = line.events;
    json["ports"] = line.ports;
    if (!line.problem.empty()) json["problem"] = line.problem;
    return json;
}

/// "barometer  Barometer falls  64.208 s  1,204 events  keys, desk  2026-11-27T09:30:00Z"
std::string asText(const KeptTake& kept, const TakeLine& line) {
    constexpr std::size_t longest = 200;
    std::array<char, 64> seconds{};
    std::snprintf(seconds.data(), seconds.size(), "%.3f s", line.seconds);
    std::string words = text::printable(kept.id, longest);
    words += "  ";
    words += text::printable(nameOf(kept), longest);
    if (line.problem.empty()) {
        words += "  ";
        words += seconds.data();
        words += "  ";
        words += std::to_string(line.events);
        words += " events  ";
        words += text::printable(text::listed(line.ports), longest);
    } else {
        words += "  cannot be played";
    }
    if (!kept.recorded.empty()) words += "  " + text::printable(kept.recorded, longest);
    return words;
}

}  // namespace

int runTakes(const TakesOptions& options, std::ostream& out, std::ostream& err) {
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    bool trouble = false;
    nlohmann::ordered_json all = nlohmann::ordered_json::array();
    for (const KeptTake& kept : ensemble->takes) {
        const TakeLine line = lookAtTake(*ensemble, options.ensemble, kept, err);
        trouble = trouble || !line.problem.empty();
        if (options.json) {
            all.push_back(asJson(kept, line));
        } else {
            out << asText(kept, line) << '\n';
        }
    }
    if (options.json)
        out << all.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) << '\n';
    return endOf(out, err, trouble ? hasTrouble : clear);
}

namespace {

/// Calls each(line, number) for every line of a text, until it returns false.
template<class Each>
void forEachLine(std::string_view text, Each&& each) {
    for (std::size_t number = 1; !text.empty(); ++number) {
        const std::size_t end = std::min(text.find('\n'), text.size());
        if (!each(text.substr(0, end), number)) return;
        text.remove_prefix(std::min(end + 1, text.size()));
    }
}

/// Where a line stands, for a complaint.
std::string lineOf(std::size_t number) {
    return "standard input, line " + std::to_string(number);
}

/// Takes the lines of `feed`, one after the other.
class FeedReader {
 public:
    explicit FeedReader(engine::Names& ports) : ports_(ports) {}

    /// A line, with its port numbered; or why it is not as it should be, after which it counts for nothing.
    Result<engine::FeedLine> read(std::string_view words, std::size_t number) {
        auto line = engine::parseFeedLine(words, earliest_);
        if (!line) {
            Problem problem = line.problem();
            problem.where = lineOf(number);
            return problem;
        }
        const bool isNew = !ports_.find(line->port);
        if (isNew && ports_.size() >= engine::Hands::portCount) {
            return Problem{lineOf(number),
                           "the port " + text::quoted(line->port) + " is one more than the " +
                               std::to_string(engine::Hands::portCount) + " that can be told apart",
                           "use a port that came before"};
        }
        earliest_ = line->time;
        ports_.intern(line->port);
        return line;
    }

 private:
    engine::Names& ports_;
    std::int64_t earliest_ = 0;
};

/// The first line that is not as it should be. ports: takes the names of those that are used.
Outcome checkLines(std::string_view text, engine::Names& ports) {
    Outcome outcome = Done{};
    FeedReader reader(ports);
    forEachLine(text, [&](std::string_view words, std::size_t number) {
        const auto line = reader.read(words, number);
        if (!line) outcome = line.problem();
        return static_cast<bool>(line);
    });
    return outcome;
}

/// Reads a line of at most `longest` letters, without its end. Nothing at the end of the stream; of a longer
/// one its beginning, with the rest passed over.
std::optional<std::string> nextLine(std::istream& in, std::size_t longest) {
    std::string line;
    for (int letter = in.get(); letter != '\n'; letter = in.get()) {
        if (letter == std::istream::traits_type::eof())
            return line.empty() ? std::nullopt : std::optional(std::move(line));
        if (line.size() <= longest) line += static_cast<char>(letter);
    }
    return line;
}

/// An engine that lines are played into.
class Feeding {
 public:
    Feeding(engine::Program& program, engine::Names& ports, std::ostream& out)
        : program_(program), ports_(ports), out_(out), engine_(&program) {}

    void play(const engine::FeedLine& line) {
        if (!advance(line.time)) return;
        engine_.makeRoom();
        engine::playFeedLine(engine_, line, static_cast<engine::PortId>(ports_.intern(line.port)), sink_);
    }
    /// A second at a time, since whoever reads may have had enough of it. False when nobody reads any more.
    bool advance(std::int64_t until) {
        constexpr std::int64_t slice = 1'000'000;
        while (engine_.moving() && until - engine_.now() > slice) {
            engine_.advance(engine_.now() + slice, sink_);
            if (std::exchange(wrote_, false) && !out_.flush()) return false;
        }
        engine_.advance(until, sink_);
        return static_cast<bool>(out_);
    }

 private:
    engine::Program& program_;
    engine::Names& ports_;
    std::ostream& out_;
    engine::Engine engine_;
    bool wrote_ = false;
    std::function<void(const engine::Output&)> print_ = [this](const engine::Output& output) {
        out_ << engine::feedLine(program_.plan, output) << '\n';
        wrote_ = true;
    };
    engine::Sink sink_ = engine::sinkTo(print_);
};

/// Whoever writes to a pipe that stays open wants an answer to each line, and goes on after one that is
/// wrong.
int feedLive(Feeding& feeding, engine::Names& ports, std::ostream& out, std::ostream& err) {
    constexpr std::size_t longestLine = std::size_t{16} << 20;
    FeedReader reader(ports);
    int code = clear;
    for (std::size_t number = 1; out; ++number) {
        const auto words = nextLine(std::cin, longestLine);
        if (!words) break;
        const auto line =
            words->size() > longestLine
                ? Result<engine::FeedLine>(Problem{lineOf(number), "it is longer than 16 MB", ""})
                : reader.read(*words, number);
        if (line) {
            feeding.play(*line);
            out.flush();
        } else {
            code = refuse(err, line.problem());
            err.flush();
        }
    }
    return code;
}

}  // namespace

int runFeed(const FeedOptions& options, std::ostream& out, std::ostream& err) {
    if (const auto apart = checkFiles({options.ensemble, standardStream}, standardStream); !apart)
        return refuse(err, apart.problem());
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    const auto program = engine::compile(*ensemble);
    engine::Names ports = program->plan.numbering.ports;
    Feeding feeding(*program, ports, out);
    int code = clear;
    if (options.live) {
        warnOfSilence(*ensemble, err);
        code = feedLive(feeding, ports, out, err);
    } else {
        const auto text = files::readTextFile(standardStream);
        if (!text) return refuse(err, text.problem());
        if (const auto fine = checkLines(*text, ports); !fine) return refuse(err, fine.problem());
        warnOfSilence(*ensemble, err);
        forEachLine(*text, [&](std::string_view words, std::size_t) {
            feeding.play(*engine::parseFeedLine(words, 0));
            return static_cast<bool>(out);
        });
    }
    if (options.until) feeding.advance(*options.until);
    return endOf(out, err, code);
}

namespace {

/// A finding for programs: its place by ids, and its branch counted from 1.
nlohmann::ordered_json asJson(const Ensemble& ensemble, const Finding& finding) {
    nlohmann::ordered_json json;
    json["severity"] = finding.severity == Severity::trouble ? "trouble" : "note";
    json["place"] = nlohmann::ordered_json::object();
    const Place& place = finding.place;
    const Instrument* instrument = place.instrument ? &ensemble.instruments[*place.instrument] : nullptr;
    if (instrument != nullptr) json["place"]["instrument"] = instrument->id;
    if (place.chain) {
        const auto& chains = instrument != nullptr ? instrument->chains : ensemble.sharedChains;
        json["place"]["chain"] = chains[*place.chain].id;
    }
    if (place.branch) json["place"]["branch"] = *place.branch + 1;
    json["where"] = finding.problem.where;
    json["what"] = finding.problem.what;
    json["mend"] = finding.problem.mend;
    return json;
}

}  // namespace

int runCheck(const CheckOptions& options, std::ostream& out, std::ostream& err) {
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    bool trouble = false;
    std::string_view between = "";
    if (options.json) out << "[";
    for (const Finding& finding : check(*ensemble)) {
        const bool isTrouble = finding.severity == Severity::trouble;
        trouble = trouble || isTrouble;
        if (options.json) {
            out << between << "\n  "
                << asJson(*ensemble, finding)
                       .dump(-1, ' ', false, nlohmann::ordered_json::error_handler_t::replace);
            between = ",";
        } else {
            out << (isTrouble ? "trouble: " : "note: ") << finding.problem.sentence() << '\n';
        }
    }
    if (options.json) out << "\n]\n";
    return endOf(out, err, trouble ? hasTrouble : clear);
}

int runDescribe(const std::string& path, std::ostream& out, std::ostream& err) {
    constexpr std::size_t longestSentence = 2000;
    const auto ensemble = loadEnsemble(path);
    if (!ensemble) return refuse(err, ensemble.problem());
    const auto describe = [&](const std::string& owner, const Instrument* instrument, const Chain& chain) {
        const std::string sentence =
            owner + ", " + nameOf(chain) + ": " + describe::chainSentence(*ensemble, instrument, chain);
        out << text::printable(sentence, longestSentence) << '\n';
    };
    for (const Instrument& instrument : ensemble->instruments) {
        for (const Chain& chain : instrument.chains) describe(nameOf(instrument), &instrument, chain);
    }
    for (const Chain& chain : ensemble->sharedChains) describe("Shared", nullptr, chain);
    return endOf(out, err, clear);
}

int runSchema(std::ostream& out, std::ostream& err) {
    out << store::printSchema();
    return endOf(out, err, clear);
}

}  // namespace mellow::cli
