// What a row of assignments says, column by column: how it reads, how it is sorted, and what typing into it
// does.
//
// Cells read as the window says things elsewhere, in units and names; what reads so can be typed so. A column
// that is only read has no `set`. What is live, where a hand stands just now and whether a chain speaks, is
// no affair of the ensemble, and is added by whoever knows.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>

#include "core/assignments/assignments.h"

namespace mellow {

struct AssignmentColumn {
    std::string_view key;    ///< in settings and files
    std::string_view title;  ///< on screen
    std::string_view tip;    ///< one sentence
    std::string (*text)(const Ensemble&, const Assignment&);
    /// By which it is sorted before its text is; nothing: it stands behind those that have one. Null: by
    /// text.
    std::optional<double> (*number)(const Ensemble&, const Assignment&) = nullptr;
    /// Puts what is typed where an id says. Why not, a sentence without its full stop; nothing: it is done,
    /// and otherwise the ensemble is as before. Null: it is only read.
    std::optional<std::string> (*set)(Ensemble&, const AssignmentId&, std::string_view typed) = nullptr;
};

std::span<const AssignmentColumn> assignmentColumns();
/// By its key; nullptr: there is none.
const AssignmentColumn* findAssignmentColumn(std::string_view key);

/// Types into a cell. Why it cannot be, a sentence without its full stop, and then the ensemble is as before;
/// nothing: it is done. What the cell says already changes nothing, however roughly it says it.
std::optional<std::string> typeInto(Ensemble& ensemble, const AssignmentColumn& column,
                                    const AssignmentId& id, std::string_view typed);

/// By what a row is sorted in a column, worked out once a row.
struct SortKey {
    std::optional<double> number;
    std::string text;  ///< without regard to case; empty where there is a number
    [[nodiscard]] bool isEmpty() const { return !number && text.empty(); }
};
SortKey sortKeyOf(const Ensemble& ensemble, const AssignmentColumn& column, const Assignment& row);
/// By number where both have one, else what has one first, else by text.
bool standsBefore(const SortKey& one, const SortKey& other);

}  // namespace mellow
