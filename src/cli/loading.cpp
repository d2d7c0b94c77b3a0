// What is read is read whole before anything is done with it.
#include "cli/loading.h"

#include <algorithm>
#include <ostream>
#include <string_view>
#include <unordered_set>
#include <utility>

#include "core/checks/check.h"
#include "core/engine/playing/engine.h"
#include "core/files/files.h"
#include "core/store/ensemble_json.h"
#include "core/takes/take_folder.h"
#include "core/text/printable.h"

namespace mellow::cli {

/// Ends a call that has written to standard output: what could not be written there is an error.
int endOf(std::ostream& out, std::ostream& err, int code) {
    if (out.flush()) return code;
    return refuse(err,
                  {"standard output", "not all of it could be written", "make room, or write elsewhere"});
}

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

}  // namespace mellow::cli
