// The call `compare`: what differs between two ensembles, a sentence each.
#pragma once

#include <iosfwd>
#include <string>

namespace mellow::cli {

struct CompareOptions {
    std::string one;
    std::string other;
    bool json = false;  ///< for programs
};

/// 0: they are the same; 1: they differ; 2: one cannot be read.
int runCompare(const CompareOptions& options, std::ostream& out, std::ostream& err);

}  // namespace mellow::cli
