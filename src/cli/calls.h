// The calls of the command line, each a function from its options and streams to an exit status.
#pragma once

#include <cstdint>
#include <iosfwd>
#include <optional>
#include <string>
#include <vector>

namespace mellow::cli {

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

}  // namespace mellow::cli
