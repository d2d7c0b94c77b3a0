// The calls of the command line, each a function from its options and streams to an exit status.
#pragma once

#include <cstdint>
#include <iosfwd>
#include <optional>
#include <string>
#include <vector>

#include "core/model/ensemble.h"
#include "core/result.h"

namespace mellow::cli {

inline constexpr int clear = 0;
inline constexpr int hasTrouble = 1;
inline constexpr int badInput = 2;

struct ApplyOptions {
    std::string ensemble;
    std::string input;
    std::string output;
    std::vector<std::string> instruments;
    std::string port = "any";
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
int runFeed(const FeedOptions& options, std::ostream& out, std::ostream& err);
int runCheck(const CheckOptions& options, std::ostream& out, std::ostream& err);
int runDescribe(const std::string& ensemble, std::ostream& out, std::ostream& err);
/// The JSON Schema of ensembles.
int runSchema(std::ostream& out, std::ostream& err);

// What calls share.

/// Says a problem in one sentence. The exit status for it.
int refuse(std::ostream& err, const Problem& problem);
/// An ensemble of at most 32,768 chains; "-" is standard input.
Result<Ensemble> loadEnsemble(const std::string& path);

}  // namespace mellow::cli
