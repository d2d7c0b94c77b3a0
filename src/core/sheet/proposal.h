// What an edit of many rows would do, row by row, before anybody has decided to make it.
//
// A proposal is made by making the edit on a copy and looking at what the rows say then, so that what is
// shown is what will be: the copy itself is what a person agrees to.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/assignments/assignments.h"
#include "core/assignments/columns.h"

namespace mellow::sheet {

using Complaint = std::optional<std::string>;

/// A cell that would say something else.
struct CellChange {
    const AssignmentColumn* column = nullptr;
    std::string before;
    std::string after;
};

/// What becomes of a row.
struct Item {
    AssignmentId id;
    std::string name;  ///< "Mod wheel to Expression, Glass harmonium"
    std::vector<CellChange> cells;
    std::string becomes;  ///< what cells do not say: "goes", "is given to Weather drone"; may be empty
    Complaint complaint;  ///< why nothing can be done with it
    [[nodiscard]] bool changes() const { return !complaint && (!cells.empty() || !becomes.empty()); }
};

struct Proposal {
    std::vector<Item> items;  ///< those that change, and those that cannot, in the order they were given
    std::vector<std::string> remarks;  ///< what concerns no row of its own
    Ensemble after;
    std::size_t changed = 0;
    std::size_t refused = 0;
};

/// An edit of many rows at once: for each row why it cannot be, or nothing. It makes what it can.
struct Bulk {
    std::string name;  ///< as undo says it
    /// Columns whose cells it may change, for the proposal to look at.
    std::vector<std::string_view> columns;
    std::function<std::vector<Complaint>(Ensemble& ensemble, const std::vector<AssignmentId>& rows)> make;
    /// What becomes of a row that cells do not say; empty: they say it.
    std::string becomes = {};
};

Proposal proposalOf(const Ensemble& ensemble, const std::vector<AssignmentId>& rows, const Bulk& bulk);

/// "Mod wheel to Expression, Glass harmonium": a row in few words.
std::string rowName(const Ensemble& ensemble, const Assignment& row);

}  // namespace mellow::sheet
