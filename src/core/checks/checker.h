// The checker: checks after each edit, at the price of what the edit touched.
//
// Most of what an edit leaves alone is recognised by its address, since copies of an ensemble share their
// instruments (model/shared_list.h): such an instrument keeps its record. In one that was edited, chains that
// are equal to what they were keep theirs, as long as the rest of the instrument and what chains refer to
// stay. Only whole rules look again each time, and they read digests.
//
// For one thread.
#pragma once

#include <memory>
#include <vector>

#include "core/checks/check.h"

namespace mellow {

/// Findings that stand elsewhere.
using FindingRefs = std::vector<const Finding*>;

class Checker {
 public:
    Checker();
    ~Checker();
    Checker(const Checker&) = delete;
    Checker& operator=(const Checker&) = delete;

    /// Every finding, as check() tells them. The ensemble is kept until the next call, and must not change:
    /// its instruments are known by their addresses.
    /// What is returned is good until the next call.
    const FindingRefs& check(std::shared_ptr<const Ensemble> ensemble);

 private:
    struct Memory;
    std::unique_ptr<Memory> memory_;
};

}  // namespace mellow
