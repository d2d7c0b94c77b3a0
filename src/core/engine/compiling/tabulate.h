// Folding: what is a function of a source's raw value becomes a table.
//
// A source yields 128 or 16,384 values, and each step that looks at nothing but its input takes them to as
// many others. So the trunk is folded as far as its steps allow (Trunk), and where it goes all the way and
// every branch can be folded too, what the chain sends is written out for each raw value (Table).
//
// Instruments are often built alike, and then so are their chains: what has been folded once is shared by all
// that would come to the same. Two chains come to the same when all the numbers that go into folding are the
// same, so these are put end to end and looked up as one key.
//
// A table is worth its making where it is read some hundred times. An ensemble of thousands of chains that
// all differ would be busy for long with tables of which few are ever read; so a compilation makes as many
// values as it may (`mostValues`), and what is left is evaluated, which takes twice as long and gives the
// same bytes.
#pragma once

#include <algorithm>
#include <memory>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/engine/program/plan.h"

namespace mellow::engine {

class Tabulator {
 public:
    /// The trunk of a chain with an ear that has raw values; nullptr where the budget is used up.
    std::shared_ptr<const Trunk> trunk(const Ear& ear, std::span<const Step> steps);

    /// The table of a chain whose trunk is folded all the way, or nullptr where there is no branch,
    /// one that cannot be folded, or no budget left.
    std::shared_ptr<const Table> table(const Trunk& trunk, std::span<const PlanBranch> branches);

 private:
    bool spend(std::size_t values);
    bool fill(const PlanBranch& branch, const Trunk& trunk, Payload* column, std::size_t stride);

    std::unordered_map<std::string, std::shared_ptr<const Trunk>> trunks_;
    std::unordered_map<std::string, std::shared_ptr<const Table>> tables_;
    std::string key_;
    static constexpr std::size_t mostValues = std::size_t{1} << 19;
    std::size_t left_ = mostValues;  ///< values that may still be made
    // Of the branch at hand: the positions inside its window, and whose they are.
    std::vector<double> inside_;
    std::vector<std::size_t> insideAt_;
};

}  // namespace mellow::engine
