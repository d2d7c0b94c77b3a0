// What calls read, refused in one sentence where it is not as it should be, and how they end.
#pragma once

#include <filesystem>
#include <iosfwd>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/result.h"
#include "core/smf/read.h"

namespace mellow::cli {

inline constexpr int clear = 0;
inline constexpr int hasTrouble = 1;
inline constexpr int badInput = 2;
inline constexpr const char* standardStream = "-";

/// Says a problem in one sentence. The exit status for it.
int refuse(std::ostream& err, const Problem& problem);
/// Ends a call that has written to standard output: what could not be written there is an error.
int endOf(std::ostream& out, std::ostream& err, int code);

/// An ensemble of at most 32,768 chains; "-" is standard input.
Result<Ensemble> loadEnsemble(const std::string& path);
/// A MIDI file that nothing is missing of; what else is odd about it is said.
Result<smf::File> loadMidi(const std::string& path, std::ostream& err);
/// A take of an ensemble in a file, by name or id, with its bytes.
struct LoadedTake {
    KeptTake kept;
    std::filesystem::path path;
    std::vector<std::uint8_t> bytes;
};
Result<LoadedTake> loadTake(const Ensemble& ensemble, const std::string& ensemblePath,
                            const std::string& take);

/// Refuses two inputs from one stream, and an output that is one of the files that are read.
Outcome checkFiles(const std::vector<std::string>& inputs, const std::string& output);
/// Refuses an instrument that an ensemble does not have.
Outcome checkInstruments(const Ensemble& ensemble, const std::string& file,
                         const std::vector<std::string>& ids);
/// Says what speaks against believing a take's file.
void warnOfDoubts(const LoadedTake& take, const std::vector<smf::Warning>& warnings, std::ostream& err);
/// Says on standard error which chains will stay silent, so that a result with less in it is no surprise.
void warnOfSilence(const Ensemble& ensemble, std::ostream& err);

}  // namespace mellow::cli
