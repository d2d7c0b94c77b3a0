// The sheet: every assignment of an ensemble in one table, as somebody wants to read it.
//
// There are two readings. By what I move, rows stand beside the control that moves them, controllers in their
// own order and their free controls among them; by what I hear, beside the parameter that is moved, and those
// that nothing moves among them. Either can be grouped by controller, instrument or port, folded, searched
// and sorted. A Sheet is made of an ensemble that does not change; arranging it costs what is in it, and
// search texts are worked out once, when something is searched for.
#pragma once

#include <memory>
#include <set>
#include <string>
#include <vector>

#include "core/assignments/assignments.h"
#include "core/assignments/columns.h"

namespace mellow::sheet {

enum class Reading { move, hear };
enum class Grouping { none, controller, instrument, port };

/// The grouping that a reading has by itself.
inline Grouping groupingOf(Reading by) {
    return by == Reading::move ? Grouping::controller : Grouping::instrument;
}

/// How somebody wants to read it.
struct Wish {
    Reading by = Reading::move;
    Grouping group = Grouping::controller;
    std::string find;                                         ///< as typed (assignments/search.h)
    const AssignmentColumn* sort = nullptr;                   ///< nullptr: in the reading's own order
    bool backwards = false;                                   ///< sorted from the end
    std::set<std::string> folded = {};                        ///< groups, by key
    std::shared_ptr<const std::set<AssignmentId>> only = {};  ///< these rows alone; nullptr: all
};

/// A head of a group, or a row below it.
struct Line {
    std::size_t group = 0;  ///< in Arranged::groups
    int row = -1;           ///< in Sheet::rows(); −1: the group's head
};

struct Group {
    std::string key;  ///< by which it is folded
    std::string title;
    std::string caption;    ///< what else is to be said of it: where it comes in, how much is free
    std::vector<int> rows;  ///< all that were found, folded or not
    bool isFolded = false;
};

struct Arranged {
    std::vector<Group> groups;
    std::vector<Line> lines;
    std::size_t found = 0;  ///< rows, folded or not
};

class Sheet {
 public:
    explicit Sheet(std::shared_ptr<const Ensemble> ensemble);

    [[nodiscard]] const Ensemble& ensemble() const { return *ensemble_; }
    [[nodiscard]] const std::vector<Assignment>& rows() const { return rows_; }
    /// Words that rows are found by beside what their columns say, one text a row, or none at all: what a
    /// window knows of how they stand now.
    void setWords(std::vector<std::string> words) { words_ = std::move(words); }

    [[nodiscard]] Arranged arranged(const Wish& wish) const;
    [[nodiscard]] std::string text(const AssignmentColumn& column, int row) const {
        return column.text(*ensemble_, rows_[static_cast<std::size_t>(row)]);
    }

 private:
    [[nodiscard]] std::vector<int> found(const Wish& wish) const;

    std::shared_ptr<const Ensemble> ensemble_;
    std::vector<Assignment> rows_;
    std::vector<std::string> words_;
    mutable std::vector<std::string> texts_;  ///< all that a row's columns say; empty: not worked out yet
};

}  // namespace mellow::sheet
