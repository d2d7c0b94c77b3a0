#include "cli/calls.h"

#include <algorithm>
#include <filesystem>
#include <iostream>

#include "core/checks/check.h"
#include "core/engine/compile.h"
#include "core/engine/engine.h"
#include "core/engine/feed.h"
#include "core/engine/file_run.h"
#include "core/smf/read.h"
#include "core/smf/write.h"
#include "core/store/ensemble_json.h"
#include "core/store/files.h"
#include "core/text/sentence.h"

namespace mellow::cli {

namespace {

int refuse(std::ostream& err, const Problem& problem) {
    err << problem.sentence() << ".\n";
    return badInput;
}

/// A problem inside a file, with the file in front of its place.
Problem inFile(const std::string& file, Problem problem) {
    problem.where = problem.where.empty() ? file : file + ", " + problem.where;
    return problem;
}

Result<Ensemble> loadEnsemble(const std::string& path) {
    auto text = store::readTextFile(path);
    if (!text) return text.problem();
    auto ensemble = store::parseEnsemble(*text);
    if (!ensemble) return inFile(path, ensemble.problem());
    return ensemble;
}

Result<smf::File> loadMidi(const std::string& path, std::ostream& err) {
    auto bytes = store::readFile(path);
    if (!bytes) return bytes.problem();
    auto reading = smf::read(*bytes);
    if (!reading) return inFile(path, reading.problem());
    if (const smf::Warning* loss = reading->firstLoss()) {
        return inFile(
            path, {"byte " + std::to_string(loss->offset), loss->what, "use an undamaged copy of the file"});
    }
    for (const smf::Warning& warning : reading->warnings) {
        err << "warning: " << path << ", byte " << warning.offset << ": " << warning.what << ".\n";
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

/// Says on standard error which chains will stay silent, so that a result with less in it is no surprise.
void warnOfSilence(const Ensemble& ensemble, std::ostream& err) {
    for (const Finding& finding : check(ensemble)) {
        if (finding.stops != Stops::nothing) err << "warning: " << finding.problem.sentence() << ".\n";
    }
}

Result<std::vector<engine::FeedLine>> readLines(std::istream& in) {
    std::vector<engine::FeedLine> lines;
    std::string text;
    std::int64_t earliest = 0;
    while (std::getline(in, text)) {
        auto line = engine::parseFeedLine(text, earliest);
        if (!line) {
            Problem problem = line.problem();
            problem.where = "standard input, line " + std::to_string(lines.size() + 1);
            return problem;
        }
        earliest = line->time;
        lines.push_back(std::move(*line));
    }
    return lines;
}

}  // namespace

int runApply(const ApplyOptions& options, std::ostream& err) {
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    for (const std::string& id : options.instruments) {
        if (findById(ensemble->instruments, id) != nullptr) continue;
        return refuse(
            err, {options.ensemble, "has no instrument with the id \"" + id + "\"", "use one of its ids"});
    }
    const auto input = loadMidi(options.input, err);
    if (!input) return refuse(err, input.problem());
    warnOfSilence(*ensemble, err);
    const auto results = engine::runFile(*ensemble, *input, {options.instruments, options.port});
    for (std::size_t i = 0; i < results.size(); ++i) {
        const std::string path = input->format == 2 ? numbered(options.output, i + 1) : options.output;
        const auto saved = store::writeFile(path, smf::write(results[i]));
        if (!saved) return refuse(err, saved.problem());
    }
    return clear;
}

int runFeed(const FeedOptions& options, std::istream& in, std::ostream& out, std::ostream& err) {
    const auto ensemble = loadEnsemble(options.ensemble);
    if (!ensemble) return refuse(err, ensemble.problem());
    const auto lines = readLines(in);
    if (!lines) return refuse(err, lines.problem());
    warnOfSilence(*ensemble, err);

    const auto program = engine::compile(*ensemble);
    engine::Engine engine(program.get());
    engine::Names ports = program->plan.numbering.ports;
    auto print = [&](const engine::Output& output) {
        out << engine::feedLine(program->plan, output) << '\n';
    };
    const engine::Sink sink = engine::sinkTo(print);
    for (const engine::FeedLine& line : *lines)
        engine::playFeedLine(engine, line, static_cast<engine::PortId>(ports.intern(line.port)), sink);
    if (options.until) engine.advance(*options.until, sink);
    return clear;
}

int runCheck(const std::string& path, std::ostream& out, std::ostream& err) {
    const auto ensemble = loadEnsemble(path);
    if (!ensemble) return refuse(err, ensemble.problem());
    bool trouble = false;
    for (const Finding& finding : check(*ensemble)) {
        const bool isTrouble = finding.severity == Severity::trouble;
        trouble = trouble || isTrouble;
        out << (isTrouble ? "trouble: " : "note: ") << finding.problem.sentence() << '\n';
    }
    return trouble ? hasTrouble : clear;
}

int runDescribe(const std::string& path, std::ostream& out, std::ostream& err) {
    const auto ensemble = loadEnsemble(path);
    if (!ensemble) return refuse(err, ensemble.problem());
    for (const Instrument& instrument : ensemble->instruments) {
        for (const Chain& chain : instrument.chains) {
            out << nameOf(instrument) << ", " << nameOf(chain) << ": "
                << text::chainSentence(*ensemble, &instrument, chain) << '\n';
        }
    }
    for (const Chain& chain : ensemble->sharedChains) {
        out << "Shared, " << nameOf(chain) << ": " << text::chainSentence(*ensemble, nullptr, chain) << '\n';
    }
    return clear;
}

}  // namespace mellow::cli
