// The calls of the command line, each a function from its options and streams to an exit status.
#pragma once

#include <cstdint>
#include <filesystem>
#include <iosfwd>
#include <optional>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/result.h"
#include "core/smf/read.h"

namespace mellow::cli {

inline constexpr int clear = 0;
inline constexpr int hasTrouble = 1;
inline constexpr int badInput = 2;

struct ApplyOptions {
    std::string ensemble;
    std::string input;  ///< a MIDI file; or
    std::string take;   ///< one of the ensemble's own takes, by name or id
    std::string output;
    std::vector<std::string> instruments;
    std::string port = "any";
    std::optional<double> from;  ///< seconds of a take; it is written from there
    std::optional<double> to;    ///< and up to there
};

struct TakesOptions {
    std::string ensemble;
    bool json = false;  ///< for programs
};

struct FeedOptions {
    std::string ensemble;
    std::optional<std::int64_t> until;  ///< microseconds
    bool live = false;                  ///< answer each line as it comes
};

struct CheckOptions {
    std::string ensemble;
    bool json = false;  ///< for programs
};

int runApply(const ApplyOptions& options, std::ostream& err);
int runTakes(const TakesOptions& options, std::ostream& out, std::ostream& err);
int runFeed(const FeedOptions& options, std::ostream& out, std::ostream& err);
int runCheck(const CheckOptions& options, std::ostream& out, std::ostream& err);
int runDescribe(const std::string& ensemble, std::ostream& out, std::ostream& err);
/// The JSON Schema of ensembles.
int runSchema(std::ostream& out, std::ostream& err);

// What calls share.

/// Says a problem in one sentence. The exit status for it.
int refuse(std::ostream& err, const Problem& problem);
/// Refuses an instrument that an ensemble does not have.
Outcome checkInstruments(const Ensemble& ensemble, const std::string& file,
                         const std::vector<std::string>& ids);
/// A take of an ensemble in a file, by name or id, with its bytes.
struct LoadedTake {
    KeptTake kept;
    std::filesystem::path path;
    std::vector<std::uint8_t> bytes;
};
Result<LoadedTake> loadTake(const Ensemble& ensemble, const std::string& ensemblePath,
                            const std::string& take);
/// Says what speaks against believing a take's file.
void warnOfDoubts(const LoadedTake& take, const std::vector<smf::Warning>& warnings, std::ostream& err);
/// Says on standard error which chains will stay silent, so that a result with less in it is no surprise.
void warnOfSilence(const Ensemble& ensemble, std::ostream& err);
/// An ensemble of at most 32,768 chains; "-" is standard input.
Result<Ensemble> loadEnsemble(const std::string& path);

}  // namespace mellow::cli
